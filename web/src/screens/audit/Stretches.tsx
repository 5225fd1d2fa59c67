/** Rows of the audit: one for a stretch of the same action, which opens to its single entries. */
import { Button, UnstyledButton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { Fragment, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { ErrorPanel } from "../../shared/parts";
import { clock, dateOf } from "../../shared/words";
import css from "./AuditScreen.module.css";

type Stretch = Schema["AuditStretch"];
type Entry = Schema["AuditEntry"];

export function Stretches({ stretches }: { stretches: readonly Stretch[] }) {
  const [open, setOpen] = useState<number>();
  return (
    <table className={css.table}>
      <thead>
        <tr>
          <th>When</th>
          <th>User</th>
          <th>Action</th>
          <th>Record</th>
          <th>From</th>
        </tr>
      </thead>
      <tbody>
        {stretches.map(({ newest, count, since, first }) => (
          <Fragment key={newest.id}>
            <tr data-reason={newest.reason ? true : undefined}>
              <td className={css.when}>
                {dateOf(newest.at)} {count > 1 && clock(since) !== clock(newest.at) && `${clock(since)}–`}
                {clock(newest.at)}
              </td>
              <td>{newest.who}</td>
              <td>
                {newest.action}
                {count > 1 && (
                  <UnstyledButton
                    className={css.count}
                    aria-expanded={open === newest.id}
                    onClick={() => setOpen(open === newest.id ? undefined : newest.id)}
                  >
                    {count} times
                  </UnstyledButton>
                )}
                {newest.reason && <div className={css.reason}>Reason: {newest.reason}</div>}
              </td>
              <td>
                <Whose entry={newest} />
              </td>
              <td className={css.from}>{[newest.device, newest.address].filter(Boolean).join(", ")}</td>
            </tr>
            {open === newest.id && <Opened newest={newest} first={first} />}
          </Fragment>
        ))}
      </tbody>
    </table>
  );
}

function Whose({ entry }: { entry: Entry }) {
  if (!entry.person_id) return null;
  if (!entry.person) return "erased";
  return (
    <Link to="/people/$personId" params={{ personId: entry.person_id }}>
      {entry.person}
    </Link>
  );
}

/** The single entries of a stretch, up to a hundred. */
function Opened({ newest, first }: { newest: Entry; first: number }) {
  const query = {
    first,
    last: newest.id,
    action: newest.action,
    ...(newest.person_id ? { person_id: newest.person_id } : {}),
  };
  const found = useQuery({
    queryKey: ["audit", "stretch", query],
    queryFn: () => take(api.GET("/api/audit", { params: { query } })),
  });
  return (
    <tr>
      <td colSpan={5} className={css.opened}>
        {found.isError && <ErrorPanel error={found.error} />}
        {found.data?.entries
          .filter((entry) => entry.who === newest.who)
          .map((entry) => (
            <span key={entry.id}>{clock(entry.at)}</span>
          ))}
        {found.data?.before && <span>and earlier ones; the CSV file has them all</span>}
      </td>
    </tr>
  );
}

/** Whether every entry is as it was written. For owners, on demand: it reads the whole audit. */
export function Verify() {
  const chain = useQuery({
    queryKey: ["audit", "chain"],
    queryFn: () => take(api.GET("/api/audit/chain")),
    enabled: false,
  });
  return (
    <div className={css.verify}>
      <Button variant="default" loading={chain.isFetching} onClick={() => void chain.refetch()}>
        Verify entries
      </Button>
      {chain.isError && <ErrorPanel error={chain.error} />}
      {chain.data && (
        <p role="status">
          {chain.data.broken_at === null
            ? `${chain.data.number} entries, none changed or removed. Newest hash: ${chain.data.hash.slice(0, 16)}`
            : `Entry ${chain.data.broken_at} or one before it was changed or removed.`}
        </p>
      )}
    </div>
  );
}
