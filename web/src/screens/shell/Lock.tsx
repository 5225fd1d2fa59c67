/** Locks a screen that was left alone. The lock is the server's: until it is unlocked with the password, the PIN or a
 * passkey, the session reads nothing, whatever happens in this browser. What was being typed stays under it. */
import { Button, PasswordInput, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, type ReactNode, useEffect, useRef, useState, useSyncExternalStore } from "react";
import { ApiError, api, setCsrf, take } from "../../api/client";
import { enter, meQuery } from "../../api/queries";
import { ErrorPanel } from "../../shared/parts";
import { canUsePasskeys, passkeyProblem, showPasskey } from "../../shared/passkeys";
import { isTreating } from "../../shared/treating";
import { locks, openByPin, protectByPin } from "../../treatment/device";
import { hearLocked, isLocked, lockScreen, tellOwedLock, unlocked } from "../../treatment/locked";
import { leave } from "../../treatment/session";
import css from "./Lock.module.css";

const USUAL_MINUTES = 10;
const SIGNS = ["pointerdown", "pointermove", "keydown", "wheel", "touchstart"] as const;
/** What to say of a wrong PIN with so many tries left. */
export const wrongPin = (left: number) =>
  left === 0
    ? "Incorrect PIN. This device can be opened again when the server responds: sign in then."
    : `Incorrect PIN. ${left} ${left === 1 ? "try" : "tries"} left.`;

export function Lock({ children }: { children: ReactNode }) {
  const queries = useQueryClient();
  const covered = useSyncExternalStore(hearLocked, isLocked);
  const me = useQuery({ ...meQuery, enabled: !covered });
  const minutes = me.data?.lock_minutes ?? USUAL_MINUTES; // also while the server is away
  // What a reload found locked was never open on this page, and is not drawn under the lock.
  const [opened, setOpened] = useState(!covered);

  useEffect(() => {
    if (covered) return;
    setOpened(true);
    let last = Date.now();
    const seen = () => {
      last = Date.now();
    };
    for (const sign of SIGNS) window.addEventListener(sign, seen, { passive: true });
    const timer = setInterval(() => {
      if (isTreating())
        seen(); // hands are busy: never while a treatment runs
      else if (Date.now() - last >= minutes * 60_000) {
        void lockScreen();
      }
    }, 1000);
    return () => {
      clearInterval(timer);
      for (const sign of SIGNS) window.removeEventListener(sign, seen);
    };
  }, [covered, minutes]);

  return (
    <>
      <div className={css.under} inert={covered} data-covered={covered || undefined}>
        {opened && children}
      </div>
      {covered && (
        <Cover
          onOpen={() => {
            unlocked();
            void queries.invalidateQueries();
          }}
        />
      )}
    </>
  );
}

function Cover({ onOpen }: { onOpen: () => void }) {
  const queries = useQueryClient();
  const session = useQuery({
    queryKey: ["session"],
    queryFn: async () => {
      await tellOwedLock();
      const state = await take(api.GET("/api/session"));
      setCsrf(state.csrf);
      return state;
    },
    staleTime: 0,
    refetchInterval: ({ state }) => (state.data ? false : 3000),
  });
  const [byPassword, setByPassword] = useState(false);
  const [typed, setTyped] = useState("");
  // With the server away the PIN of this device opens what the device keeps, as it would after a reload.
  const here = useQuery({ queryKey: ["device-locks"], queryFn: locks, staleTime: 0 });
  const pin = !byPassword && (session.data?.has_pin ?? here.data?.pin ?? false);
  const field = useRef<HTMLInputElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another field is asked for
  useEffect(() => field.current?.focus(), [pin]);
  const unlock = useMutation({
    mutationFn: async (passkey: boolean) => {
      if (session.isError && pin && !passkey) {
        const left = await openByPin(typed);
        if (left !== null) throw new ApiError(422, { code: "pin", message: wrongPin(left), where: "pin", details: [] });
        unlocked();
        return;
      }
      const me = passkey
        ? await take(api.POST("/api/unlock/passkey", { body: await showPasskey() }))
        : await take(api.POST("/api/unlock", { body: pin ? { pin: typed } : { password: typed } }));
      await enter(me);
      queries.setQueryData(meQuery.queryKey, me);
      if (pin && !passkey) await protectByPin(me, typed); // this device opens with it offline, too
    },
    onSuccess: onOpen,
    onError: () => setTyped(""),
  });
  const away = useMutation({ mutationFn: () => leave(), onSettled: () => window.location.assign("/sign-in") });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    unlock.mutate(false);
  };
  const problem = passkeyProblem(unlock.error);
  if (session.isPending)
    return <div className={css.cover} role="dialog" aria-modal="true" aria-label="Screen locked" />;
  const asked = {
    ref: field,
    value: typed,
    onChange: (event: { currentTarget: { value: string } }) => setTyped(event.currentTarget.value),
    size: "md",
  } as const;
  return (
    <div className={css.cover} role="dialog" aria-modal="true" aria-label="Screen locked">
      <form onSubmit={submit}>
        <h1>Screen locked</h1>
        <p>
          {session.data ? `${session.data.name} is signed in.` : "Someone is signed in."} Enter the{" "}
          {pin ? "PIN" : "password"} to continue.
        </p>
        {session.isError && <ErrorPanel error={session.error} />}
        {pin ? (
          <TextInput {...asked} label="PIN" type="password" inputMode="numeric" autoComplete="off" maxLength={12} />
        ) : (
          <PasswordInput {...asked} label="Password" autoComplete="current-password" />
        )}
        {unlock.isError && (problem ? <p role="alert">{problem}</p> : <ErrorPanel error={unlock.error} />)}
        <Button type="submit" size="md" loading={unlock.isPending}>
          Unlock
        </Button>
        {canUsePasskeys() && (
          <Button variant="default" onClick={() => unlock.mutate(true)}>
            Use a passkey
          </Button>
        )}
        {session.data?.has_pin && (
          <Button variant="subtle" onClick={() => setByPassword(!byPassword)}>
            {pin ? "Use the password" : "Use the PIN"}
          </Button>
        )}
        <Button variant="subtle" loading={away.isPending} onClick={() => away.mutate()}>
          Sign out
        </Button>
      </form>
    </div>
  );
}
