/** Everybody of the practice, and the way in for an exported record. */
import { Button, FileButton, Switch, TextInput } from "@mantine/core";
import { useDebouncedValue, useDisclosure } from "@mantine/hooks";
import { notifications } from "@mantine/notifications";
import { IconPlus } from "@tabler/icons-react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { ApiError, api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { findPeople, refresh } from "../../api/queries";
import { Empty, ErrorPanel, Waiting } from "../../shared/parts";
import { BeingErased } from "./BeingErased";
import { NewPerson } from "./NewPerson";
import css from "./PeopleScreen.module.css";

async function parse(file: File): Promise<Schema["PersonRecord"]> {
  try {
    return JSON.parse(await file.text()) as Schema["PersonRecord"];
  } catch (error) {
    const message = `${file.name} is not a JSON file. ${error instanceof Error ? error.message : ""}`;
    throw new ApiError(422, { code: "invalid", message, where: file.name, details: [] });
  }
}

export function PeopleScreen() {
  const [q, setQ] = useState("");
  const [archived, setArchived] = useState(false);
  const [wanted] = useDebouncedValue(q, 120);
  const people = useQuery(findPeople(wanted, archived));
  const writes = useMay("write_health");
  const books = useMay("book");
  const [adding, add] = useDisclosure();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const takeIn = useMutation({
    mutationFn: async (file: File) => take(api.POST("/api/records", { body: await parse(file) })),
    onSuccess: (person) => {
      void refresh(queries, ["people"]);
      notifications.show({ message: `${person.given_name} is imported, with everything in the record.` });
      void navigate({ to: "/people/$personId", params: { personId: person.id } });
    },
  });
  return (
    <div className={css.page}>
      <div className={css.head}>
        <h1>People</h1>
        <TextInput
          aria-label="Search people"
          placeholder="Name, phone or email"
          value={q}
          onChange={(event) => setQ(event.currentTarget.value)}
        />
        <Switch label="Archived" checked={archived} onChange={(event) => setArchived(event.currentTarget.checked)} />
        {writes && (
          <FileButton onChange={(file) => file && takeIn.mutate(file)} accept="application/json">
            {(props) => (
              <Button variant="default" loading={takeIn.isPending} {...props}>
                Import a record
              </Button>
            )}
          </FileButton>
        )}
        {books && (
          <Button leftSection={<IconPlus size={18} />} onClick={add.open}>
            New person
          </Button>
        )}
      </div>
      {takeIn.isError && <ErrorPanel error={takeIn.error} />}
      {writes && <BeingErased />}
      {people.isPending && <Waiting for="Loading people" />}
      {people.isError && <ErrorPanel error={people.error} retry={() => void people.refetch()} />}
      {people.data?.length === 0 && (
        <Empty>
          {archived ? "No one is archived." : q ? "No one by that name." : "No people yet. Add the first one."}
        </Empty>
      )}
      <ul className={css.list}>
        {people.data?.map((person) => (
          <li key={person.id}>
            <Link to="/people/$personId" params={{ personId: person.id }}>
              <strong>{person.given_name}</strong> {person.family_name}
              <span>{person.age}</span>
            </Link>
          </li>
        ))}
      </ul>
      <NewPerson opened={adding} onClose={add.close} />
    </div>
  );
}
