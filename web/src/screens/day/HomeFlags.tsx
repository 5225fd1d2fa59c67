/** Red flags that were reported from home: they mark the day until somebody has looked after them. */
import { Button, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { flagsQuery } from "../../api/between";
import { api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { ErrorPanel } from "../../shared/parts";
import { clock, dayOf } from "../../shared/words";
import css from "./DayScreen.module.css";

type Flag = Schema["FlagOut"];

export function HomeFlags() {
  const flags = useQuery(flagsQuery);
  if (!flags.data?.length) return null;
  return (
    <ul className={css.flags} aria-label="Reported from home">
      {flags.data.map((flag) => (
        <One key={flag.id} flag={flag} />
      ))}
    </ul>
  );
}

function One({ flag }: { flag: Flag }) {
  const writes = useMay("write_health");
  const [words, setWords] = useState("");
  const queries = useQueryClient();
  const look = useMutation({
    mutationFn: () =>
      take(api.POST("/api/home-flags/{flag_id}/looked", { params: { path: { flag_id: flag.id } }, body: { words } })),
    onSuccess: (left) => queries.setQueryData(flagsQuery.queryKey, left),
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    look.mutate();
  };
  return (
    <li data-emergency={flag.emergency || undefined}>
      <p>
        <b>
          <Link to="/people/$personId" params={{ personId: flag.person_id }}>
            {flag.given_name} {flag.family_name}
          </Link>
        </b>{" "}
        reported from home, {dayOf(flag.said_at)} {clock(flag.said_at)}: <em>{flag.words}</em>
        {flag.phone && (
          <>
            {" · "}
            <a href={`tel:${flag.phone}`}>{flag.phone}</a>
          </>
        )}
      </p>
      {writes && (
        <form onSubmit={submit}>
          <TextInput
            aria-label={`Action taken, ${flag.given_name}`}
            placeholder="Action taken"
            value={words}
            onChange={(event) => setWords(event.currentTarget.value)}
          />
          <Button type="submit" variant="default" disabled={words.trim() === ""} loading={look.isPending}>
            Mark as dealt with
          </Button>
        </form>
      )}
      {look.isError && <ErrorPanel error={look.error} />}
    </li>
  );
}
