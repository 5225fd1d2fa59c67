/** Joining a second record of the same person: searched for, looked at, its name typed once more. */
import { Button, Modal, TextInput } from "@mantine/core";
import { useDebouncedValue, useDisclosure } from "@mantine/hooks";
import { notifications } from "@mantine/notifications";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { findPeople, refresh } from "../../api/queries";
import desk from "../../shared/desk.module.css";
import { ErrorPanel } from "../../shared/parts";
import { dateOf } from "../../shared/words";

export function Join({ personId, name }: { personId: string; name: string }) {
  const [opened, modal] = useDisclosure();
  const [q, setQ] = useState(name);
  const [wanted] = useDebouncedValue(q, 120);
  const [other, setOther] = useState<Schema["PersonShort"]>();
  const [typed, setTyped] = useState("");
  const found = useQuery({ ...findPeople(wanted), enabled: opened });
  const queries = useQueryClient();
  const join = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/people/{person_id}/join", {
          params: { path: { person_id: personId } },
          body: { other_id: other?.id ?? "", given_name: typed },
        }),
      ),
    onSuccess: async () => {
      await refresh(queries, ["person", personId]);
      await refresh(queries, ["people"]);
      modal.close();
      notifications.show({ message: "Merged. Both histories are in this record now." });
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    join.mutate();
  };
  const others = found.data?.filter((one) => one.id !== personId) ?? [];
  return (
    <>
      <p>If {name} has two records, merge them. Both histories are kept in this one.</p>
      <div className={desk.buttons}>
        <Button variant="default" onClick={modal.open}>
          Merge with another record
        </Button>
      </div>
      <Modal opened={opened} onClose={modal.close} title={`Merge another record into ${name}'s`} size="lg">
        <form className={desk.form} onSubmit={submit}>
          <TextInput
            label="Which record is the same person?"
            value={q}
            onChange={(event) => {
              setQ(event.currentTarget.value);
              setOther(undefined);
            }}
          />
          <ul className={desk.plain}>
            {others.slice(0, 6).map((one) => (
              <li key={one.id}>
                <Button
                  variant={other?.id === one.id ? "filled" : "default"}
                  aria-pressed={other?.id === one.id}
                  onClick={() => setOther(one)}
                >
                  {one.given_name} {one.family_name}, born {dateOf(one.born)}
                </Button>
              </li>
            ))}
            {others.length === 0 && <li className={desk.note}>No one else by that name.</li>}
          </ul>
          {other && (
            <>
              <p>
                Everything in {other.given_name} {other.family_name}'s record moves here, and that record is removed.
                This cannot be undone.
              </p>
              <TextInput
                label={`Type ${other.given_name} to confirm`}
                value={typed}
                onChange={(event) => setTyped(event.currentTarget.value)}
              />
            </>
          )}
          {join.isError && <ErrorPanel error={join.error} />}
          <div className={desk.buttons}>
            <Button type="submit" disabled={!other || typed !== other.given_name} loading={join.isPending}>
              Merge records
            </Button>
            <Button variant="default" onClick={modal.close}>
              Cancel
            </Button>
          </div>
        </form>
      </Modal>
    </>
  );
}
