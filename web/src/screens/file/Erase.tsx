/** Erasing a record: the export is offered first, the name is typed once more, and it can be undone for seven days. */
import { Button, Modal, PasswordInput, TextInput } from "@mantine/core";
import { useDisclosure } from "@mantine/hooks";
import { notifications } from "@mantine/notifications";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, take } from "../../api/client";
import { useMe } from "../../api/queries";
import desk from "../../shared/desk.module.css";
import { ErrorPanel } from "../../shared/parts";
import { dateOf } from "../../shared/words";

export function Erase({ personId, name }: { personId: string; name: string }) {
  const [opened, modal] = useDisclosure();
  const [typed, setTyped] = useState("");
  const [reason, setReason] = useState("");
  const [password, setPassword] = useState("");
  const owner = useMe().data?.role === "owner";
  const queries = useQueryClient();
  const navigate = useNavigate();
  const erase = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/people/{person_id}/erase", {
          params: { path: { person_id: personId } },
          body: { given_name: typed, reason, password: owner ? null : password },
        }),
      ),
    onSuccess: ({ erase_at }) => {
      notifications.show({ message: `${name}'s record will be erased on ${dateOf(erase_at)}. Undo it under People.` });
      queries.clear();
      void navigate({ to: "/people" });
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    erase.mutate();
  };
  return (
    <>
      <p>
        Erase everything recorded about {name}. The record is sealed immediately and erased after seven days; until then
        it can be undone. The audit keeps who erased it and why.
      </p>
      <div className={desk.buttons}>
        <Button variant="default" onClick={modal.open}>
          Erase the record
        </Button>
      </div>
      <Modal opened={opened} onClose={modal.close} title={`Erase the record of ${name}`}>
        <form onSubmit={submit} className={desk.form}>
          <p>
            This erases everything recorded about {name} in seven days. Export the record first:{" "}
            <a href={`/api/people/${personId}/record`} download={`${name}.json`}>
              export {name}'s record
            </a>
            .
          </p>
          <TextInput
            label={`Type ${name} to confirm`}
            value={typed}
            onChange={(event) => setTyped(event.currentTarget.value)}
          />
          <TextInput
            label="Reason"
            description="Recorded in the audit with your name"
            value={reason}
            onChange={(event) => setReason(event.currentTarget.value)}
          />
          {!owner && (
            <PasswordInput
              label="Your password"
              autoComplete="current-password"
              value={password}
              onChange={(event) => setPassword(event.currentTarget.value)}
            />
          )}
          {erase.isError && <ErrorPanel error={erase.error} />}
          <Button
            type="submit"
            loading={erase.isPending}
            disabled={typed !== name || reason.trim() === "" || !(owner || password)}
          >
            Erase in seven days
          </Button>
        </form>
      </Modal>
    </>
  );
}
