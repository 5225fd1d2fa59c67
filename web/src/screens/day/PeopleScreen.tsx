/** Everybody of the practice, and the way in for an exported record. */
import { Button, FileButton, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { ApiError, api, type Schema, take } from "../../api/client";
import { peopleQuery, refresh } from "../../api/queries";
import { Empty, Trouble, Waiting } from "../../shared/parts";
import css from "./PeopleScreen.module.css";

async function parse(file: File): Promise<Schema["PersonRecord"]> {
  try {
    return JSON.parse(await file.text()) as Schema["PersonRecord"];
  } catch (error) {
    const message = `${file.name} is not JSON. ${error instanceof Error ? error.message : ""}`;
    throw new ApiError(422, { code: "invalid", message, where: file.name, details: [] });
  }
}

export function PeopleScreen() {
  const people = useQuery(peopleQuery);
  const [wanted, setWanted] = useState("");
  const queries = useQueryClient();
  const navigate = useNavigate();
  const takeIn = useMutation({
    mutationFn: async (file: File) => take(api.POST("/api/records", { body: await parse(file) })),
    onSuccess: (person) => {
      void refresh(queries, ["people"]);
      notifications.show({ message: `${person.given_name} is here, with everything in the record.` });
      void navigate({ to: "/people/$personId", params: { personId: person.id } });
    },
  });
  const shown = people.data?.filter((person) =>
    `${person.given_name} ${person.family_name}`.toLowerCase().includes(wanted.toLowerCase()),
  );
  return (
    <div className={css.page}>
      <div className={css.head}>
        <h1>People</h1>
        <TextInput
          aria-label="Search people"
          placeholder="Name"
          value={wanted}
          onChange={(event) => setWanted(event.currentTarget.value)}
        />
        <FileButton onChange={(file) => file && takeIn.mutate(file)} accept="application/json">
          {(props) => (
            <Button variant="default" loading={takeIn.isPending} {...props}>
              Take in a record
            </Button>
          )}
        </FileButton>
      </div>
      {takeIn.isError && <Trouble error={takeIn.error} />}
      {people.isPending && <Waiting for="Loading people" />}
      {people.isError && <Trouble error={people.error} retry={() => void people.refetch()} />}
      {shown?.length === 0 && <Empty>Nobody by that name. Take in a new person from the day.</Empty>}
      <ul className={css.list}>
        {shown?.map((person) => (
          <li key={person.id}>
            <Link to="/people/$personId" params={{ personId: person.id }}>
              <strong>{person.given_name}</strong> {person.family_name}
              <span>{person.age}</span>
            </Link>
          </li>
        ))}
      </ul>
    </div>
  );
}
