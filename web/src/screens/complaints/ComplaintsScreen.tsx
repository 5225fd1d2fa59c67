/** Complaints: what troubles the person, heard in their words, asked in full, rated before, after and from home. */
import { Button, SegmentedControl } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { api, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { type Complaint, complaintsQuery, refresh, todayQuery } from "../../api/queries";
import desk from "../../shared/desk.module.css";
import { Empty, ErrorPanel, Waiting } from "../../shared/parts";
import { stepPath } from "../../shared/steps";
import { dateOf, sideWords } from "../../shared/words";
import { AskAgain } from "./AskAgain";
import css from "./ComplaintsScreen.module.css";
import { Episodes } from "./Episodes";
import { type Moment, RateLine, ratedOf, ratingAt } from "./rating";
import { TakeUp } from "./TakeUp";

const MOMENTS: { value: Moment; label: string }[] = [
  { value: "before", label: "Before today" },
  { value: "after", label: "After today" },
  { value: "home", label: "From home" },
];

export function ComplaintsScreen() {
  const { personId } = useParams({ from: "/inside/people/$personId" });
  const complaints = useQuery(complaintsQuery(personId));
  const today = useQuery(todayQuery(personId));
  const { moment: asked } = useSearch({ from: "/inside/people/$personId/complaints" });
  const [chosen, setChosen] = useState<Moment | null>(asked ?? null);
  const writes = useMay("write_health");
  const navigate = useNavigate();
  if (complaints.isPending || today.isPending) return <Waiting for="Loading complaints" />;
  if (complaints.isError) return <ErrorPanel error={complaints.error} retry={() => void complaints.refetch()} />;
  const visit = today.data ?? undefined;
  const moment: Moment = chosen ?? (!visit ? "home" : visit.next.station === "rate_after" ? "after" : "before");
  const open = complaints.data.filter((complaint) => !complaint.closed_on);
  const closed = complaints.data.filter((complaint) => complaint.closed_on);
  const rated = open.every((c) => ratingAt(c.ratings, moment, visit?.visit_id) !== null);
  const onward = visit && !["complaints", "rate_before", "rate_after"].includes(visit.next.station);
  return (
    <div className={css.page}>
      <div className={css.list}>
        <div className={css.head}>
          <h2>How strong is it now?</h2>
          <SegmentedControl
            aria-label="When"
            data={visit ? MOMENTS : MOMENTS.slice(2)}
            value={moment}
            onChange={(value) => setChosen(value as Moment)}
          />
        </div>
        {open.length === 0 && <Empty>No complaints yet. Enter what they say on the right.</Empty>}
        {open.map((complaint) => (
          <One key={complaint.id} complaint={complaint} moment={moment} visitId={visit?.visit_id} personId={personId} />
        ))}
        {visit && onward && rated && open.length > 0 && (
          <Button
            size="md"
            className={css.onward}
            onClick={() => void navigate({ to: stepPath(visit.next.station, personId, visit.visit_id) })}
          >
            Next: {visit.next.label}
          </Button>
        )}
        {closed.length > 0 && (
          <section className={desk.section}>
            <h2>Closed</h2>
            {closed.map((complaint) => (
              <Closed key={complaint.id} complaint={complaint} personId={personId} />
            ))}
          </section>
        )}
      </div>
      {writes && <TakeUp personId={personId} taken={open.map((one) => one.kind)} />}
    </div>
  );
}

type OneProps = { complaint: Complaint; moment: Moment; visitId: string | undefined; personId: string };

function One({ complaint, moment, visitId, personId }: OneProps) {
  const [asking, setAsking] = useState(false);
  const writes = useMay("write_health");
  const [whole, ...acts] = ratedOf(complaint);
  const last = complaint.ratings.filter((r) => r.moment !== "after").at(-1);
  return (
    <section className={css.complaint} aria-label={complaint.name}>
      <h3>
        {complaint.name} {complaint.one_sided && <span>{sideWords[complaint.side]}</span>}
      </h3>
      <p className={css.meta}>
        {complaint.places[0] && `Marked on the figure: ${complaint.places[0].words}. `}
        {complaint.places[1] &&
          complaint.places[1].words !== complaint.places[0]?.words &&
          `Before: ${complaint.places[1].words}. `}
        {complaint.since && `Since ${dateOf(complaint.since)}. `}
        {last && `Last rating ${last.value}. `}
        {complaint.acts.length === 0 && "No activity named yet."}
      </p>
      {whole && <RateLine of={whole} moment={moment} visitId={visitId} personId={personId} />}
      {acts.map((act) => (
        <div key={act.id} className={css.act}>
          <p>
            {act.words}
            {act.ratings.length > 0 && <span className={css.meta}> last time {act.ratings.at(-1)?.value}</span>}
          </p>
          <RateLine of={act} moment={moment} visitId={visitId} personId={personId} />
        </div>
      ))}
      <Answers complaint={complaint} />
      {complaint.checked && (
        <p className={complaint.confirmed && !complaint.confirmed.stale ? css.meta : css.missing}>
          {complaint.checked}{" "}
          {complaint.confirmed
            ? `${complaint.confirmed.by}, ${dateOf(complaint.confirmed.seen_on)}${complaint.confirmed.stale ? " (out of date, ask again)" : ""}.`
            : "Not recorded yet."}
        </p>
      )}
      {writes &&
        (asking ? (
          <AskAgain complaint={complaint} personId={personId} onDone={() => setAsking(false)} />
        ) : (
          <div className={desk.buttons}>
            <Button size="compact-sm" variant="default" onClick={() => setAsking(true)}>
              {complaint.asked.length ? "Ask again" : "Ask more"}
            </Button>
            <CloseIt complaint={complaint} personId={personId} closed />
          </div>
        ))}
      <Episodes complaint={complaint} personId={personId} />
    </section>
  );
}

/** What was answered last time, in one line, and what is different from the time before. */
function Answers({ complaint }: { complaint: Complaint }) {
  const last = complaint.asked[0];
  if (!last) return null;
  const { own, quality, brings_on, eases, pattern, medicines_per_week } = last.answers;
  const told = [
    (quality ?? []).join(", "),
    pattern && (pattern === "waves" ? "in waves" : pattern === "episodes" ? "in episodes" : "constant"),
    brings_on && `brought on by ${brings_on}`,
    eases && `eased by ${eases}`,
    medicines_per_week != null && `medicine ${medicines_per_week} times per week`,
    ...Object.entries(own ?? {}).map(([question, answer]) => `${question} ${answer}`),
  ].filter(Boolean);
  const changed = Object.entries(last.changed);
  return (
    <div className={css.meta}>
      <p>
        {told.join(" · ")} <small>({dateOf(last.asked_at)})</small>
      </p>
      {changed.map(([question, [before, now]]) => (
        <p key={question}>
          <b>Changed</b> {question}: {before || "not specified"} → {now || "not specified"}
        </p>
      ))}
    </div>
  );
}

function Closed({ complaint, personId }: { complaint: Complaint; personId: string }) {
  return (
    <div className={desk.head}>
      <p>
        {complaint.name} <span className={css.meta}>closed {complaint.closed_on && dateOf(complaint.closed_on)}</span>
      </p>
      <CloseIt complaint={complaint} personId={personId} closed={false} />
    </div>
  );
}

function CloseIt({ complaint, personId, closed }: { complaint: Complaint; personId: string; closed: boolean }) {
  const queries = useQueryClient();
  const change = useMutation({
    mutationFn: () =>
      take(
        api.PATCH("/api/complaints/{complaint_id}", {
          params: { path: { complaint_id: complaint.id } },
          body: { version: complaint.version, closed },
        }),
      ),
    onSettled: () => refresh(queries, ["person", personId]),
  });
  return (
    <Button size="compact-sm" variant="subtle" loading={change.isPending} onClick={() => change.mutate()}>
      {closed ? "Close complaint" : "Reopen"}
    </Button>
  );
}
