/** Adding a person: a name and a birthday are enough to begin. Whoever may be meant and is here already is shown. */
import { Button, Modal, NativeSelect, Switch, Textarea, TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { findPeople, refresh, useMe } from "../../api/queries";
import { DayInput } from "../../shared/DayInput";
import { ErrorPanel } from "../../shared/parts";
import css from "./NewPerson.module.css";

type New = Schema["NewPerson"];
const EMPTY: New = {
  given_name: "",
  family_name: "",
  born: "",
  sex: "unspecified",
  phone: "",
  email: "",
  story: "",
  minutes: null,
};

export function NewPerson({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  const [person, setPerson] = useState<New>(EMPTY);
  const [isHere, setIsHere] = useState(true);
  const me = useMe();
  const writes = useMay("write_health");
  const [name] = useDebouncedValue(`${person.given_name} ${person.family_name}`.trim(), 250);
  const alike = useQuery({ ...findPeople(name), enabled: opened && name.length > 2 });
  const queries = useQueryClient();
  const navigate = useNavigate();
  const add = useMutation({
    mutationFn: () => {
      const minutes = isHere ? (me.data?.usual_minutes ?? 45) : null;
      return take(api.POST("/api/people", { body: { ...person, minutes } }));
    },
    onSuccess: (added) => {
      void refresh(queries, ["day"]);
      void refresh(queries, ["people"]);
      setPerson(EMPTY);
      onClose();
      void navigate({
        to: isHere && writes ? "/people/$personId/story" : "/people/$personId",
        params: { personId: added.id },
      });
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
        <DayInput
          label="Date of birth"
          required
          withAsterisk={false}
          defaultLevel="decade"
          value={person.born}
          onChange={(born) => set({ born })}
        />
        {alike.data && alike.data.length > 0 && (
          <p role="status">
            Already here?{" "}
            {alike.data.slice(0, 3).map((one) => (
              <Link key={one.id} to="/people/$personId" params={{ personId: one.id }} onClick={onClose}>
                {one.given_name} {one.family_name}, {one.age}{" "}
              </Link>
            ))}
          </p>
        )}
        <TextInput
          label="Phone"
          type="tel"
          value={person.phone}
          onChange={(event) => set({ phone: event.currentTarget.value })}
        />
        <NativeSelect
          label="Body figure"
          description="Starting shape for the figure"
          value={person.sex}
          onChange={(event) => set({ sex: event.currentTarget.value as New["sex"] })}
          data={[
            { value: "unspecified", label: "not specified" },
            { value: "female", label: "female" },
            { value: "male", label: "male" },
          ]}
        />
        {writes && (
          <Textarea
            label="History"
            description="In their words"
            rows={3}
            value={person.story}
            onChange={(event) => set({ story: event.currentTarget.value })}
          />
        )}
        <Switch
          label="Here now"
          description="Otherwise book a visit next"
          checked={isHere}
          onChange={(event) => setIsHere(event.currentTarget.checked)}
        />
        {add.isError && <ErrorPanel error={add.error} />}
        <Button type="submit" loading={add.isPending}>
          Add person
        </Button>
      </form>
    </Modal>
  );
}
