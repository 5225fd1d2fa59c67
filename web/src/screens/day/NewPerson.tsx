/** Taking in a new person: a name and a birthday are enough to begin. */
import { Button, Modal, NativeSelect, Textarea, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { refresh } from "../../api/queries";
import { Trouble } from "../../shared/parts";
import css from "./NewPerson.module.css";

type New = Schema["NewPerson"];
const EMPTY: New = { given_name: "", family_name: "", born: "", sex: "unspecified", story: "", minutes: 45 };

export function NewPerson({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  const [person, setPerson] = useState<New>(EMPTY);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const add = useMutation({
    mutationFn: () => take(api.POST("/api/people", { body: person })),
    onSuccess: (added) => {
      void refresh(queries, ["day"]);
      void refresh(queries, ["people"]);
      setPerson(EMPTY);
      onClose();
      void navigate({ to: "/people/$personId/story", params: { personId: added.id } });
    },
  });
  const set = (change: Partial<New>) => setPerson({ ...person, ...change });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    add.mutate();
  };
  return (
    <Modal opened={opened} onClose={onClose} title="New person" size="md">
      <form className={css.form} onSubmit={submit}>
        <TextInput
          label="First name"
          required
          withAsterisk={false}
          data-autofocus
          value={person.given_name}
          onChange={(event) => set({ given_name: event.currentTarget.value })}
        />
        <TextInput
          label="Family name"
          value={person.family_name}
          onChange={(event) => set({ family_name: event.currentTarget.value })}
        />
        <TextInput
          label="Born"
          type="date"
          required
          withAsterisk={false}
          value={person.born}
          onChange={(event) => set({ born: event.currentTarget.value })}
        />
        <NativeSelect
          label="Figure"
          description="Which average the figure starts from"
          value={person.sex}
          onChange={(event) => set({ sex: event.currentTarget.value as New["sex"] })}
          data={[
            { value: "unspecified", label: "not said" },
            { value: "female", label: "female" },
            { value: "male", label: "male" },
          ]}
        />
        <Textarea
          label="Story"
          description="In their words"
          rows={3}
          value={person.story}
          onChange={(event) => set({ story: event.currentTarget.value })}
        />
        {add.isError && <Trouble error={add.error} />}
        <Button type="submit" loading={add.isPending}>
          Take in
        </Button>
      </form>
    </Modal>
  );
}
