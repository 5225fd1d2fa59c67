/** A visit on one page: asked, composed, done, felt, written. Open it is edited, closed it is only added to. */
import { Button, Textarea } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { recordQuery } from "../../api/booking";
import { api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { refresh } from "../../api/queries";
import desk from "../../shared/desk.module.css";
import { Empty, ErrorPanel, Waiting } from "../../shared/parts";
import { clock, dateOf, sideWords } from "../../shared/words";
import { DisputedEntries } from "../../treatment/DisputedEntries";
import { StopTable } from "./StopTable";
import css from "./VisitScreen.module.css";

type VisitRecord = Schema["VisitRecord"];
type Words = Schema["WriteUp"];
const HEADINGS: [keyof Words, string, string][] = [
  ["asked", "Ratings before", ""],
  ["done", "Session", ""],
  ["felt", "Response", ""],
  ["observed", "Observed", "What you saw and felt under your hands"],
  ["next", "Next visit", "Plan for the next visit, and what to check first"],
];

export function VisitScreen() {
  const { visitId } = useParams({ from: "/inside/visits/$visitId" });
  const record = useQuery(recordQuery(visitId));
  if (record.isPending) return <Waiting for="Loading the visit" />;
  if (record.isError) return <ErrorPanel error={record.error} retry={() => void record.refetch()} />;
  return <Page record={record.data} key={`${visitId} ${record.data.version}`} />;
}

function Page({ record }: { record: VisitRecord }) {
  const one = record.appointment;
  const path = { visit_id: one.visit_id };
  const queries = useQueryClient();
  const keep = (now: VisitRecord) => {
    queries.setQueryData(recordQuery(one.visit_id).queryKey, now);
    void refresh(queries, ["person", one.person_id]);
  };
  return (
    <div className={desk.page}>
      <div className={desk.head}>
        <div>
          <h1>
            <Link className={css.name} to="/people/$personId" params={{ personId: one.person_id }}>
              {one.given_name} {one.family_name}
            </Link>
          </h1>
          <p className={desk.note}>
            {dateOf(one.starts_at)}, {clock(one.starts_at)} · {one.minutes} min · {one.practitioner}
            {one.place && ` · ${one.place}`}
            {one.purpose && ` · ${one.purpose}`}
          </p>
        </div>
        <State record={record} />
        {record.composed && (
          <Button
            component="a"
            variant="default"
            href={`/api/visits/${one.visit_id}/visit.pdf`}
            target="_blank"
            rel="noreferrer"
          >
            Print
          </Button>
        )}
      </div>
      {record.disputed.length > 0 && (
        <DisputedEntries
          entries={record.disputed}
          settle={async (event_id, how, note) => {
            const options = { params: { path: { ...path, event_id } }, body: { how, note } };
            await take(api.POST("/api/visits/{visit_id}/disputed/{event_id}", options));
            await refresh(queries, ["visit", one.visit_id]);
          }}
        />
      )}
      <div className={css.columns}>
        <Written record={record} onKept={keep} />
        <div className={desk.form}>
          <Ratings rated={record.rated} />
          <section className={desk.section}>
            <h2>Planned and actual</h2>
            {record.stops.length === 0 ? (
              <Empty>No score was composed for this visit.</Empty>
            ) : (
              <StopTable stops={record.stops} begun={record.began_at !== null} />
            )}
          </section>
          {record.next && (
            <p>
              <b>Next visit</b> {dateOf(record.next.starts_at)}, {clock(record.next.starts_at)}
              {record.next.purpose && `: ${record.next.purpose}`}
            </p>
          )}
        </div>
      </div>
    </div>
  );
}

function State({ record }: { record: VisitRecord }) {
  const one = record.appointment;
  if (one.attendance === "cancelled") return <b>Cancelled: {one.reason}</b>;
  if (one.attendance === "not_come") return <b>Did not come</b>;
  if (record.closed_at) {
    return (
      <b>
        Closed {dateOf(record.closed_at)} by {record.closed_by}
      </b>
    );
  }
  if (one.treatment === "open") {
    return (
      <Link to="/treat/$visitId" params={{ visitId: one.visit_id }}>
        Treatment in progress
      </Link>
    );
  }
  return <b>{one.treatment === "over" ? "Open: not closed yet" : "Not started"}</b>;
}

function Ratings({ rated }: { rated: readonly Schema["RatedAtVisit"][] }) {
  if (rated.length === 0) return null;
  return (
    <section className={desk.section}>
      <h2>Ratings</h2>
      <table className={desk.table}>
        <thead>
          <tr>
            <th scope="col">Complaint</th>
            <th scope="col">Before</th>
            <th scope="col">After</th>
          </tr>
        </thead>
        <tbody>
          {rated.map((one) => (
            <tr key={`${one.name}${one.side}`}>
              <td>
                {one.name} <span className={desk.note}>{sideWords[one.side as keyof typeof sideWords]}</span>
                {one.act && <div className={desk.small}>{one.act}</div>}
              </td>
              <td className={css.number}>{one.before ?? "–"}</td>
              <td className={css.number}>{one.after ?? "–"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Written({ record, onKept }: { record: VisitRecord; onKept: (now: VisitRecord) => void }) {
  const one = record.appointment;
  const writes = useMay("write_health");
  const [words, setWords] = useState<Words>(record.written ?? record.begun);
  const path = { visit_id: one.visit_id };
  const changed = JSON.stringify(words) !== JSON.stringify(record.written ?? record.begun);
  const save = async () => {
    const body = { version: record.version, ...words };
    return take(api.PUT("/api/visits/{visit_id}/record", { params: { path }, body }));
  };
  const keep = useMutation({ mutationFn: save, onSuccess: onKept });
  const close = useMutation({
    mutationFn: async () => {
      const { version } = changed || !record.written ? await save() : record;
      return take(api.POST("/api/visits/{visit_id}/record/close", { params: { path }, body: { version } }));
    },
    onSuccess: onKept,
  });
  if (record.closed_at) return <Closed record={record} onKept={onKept} />;
  return (
    <section className={desk.section}>
      <h2>Record</h2>
      {HEADINGS.map(([name, label, placeholder]) => (
        <Textarea
          key={name}
          label={label}
          placeholder={placeholder}
          autosize
          minRows={2}
          maxLength={4000}
          readOnly={!writes}
          value={words[name] ?? ""}
          onChange={(event) => setWords({ ...words, [name]: event.currentTarget.value })}
        />
      ))}
      {(keep.isError || close.isError) && <ErrorPanel error={keep.error ?? close.error} />}
      {writes && (
        <div className={desk.buttons}>
          <Button variant="default" disabled={!changed} loading={keep.isPending} onClick={() => keep.mutate()}>
            Save
          </Button>
          <Button loading={close.isPending} onClick={() => close.mutate()}>
            Close the record
          </Button>
          <span className={desk.small}>Once closed, the record cannot be edited; addenda can be added.</span>
        </div>
      )}
    </section>
  );
}

function Closed({ record, onKept }: { record: VisitRecord; onKept: (now: VisitRecord) => void }) {
  const writes = useMay("write_health");
  const [said, setSaid] = useState("");
  const words = record.written ?? record.begun;
  const add = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/visits/{visit_id}/addenda", {
          params: { path: { visit_id: record.appointment.visit_id } },
          body: { said },
        }),
      ),
    onSuccess: (now) => {
      setSaid("");
      onKept(now);
    },
  });
  return (
    <section className={desk.section}>
      <h2>Record</h2>
      {HEADINGS.filter(([name]) => words[name]).map(([name, label]) => (
        <div key={name} className={css.said}>
          <h3>{label}</h3>
          <p>{words[name]}</p>
        </div>
      ))}
      {record.addenda.map((one) => (
        <div key={one.id} className={css.said}>
          <h3>
            Addendum, {dateOf(one.added_at)}, {one.added_by}
          </h3>
          <p>{one.said}</p>
        </div>
      ))}
      {writes && (
        <>
          <Textarea
            label="Addendum"
            autosize
            minRows={2}
            value={said}
            onChange={(event) => setSaid(event.currentTarget.value)}
          />
          {add.isError && <ErrorPanel error={add.error} />}
          <div className={desk.buttons}>
            <Button
              variant="default"
              disabled={said.trim() === ""}
              loading={add.isPending}
              onClick={() => add.mutate()}
            >
              Add
            </Button>
          </div>
        </>
      )}
    </section>
  );
}
