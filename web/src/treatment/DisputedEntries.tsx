/** What happened at the table and could not be applied: each told with its reason, to be settled with a word on it. */
import { Button, TextInput } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import type { Schema } from "../api/client";
import { ErrorPanel } from "../shared/parts";
import { clock } from "../shared/words";
import css from "./DisputedEntries.module.css";

type Entry = Schema["Disputed"];
type Settle = (id: string, how: Schema["Settle"]["how"], note: string) => Promise<void>;

export function DisputedEntries({ entries, settle }: { entries: Entry[]; settle: Settle }) {
  if (entries.length === 0) return null;
  const open = entries.filter((entry) => entry.settled === null).length;
  return (
    <section className={css.box} aria-label="Entries that were not applied">
      <h2>
        {entries.length === 1 ? "1 entry" : `${entries.length} entries`} not applied
        {open > 0 && `, ${open} to resolve`}
      </h2>
      <p>They are included in the record unless you set them aside.</p>
      <ul>
        {entries.map((entry) => (
          <Line key={entry.id} entry={entry} settle={settle} />
        ))}
      </ul>
    </section>
  );
}

function Line({ entry, settle }: { entry: Entry; settle: Settle }) {
  const [note, setNote] = useState("");
  const settling = useMutation({
    mutationFn: (how: Schema["Settle"]["how"]) => settle(entry.id, how, note.trim()),
  });
  return (
    <li>
      <span className={css.at}>{clock(entry.at)}</span>
      <div>
        <strong>{entry.words}</strong>
        <p>{entry.reason}</p>
        {entry.settled && (
          <p>
            {entry.settled === "happened" ? "In the write-up." : "Set aside."} {entry.note}
          </p>
        )}
        {settling.isError && <ErrorPanel error={settling.error} />}
      </div>
      {entry.settled === null && (
        <div className={css.settle}>
          <TextInput
            size="sm"
            aria-label={`Note on ${entry.words}`}
            placeholder="Note"
            value={note}
            onChange={(event) => setNote(event.currentTarget.value)}
          />
          <Button size="sm" variant="default" onClick={() => settling.mutate("happened")}>
            Include in the record
          </Button>
          <Button size="sm" variant="default" onClick={() => settling.mutate("set_aside")}>
            Set aside
          </Button>
        </div>
      )}
    </li>
  );
}
