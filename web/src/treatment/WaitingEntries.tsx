/** Entries that wait on this device: how many, of whom, and what has to happen for them to be sent. */
import { Button } from "@mantine/core";
import { useEffect, useState } from "react";
import { owner, retry, type Waiting } from "./device";
import type { Waits } from "./retry";
import { flush, hearWaiting } from "./sender";
import css from "./WaitingEntries.module.css";

const entries = (count: number) => (count === 1 ? "1 entry" : `${count} entries`);

export function WaitingEntries() {
  const [rows, setRows] = useState<Waiting[]>([]);
  const [mine, setMine] = useState<string | null>(null);
  const [waits, setWaits] = useState<Waits | null>(null);
  useEffect(
    () =>
      hearWaiting((rows, what) => {
        setRows(rows);
        setWaits(what);
      }),
    [],
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: who is signed in may change whenever the rows do
  useEffect(() => {
    void owner().then((who) => setMine(who?.id ?? null));
  }, [rows]);
  if (rows.length === 0) return null;
  return (
    <ul className={css.list} role="status" aria-label="Saved on this device">
      {rows.map((row) => (
        <li key={`${row.visitId} ${row.who.id}`}>
          <strong>{entries(row.count)}</strong> {row.person ? `of ${row.person}'s session ` : "of a session "}
          saved on this device.{" "}
          {row.stuck
            ? `Not sent: ${row.stuck}`
            : row.who.id !== mine
              ? `Will be sent when ${row.who.name} signs in.`
              : waits === "sign-in"
                ? "Will be sent after you sign in again."
                : "Will be sent when the server responds."}
          {row.stuck && row.who.id === mine && (
            <Button size="compact-sm" variant="default" onClick={() => void retry(row.visitId).then(flush)}>
              Try again
            </Button>
          )}
        </li>
      ))}
    </ul>
  );
}
