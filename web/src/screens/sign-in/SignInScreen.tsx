/** Signing in. */
import { Button, PasswordInput, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { ApiError, api, type Schema, take } from "../../api/client";
import { enter } from "../../api/queries";
import { ErrorPanel } from "../../shared/parts";
import { canUsePasskeys, passkeyProblem, showPasskey } from "../../shared/passkeys";
import { arrived } from "../../treatment/session";
import { WaitingEntries } from "../../treatment/WaitingEntries";
import css from "./SignInScreen.module.css";

export function SignInScreen() {
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const { next } = useSearch({ from: "/sign-in" });
  const navigate = useNavigate();
  const queries = useQueryClient();
  const go = async (me: Schema["Me"]) => {
    arrived();
    await enter(me);
    queries.clear(); // a session that ran out may have been somebody else's
    queries.setQueryData(["me"], me);
    void navigate({ href: next?.startsWith("/") ? next : "/" });
  };
  const signIn = useMutation({
    mutationFn: () => take(api.POST("/api/sign-in", { body: { email, password, code: code.trim() || null } })),
    onSuccess: go,
  });
  const byPasskey = useMutation({
    mutationFn: async () => take(api.POST("/api/sign-in/passkey", { body: await showPasskey() })),
    onSuccess: go,
  });
  const failed = signIn.error instanceof ApiError ? signIn.error.problem : undefined;
  const [asked, setAsked] = useState(false);
  if (failed?.code === "second_factor" && !asked) setAsked(true);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    signIn.mutate();
  };
  return (
    <main className={css.page}>
      <form className={css.form} onSubmit={submit}>
        <div className={css.mark}>
          <img src="/mark.svg" alt="" width="44" height="44" />
          <h1>Acuthesis</h1>
        </div>
        {next && !signIn.isError && <p role="status">Sign in to continue where you left off.</p>}
        <TextInput
          label="Email"
          autoComplete="username"
          value={email}
          onChange={(event) => setEmail(event.currentTarget.value)}
          required
          withAsterisk={false}
          size="md"
        />
        <PasswordInput
          label="Password"
          autoComplete="current-password"
          value={password}
          onChange={(event) => setPassword(event.currentTarget.value)}
          required
          withAsterisk={false}
          size="md"
        />
        {asked && (
          <TextInput
            label="Code"
            description="From your authenticator, or a recovery code"
            autoComplete="one-time-code"
            data-autofocus
            autoFocus
            value={code}
            onChange={(event) => setCode(event.currentTarget.value)}
            size="md"
          />
        )}
        {signIn.isError && failed?.code !== "second_factor" && <ErrorPanel error={signIn.error} />}
        <Button type="submit" size="md" loading={signIn.isPending}>
          Sign in
        </Button>
        {canUsePasskeys() && (
          <Button variant="default" size="md" loading={byPasskey.isPending} onClick={() => byPasskey.mutate()}>
            Sign in with a passkey
          </Button>
        )}
        {byPasskey.isError &&
          (passkeyProblem(byPasskey.error) ? (
            <p role="alert">{passkeyProblem(byPasskey.error)}</p>
          ) : (
            <ErrorPanel error={byPasskey.error} />
          ))}
        <WaitingEntries />
        <p className={css.words}>
          Acuthesis supports care; it does not replace it and does not diagnose. Follow the laws and registration rules
          that apply where you work.
        </p>
      </form>
    </main>
  );
}
