/** Covers a screen that was left alone, and asks for the password. What was being typed stays under the cover. */
import { Button, PasswordInput } from "@mantine/core";
import { useMutation, useQuery } from "@tanstack/react-query";
import { type FormEvent, type ReactNode, useEffect, useRef, useState } from "react";
import { api, readyToWrite, take } from "../api/client";
import { meQuery } from "../api/queries";
import css from "./Lock.module.css";
import { Trouble } from "./parts";
import { isTreating } from "./treating";

const COVERED = "acuthesis-covered"; // outlives a reload: a cover that a reload takes off is none
const USUAL_MINUTES = 10;
const SIGNS = ["pointerdown", "pointermove", "keydown", "wheel", "touchstart"] as const;

export function Lock({ children }: { children: ReactNode }) {
  const me = useQuery(meQuery);
  const [covered, setCovered] = useState(() => localStorage.getItem(COVERED) === "1");
  const minutes = me.data?.lock_minutes ?? USUAL_MINUTES; // also while the server is away

  useEffect(() => {
    if (covered) return;
    let last = Date.now();
    const seen = () => {
      last = Date.now();
    };
    for (const sign of SIGNS) window.addEventListener(sign, seen, { passive: true });
    const timer = setInterval(() => {
      if (isTreating())
        seen(); // hands are busy: never while a treatment runs
      else if (Date.now() - last >= minutes * 60_000) {
        localStorage.setItem(COVERED, "1");
        setCovered(true);
      }
    }, 1000);
    return () => {
      clearInterval(timer);
      for (const sign of SIGNS) window.removeEventListener(sign, seen);
    };
  }, [covered, minutes]);

  const open = () => {
    localStorage.removeItem(COVERED);
    setCovered(false);
  };
  return (
    <>
      <div className={css.under} inert={covered} data-covered={covered || undefined}>
        {children}
      </div>
      {covered && <Cover name={me.data?.name} onOpen={open} />}
    </>
  );
}

/** Somebody signs in or out: nothing is covered any more. */
export const uncover = () => localStorage.removeItem(COVERED);

function Cover({ name, onOpen }: { name: string | undefined; onOpen: () => void }) {
  const [password, setPassword] = useState("");
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => field.current?.focus(), []);
  const unlock = useMutation({
    mutationFn: async () => {
      await readyToWrite();
      await take(api.POST("/api/unlock", { body: { password } }));
    },
    onSuccess: onOpen,
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    unlock.mutate();
  };
  return (
    <div className={css.cover} role="dialog" aria-modal="true" aria-label="Screen covered">
      <form onSubmit={submit}>
        <h1>Screen covered</h1>
        <p>{name ? `${name} is signed in.` : "Somebody is signed in."} Enter the password to continue.</p>
        <PasswordInput
          ref={field}
          label="Password"
          autoComplete="current-password"
          value={password}
          onChange={(event) => setPassword(event.currentTarget.value)}
          size="md"
        />
        {unlock.isError && <Trouble error={unlock.error} />}
        <Button type="submit" size="md" loading={unlock.isPending}>
          Uncover
        </Button>
      </form>
    </div>
  );
}
