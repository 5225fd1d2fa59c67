/** Two-step verification with an authenticator: set up, confirmed with a code, recovery codes shown once, turned off. */
import { Button, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, type ReactNode, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { meQuery } from "../../api/queries";
import desk from "../../shared/desk.module.css";
import { ErrorPanel } from "../../shared/parts";
import { YourPassword } from "./YourPassword";

export function SecondFactor({ me }: { me: Schema["Me"] }) {
  const queries = useQueryClient();
  const [offered, setOffered] = useState<Schema["Offered"]>();
  const [codes, setCodes] = useState<string[]>();
  const done = (recovery: string[]) => {
    setOffered(undefined);
    setCodes(recovery);
    void queries.invalidateQueries(meQuery);
  };
  return (
    <section className={desk.section}>
      <h2>Two-step verification</h2>
      {codes ? (
        <Recovery codes={codes} onKept={() => setCodes(undefined)} />
      ) : offered ? (
        <Confirm offered={offered} onDone={done} />
      ) : me.second_factor ? (
        <SwitchOff />
      ) : (
        <Offer onOffered={setOffered} />
      )}
    </section>
  );
}

function Offer({ onOffered }: { onOffered: (offered: Schema["Offered"]) => void }) {
  return (
    <WithPassword
      action="Set up"
      run={(password) => take(api.POST("/api/me/second-factor", { body: { password } }))}
      onDone={onOffered}
    >
      <p>With an authenticator app on your phone, a stolen password is not enough to sign in.</p>
    </WithPassword>
  );
}

function SwitchOff() {
  const queries = useQueryClient();
  return (
    <WithPassword
      action="Turn off"
      withCode
      run={(password, code) => take(api.POST("/api/me/second-factor/off", { body: { password, code } }))}
      onDone={() => void queries.invalidateQueries(meQuery)}
    >
      <p>On. Each sign-in asks for a code from your authenticator.</p>
    </WithPassword>
  );
}

type Ask<T> = {
  action: string;
  /** Whether a code from the authenticator, or a recovery code, is asked for as well. */
  withCode?: boolean;
  run: (password: string, code: string) => Promise<T>;
  onDone: (answer: T) => void;
  children: ReactNode;
};

/** Something that asks for the password once more. */
function WithPassword<T>({ action, withCode = false, run, onDone, children }: Ask<T>) {
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const asked = useMutation({
    mutationFn: () => run(password, code),
    onSuccess: (answer) => {
      setPassword("");
      onDone(answer);
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    asked.mutate();
  };
  return (
    <form className={desk.form} onSubmit={submit}>
      {children}
      <YourPassword value={password} onChange={setPassword} />
      {withCode && (
        <TextInput
          label="Code"
          description="From your authenticator, or a recovery code"
          autoComplete="one-time-code"
          required
          withAsterisk={false}
          value={code}
          onChange={(event) => setCode(event.currentTarget.value)}
        />
      )}
      {asked.isError && <ErrorPanel error={asked.error} />}
      <div className={desk.buttons}>
        <Button type="submit" variant="default" loading={asked.isPending}>
          {action}
        </Button>
      </div>
    </form>
  );
}

function Confirm({ offered, onDone }: { offered: Schema["Offered"]; onDone: (codes: string[]) => void }) {
  const [code, setCode] = useState("");
  const confirm = useMutation({
    mutationFn: () => take(api.POST("/api/me/second-factor/confirm", { body: { code } })),
    onSuccess: (answer) => onDone([...answer.codes]),
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    confirm.mutate();
  };
  return (
    <form className={desk.form} onSubmit={submit}>
      <p>Scan this with your authenticator, or type the key into it. Then enter the code it shows.</p>
      <img
        src={`data:image/svg+xml;utf8,${encodeURIComponent(offered.qr_svg)}`}
        alt="QR code for your authenticator"
        width="220"
        height="220"
      />
      <p>
        Key: <code data-testid="secret">{offered.secret}</code>
      </p>
      <TextInput
        label="Code"
        inputMode="numeric"
        autoComplete="one-time-code"
        required
        withAsterisk={false}
        value={code}
        onChange={(event) => setCode(event.currentTarget.value)}
      />
      {confirm.isError && <ErrorPanel error={confirm.error} />}
      <div className={desk.buttons}>
        <Button type="submit" loading={confirm.isPending}>
          Confirm
        </Button>
      </div>
    </form>
  );
}

export function Recovery({ codes, onKept }: { codes: string[]; onKept: () => void }) {
  return (
    <>
      <p>
        Two-step verification is on. If you lose your phone, each of these codes signs you in once. Write them down;
        they are not shown again.
      </p>
      <ul className={desk.link} aria-label="Recovery codes">
        {codes.map((code) => (
          <code key={code}>{code}</code>
        ))}
      </ul>
      <div className={desk.buttons}>
        <Button onClick={onKept}>I have written them down</Button>
      </div>
    </>
  );
}
