/** Says how much waits on this device, of whom, and who has to be signed in for it to be sent. */
import { Button } from "@mantine/core";
import { useEffect, useState } from "react";
import { owner, retry, type Waiting } from "./device";
import { flush, hearWaiting } from "./sender";
import css from "./WaitingEntries.module.css";

const entries = (count: number) => (count === 1 ? "1 entry" : `${count} entries`);

export function WaitingEntries() {
  const [rows, setRows] = useState<Waiting[]>([]);
  const [mine, setMine] = useState<string | null>(null);
  useEffect(() => hearWaiting(setRows), []);
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
            : row.who.id === mine
              ? "Sent as soon as the server answers."
              : `Sent when ${row.who.name} signs in.`}
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
