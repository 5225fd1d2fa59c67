/** A person's visits as a line of time: held, missed, cancelled, to come, and what is planned and not booked yet. */
import { Button } from "@mantine/core";
import { IconCalendarPlus } from "@tabler/icons-react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { type Appointment, appointmentsChanged, appointmentsOf, plannedOf } from "../../api/booking";
import { api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { Booking, type Wanted } from "../../shared/booking/Booking";
import desk from "../../shared/desk.module.css";
import { Empty, ErrorPanel, Waiting } from "../../shared/parts";
import { clock, dateOf, isoDay } from "../../shared/words";
import css from "./Visits.module.css";

type Planned = Schema["Planned"];
type State = "held" | "open" | "missed" | "cancelled" | "coming" | "unwritten";
const stateWords: Record<State, string> = {
  held: "took place",
  open: "in progress",
  missed: "did not come",
  cancelled: "cancelled",
  coming: "upcoming",
  unwritten: "did not take place",
};

function stateOf(one: Appointment, now: number): State {
  if (one.attendance === "cancelled") return "cancelled";
  if (one.attendance === "not_come") return "missed";
  if (one.treatment === "over") return "held";
  if (one.treatment === "open") return "open";
  return new Date(one.starts_at).getTime() > now - 12 * 3600_000 ? "coming" : "unwritten";
}

export function Visits({ personId }: { personId: string }) {
  const appointments = useQuery(appointmentsOf(personId));
  const planned = useQuery(plannedOf(personId));
  const [wanted, setWanted] = useState<Wanted>();
  const books = useMay("book");
  if (appointments.isPending) return <Waiting for="Loading visits" />;
  if (appointments.isError) return <ErrorPanel error={appointments.error} />;
  const now = Date.now();
  const rows = appointments.data.map((one) => ({ one, state: stateOf(one, now) }));
  const waiting = planned.data?.filter((one) => !one.visit_id && !one.dropped) ?? [];
  return (
    <section className={desk.section}>
      <h2>Visits</h2>
      <Line rows={rows} waiting={waiting} now={now} />
      <div className={desk.buttons}>
        {books && (
          <Button
            variant="default"
            leftSection={<IconCalendarPlus size={18} />}
            onClick={() => setWanted({ personId })}
          >
            Book a visit
          </Button>
        )}
      </div>
      {waiting.length > 0 && <Waitlist waiting={waiting} personId={personId} onBook={setWanted} />}
      {rows.length === 0 && <Empty>No visits yet.</Empty>}
      <ol className={css.list}>
        {[...rows].reverse().map(({ one, state }) => (
          <VisitRow key={one.visit_id} one={one} state={state} onChange={() => setWanted({ appointment: one })} />
        ))}
      </ol>
      {wanted && <Booking wanted={wanted} onClose={() => setWanted(undefined)} />}
    </section>
  );
}

type Row = { one: Appointment; state: State };

/** All of it in one glance: a mark a visit, spaced by time, today in its place. */
function Line({ rows, waiting, now }: { rows: Row[]; waiting: Planned[]; now: number }) {
  const times = [
    ...rows.map(({ one }) => new Date(one.starts_at).getTime()),
    ...waiting.map((one) => new Date(one.due_on).getTime()),
    now,
  ];
  const first = Math.min(...times);
  const span = Math.max(Math.max(...times) - first, 1);
  const at = (time: number) => `${2 + (96 * (time - first)) / span}%`;
  if (rows.length + waiting.length < 2) return null;
  return (
    <div className={css.line} role="img" aria-label={inWords(rows, waiting)}>
      <span className={css.today} style={{ left: at(now) }} />
      {rows.map(({ one, state }) => (
        <span
          key={one.visit_id}
          className={css.mark}
          data-state={state}
          style={{ left: at(new Date(one.starts_at).getTime()) }}
          title={`${dateOf(one.starts_at)}: ${stateWords[state]}`}
        />
      ))}
      {waiting.map((one) => (
        <span
          key={one.id}
          className={css.mark}
          data-state="planned"
          style={{ left: at(new Date(one.due_on).getTime()) }}
          title={`planned for ${dateOf(one.due_on)}`}
        />
      ))}
    </div>
  );
}

function inWords(rows: Row[], waiting: Planned[]): string {
  const count = (state: State) => rows.filter((row) => row.state === state).length;
  return `${count("held")} took place, ${count("missed")} missed, ${count("coming")} upcoming, ${waiting.length} planned`;
}

function VisitRow({ one, state, onChange }: Row & { onChange: () => void }) {
  const navigate = useNavigate();
  const reads = useMay("read_health");
  const open = () =>
    reads ? void navigate({ to: "/visits/$visitId", params: { visitId: one.visit_id } }) : onChange();
  return (
    <li data-state={state}>
      <button type="button" className={css.open} onClick={open}>
        <b>{dateOf(one.starts_at)}</b> {clock(one.starts_at)}
      </button>
      <span>
        {stateWords[state]}
        {one.came === "walk_in" ? ", walk-in" : ""}
        {one.reason ? `: ${one.reason}` : ""}
      </span>
      <span className={desk.small}>{[one.purpose, one.place].filter(Boolean).join(" · ")}</span>
      {state === "coming" && (
        <Button size="compact-sm" variant="default" onClick={onChange}>
          Change
        </Button>
      )}
    </li>
  );
}

type WaitProps = { waiting: Planned[]; personId: string; onBook: (wanted: Wanted) => void };

function Waitlist({ waiting, personId, onBook }: WaitProps) {
  const queries = useQueryClient();
  const writes = useMay("write_health");
  const books = useMay("book");
  const drop = useMutation({
    mutationFn: (planned_id: string) =>
      take(api.POST("/api/planned/{planned_id}/drop", { params: { path: { planned_id } } })),
    onSuccess: () => appointmentsChanged(queries, personId),
  });
  const today = isoDay(new Date());
  return (
    <ul className={css.waiting} aria-label="Planned, not booked">
      {waiting.map((one) => (
        <li key={one.id}>
          <span>
            <b>Visit {one.number}</b> of the series, {one.due_on < today ? "was due" : "due"} {dateOf(one.due_on)}
          </span>
          <span className={desk.small}>{one.purpose}</span>
          <span className={desk.buttons}>
            {books && (
              <Button
                size="compact-sm"
                variant="default"
                onClick={() => onBook({ personId, plannedId: one.id, minutes: one.minutes })}
              >
                Book
              </Button>
            )}
            {writes && (
              <Button size="compact-sm" variant="subtle" onClick={() => drop.mutate(one.id)}>
                Drop
              </Button>
            )}
          </span>
        </li>
      ))}
    </ul>
  );
}
