/** Security of one's account on this device: PIN, passkeys, and what happened to the account. */
import { Button, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { meQuery } from "../../api/queries";
import desk from "../../shared/desk.module.css";
import { ErrorPanel } from "../../shared/parts";
import { canUsePasskeys, makePasskey, passkeyProblem } from "../../shared/passkeys";
import { clock, dateOf } from "../../shared/words";
import { protectByPasskey, protectByPin } from "../../treatment/device";
import { noticesQuery, noticeWords } from "./notices";
import { Recovery } from "./SecondFactor";
import { YourPassword } from "./YourPassword";

type Me = Schema["Me"];
const passkeysQuery = { queryKey: ["me", "passkeys"], queryFn: () => take(api.GET("/api/me/passkeys")) };

export function Pin({ me }: { me: Me }) {
  const queries = useQueryClient();
  const [password, setPassword] = useState("");
  const [pin, setPin] = useState("");
  const change = useMutation({
    mutationFn: async (wanted: string | null) => {
      await take(api.PUT("/api/me/pin", { body: { password, pin: wanted } }));
      await protectByPin(me, wanted);
    },
    onSuccess: (_, wanted) => {
      setPassword("");
      setPin("");
      void queries.invalidateQueries(meQuery);
      notifications.show({ message: wanted ? "PIN set. This device opens offline with it." : "PIN removed." });
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    change.mutate(pin);
  };
  return (
    <section className={desk.section}>
      <h2>PIN</h2>
      <p className={desk.note}>
        Four to twelve digits. Unlocks the screen, and opens this device when the server is not responding. Without a
        PIN or a passkey it cannot be opened offline.
      </p>
      <form className={desk.form} onSubmit={submit}>
        <YourPassword value={password} onChange={setPassword} />
        <TextInput
          label={me.has_pin ? "New PIN" : "PIN"}
          type="password"
          inputMode="numeric"
          autoComplete="off"
          pattern="\d{4,12}"
          required
          withAsterisk={false}
          value={pin}
          onChange={(event) => setPin(event.currentTarget.value.replace(/\D/g, ""))}
        />
        {change.isError && <ErrorPanel error={change.error} />}
        <div className={desk.buttons}>
          <Button type="submit" variant="default" loading={change.isPending}>
            {me.has_pin ? "Change PIN" : "Set PIN"}
          </Button>
          {me.has_pin && (
            <Button variant="default" disabled={!password} onClick={() => change.mutate(null)}>
              Remove PIN
            </Button>
          )}
        </div>
      </form>
    </section>
  );
}

export function Passkeys({ me }: { me: Me }) {
  const queries = useQueryClient();
  const keys = useQuery(passkeysQuery);
  const [password, setPassword] = useState("");
  const [name, setName] = useState("");
  const [codes, setCodes] = useState<string[]>([]);
  const done = () => {
    setPassword("");
    setName("");
    void queries.invalidateQueries(meQuery);
    void queries.invalidateQueries(passkeysQuery);
  };
  const add = useMutation({
    mutationFn: async () => {
      const { token, credential, id } = await makePasskey(password);
      const kept = await take(api.POST("/api/me/passkeys", { body: { token, credential, name } }));
      const offline = await protectByPasskey(me, id).catch(() => false);
      return { codes: kept.recovery_codes, offline };
    },
    onSuccess: ({ codes: fresh, offline }) => {
      done();
      setCodes([...fresh]);
      notifications.show({
        message: offline
          ? "Passkey added. It signs you in, unlocks the screen, and opens this device offline."
          : "Passkey added. It signs you in and unlocks the screen. To open this device offline, set a PIN.",
      });
    },
  });
  const remove = useMutation({
    mutationFn: (passkey_id: string) =>
      take(api.DELETE("/api/me/passkeys/{passkey_id}", { params: { path: { passkey_id } }, body: { password } })),
    onSuccess: done,
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    add.mutate();
  };
  const failed = add.error ?? remove.error;
  const problem = passkeyProblem(failed);
  return (
    <section className={desk.section}>
      <h2>Passkeys</h2>
      {codes.length > 0 && <Recovery codes={codes} onKept={() => setCodes([])} />}
      <p className={desk.note}>
        A passkey signs you in with a finger, a face or a PIN of your device, in place of password and code.
      </p>
      {(keys.data?.length ?? 0) > 0 && (
        <table className={desk.table}>
          <tbody>
            {keys.data?.map((key) => (
              <tr key={key.id}>
                <td>{key.name}</td>
                <td className={desk.figures}>
                  {key.used_at ? `last used ${dateOf(key.used_at)}` : `added ${dateOf(key.created_at)}`}
                </td>
                <td>
                  <Button
                    size="compact-sm"
                    variant="default"
                    disabled={!password}
                    title={password ? undefined : "Enter your password first"}
                    onClick={() => remove.mutate(key.id)}
                  >
                    Remove
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {canUsePasskeys() ? (
        <form className={desk.form} onSubmit={submit}>
          <YourPassword value={password} onChange={setPassword} />
          <TextInput
            label="Name of the passkey"
            placeholder="Tablet in the treatment room"
            required
            withAsterisk={false}
            value={name}
            onChange={(event) => setName(event.currentTarget.value)}
          />
          {failed && (problem ? <p role="alert">{problem}</p> : <ErrorPanel error={failed} />)}
          <div className={desk.buttons}>
            <Button type="submit" variant="default" loading={add.isPending}>
              Add a passkey
            </Button>
          </div>
        </form>
      ) : (
        <p className={desk.note}>
          Passkeys need a host name with HTTPS, or localhost. At this address your browser does not offer them.
        </p>
      )}
    </section>
  );
}

export function SecurityEvents() {
  const events = useQuery(noticesQuery);
  if (!events.data?.length) return null;
  return (
    <section className={desk.section}>
      <h2>Security events</h2>
      <table className={desk.table}>
        <tbody>
          {events.data.map((event) => (
            <tr key={event.id}>
              <td>{noticeWords[event.kind]}</td>
              <td>{[event.device, event.address].filter(Boolean).join(", ")}</td>
              <td className={desk.figures}>
                {dateOf(event.at)} {clock(event.at)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
