/** With the server away: what this device keeps is opened with its PIN or its passkey. */
import { Button, TextInput } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { type FormEvent, useEffect, useState } from "react";
import { type Locks, locks, openByPasskey, openByPin, owner } from "../../treatment/device";
import { unlocked } from "../../treatment/locked";
import { WaitingEntries } from "../../treatment/WaitingEntries";
import { wrongPin } from "../shell/Lock";
import css from "../sign-in/SignInScreen.module.css";

export function OfflineScreen() {
  const { next } = useSearch({ from: "/offline" });
  const navigate = useNavigate();
  const [name, setName] = useState("");
  const [by, setBy] = useState<Locks>();
  const [pin, setPin] = useState("");
  const [said, setSaid] = useState("");
  const look = async () => {
    setName((await owner())?.name ?? "");
    setBy(await locks());
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when the screen opens
  useEffect(() => void look(), []);
  const go = () => void navigate({ href: next?.startsWith("/") ? next : "/" });
  const open = useMutation({
    mutationFn: async (passkey: boolean) => {
      if (passkey) return (await openByPasskey()) ? null : "The passkey was not used. Try again, or enter the PIN.";
      const left = await openByPin(pin);
      return left === null ? null : wrongPin(left);
    },
    onSuccess: async (problem) => {
      setPin("");
      if (problem === null) {
        unlocked();
        return go();
      }
      setSaid(problem);
      await look();
    },
    onError: () => setSaid("The passkey was not used. Try again, or enter the PIN."),
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    open.mutate(false);
  };
  return (
    <main className={css.page}>
      <form className={css.form} onSubmit={submit}>
        <div className={css.mark}>
          <img src="/mark.svg" alt="" width="44" height="44" />
          <h1>Acuthesis</h1>
        </div>
        <p role="status">The server is not responding.</p>
        {by?.pin && (
          <TextInput
            label={`PIN of ${name}`}
            description="Opens what is stored on this device for today"
            type="password"
            inputMode="numeric"
            autoComplete="off"
            autoFocus
            size="md"
            value={pin}
            onChange={(event) => setPin(event.currentTarget.value)}
          />
        )}
        {by && !by.pin && !by.passkey && !said && (
          <p>To open this device offline, set a PIN or a passkey under Your account while you are signed in.</p>
        )}
        {said && <p role="alert">{said}</p>}
        {by?.pin && (
          <Button type="submit" size="md" loading={open.isPending}>
            Open offline
          </Button>
        )}
        {by?.passkey && (
          <Button variant="default" onClick={() => open.mutate(true)}>
            Use a passkey
          </Button>
        )}
        <Button variant="default" onClick={go}>
          Try the server again
        </Button>
        <WaitingEntries />
      </form>
    </main>
  );
}
