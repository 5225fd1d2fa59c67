/** Joining a practice by an invitation. */
import { Button, PasswordInput, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, take } from "../../api/client";
import { roleMeans, roleWords } from "../../api/practice";
import { enter } from "../../api/queries";
import { ErrorPanel } from "../../shared/parts";
import { arrived } from "../../treatment/session";
import { type LinkIsFor, Welcome } from "./Welcome";
import css from "./Welcome.module.css";

export function JoinScreen() {
  return <Welcome kind="invitation">{(link, token) => <Join link={link} token={token} />}</Welcome>;
}

function Join({ link, token }: { link: LinkIsFor; token: string }) {
  const [name, setName] = useState(link.name);
  const [password, setPassword] = useState("");
  const queries = useQueryClient();
  const navigate = useNavigate();
  const join = useMutation({
    mutationFn: () => take(api.POST("/api/links/join", { body: { token, name, password } })),
    onSuccess: async (me) => {
      arrived();
      await enter(me);
      queries.setQueryData(["me"], me);
      void navigate({ to: "/" });
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    join.mutate();
  };
  return (
    <form className={css.sheet} onSubmit={submit}>
      <p>
        {link.practice} invites you
        {link.role && (
          <>
            {" "}
            as <b>{roleWords[link.role].toLowerCase()}</b>: {roleMeans[link.role]}
          </>
        )}
        . You sign in with {link.email}.
      </p>
      <TextInput
        label="Your name"
        description="As it should appear on documents"
        required
        withAsterisk={false}
        value={name}
        onChange={(event) => setName(event.currentTarget.value)}
      />
      <PasswordInput
        label="Password"
        description="At least 10 characters"
        autoComplete="new-password"
        required
        withAsterisk={false}
        value={password}
        onChange={(event) => setPassword(event.currentTarget.value)}
      />
      {join.isError && <ErrorPanel error={join.error} />}
      <Button type="submit" size="md" loading={join.isPending}>
        Join
      </Button>
    </form>
  );
}
