/** A new password, by a link that an owner of the practice made. */
import { Button, PasswordInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, take } from "../../api/client";
import { ErrorPanel } from "../../shared/parts";
import { Welcome } from "./Welcome";
import css from "./Welcome.module.css";

export function NewPasswordScreen() {
  return <Welcome kind="reset">{(_, token) => <NewPassword token={token} />}</Welcome>;
}

function NewPassword({ token }: { token: string }) {
  const [password, setPassword] = useState("");
  const navigate = useNavigate();
  const reset = useMutation({
    mutationFn: () => take(api.POST("/api/links/reset", { body: { token, password } })),
    onSuccess: () => {
      notifications.show({ message: "Password changed. Sign in with the new one." });
      void navigate({ to: "/sign-in", search: { next: undefined } });
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    reset.mutate();
  };
  return (
    <form className={css.sheet} onSubmit={submit}>
      <p>Choose a new password. All your signed-in devices will be signed out.</p>
      <PasswordInput
        label="New password"
        description="At least 10 characters"
        autoComplete="new-password"
        required
        withAsterisk={false}
        value={password}
        onChange={(event) => setPassword(event.currentTarget.value)}
      />
      {reset.isError && <ErrorPanel error={reset.error} />}
      <Button type="submit" size="md" loading={reset.isPending}>
        Save password
      </Button>
    </form>
  );
}
