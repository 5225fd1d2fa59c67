/** Erasing a whole record for good: the name is typed once more, and a reason stays in the audit. */
import { Button, Modal, TextInput } from "@mantine/core";
import { useDisclosure } from "@mantine/hooks";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, take } from "../../api/client";
import desk from "../../shared/desk.module.css";
import { Trouble } from "../../shared/parts";

export function Erase({ personId, name }: { personId: string; name: string }) {
  const [opened, modal] = useDisclosure();
  const [typed, setTyped] = useState("");
  const [reason, setReason] = useState("");
  const queries = useQueryClient();
  const navigate = useNavigate();
  const erase = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/people/{person_id}/erase", {
          params: { path: { person_id: personId } },
          body: { given_name: typed, reason },
        }),
      ),
    onSuccess: () => {
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
      <p>Erase everything that is kept of {name}, for good. That it was erased, by whom and why, stays in the audit.</p>
      <div className={desk.buttons}>
        <Button variant="default" onClick={modal.open}>
          Erase the record
        </Button>
      </div>
      <Modal opened={opened} onClose={modal.close} title={`Erase the record of ${name}`}>
        <form onSubmit={submit} className={desk.form}>
          <p>Everything that is kept of {name} goes, for good. Save the record as a file first if it may be needed.</p>
          <TextInput
            label={`Type ${name} to confirm`}
            value={typed}
            onChange={(event) => setTyped(event.currentTarget.value)}
          />
          <TextInput
            label="Reason"
            description="Stays in the audit, with your name"
            value={reason}
            onChange={(event) => setReason(event.currentTarget.value)}
          />
          {erase.isError && <Trouble error={erase.error} />}
          <Button type="submit" loading={erase.isPending} disabled={typed !== name || reason.trim() === ""}>
            Erase for good
          </Button>
        </form>
      </Modal>
    </>
  );
}
