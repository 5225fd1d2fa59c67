/** Before the hands are on and after they are off: the beginning, what can stand in its way, and what is left to do. */
import { Button } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import type { ApiError, Schema } from "../../api/client";
import { facts } from "../../api/facts.gen";
import { useMe } from "../../api/queries";
import { ScoreView } from "../../score/ScoreView";
import { Asks, LimitStrip } from "../../shared/parts";
import { minutesAndSeconds, positionWords } from "../../shared/words";
import { DisputedEntries } from "../../treatment/DisputedEntries";
import type { TreatmentState } from "../../treatment/fold";
import { Afterwards } from "./Afterwards";
import { RateAfter } from "./RateAfter";
import css from "./TreatScreen.module.css";
import type { Treatment } from "./useConductor";
import { outcomeOf, WhatToDo, wasWrong } from "./Wrong";

type Detail = Schema["Detail"];

export function Begin({ treatment }: { treatment: Treatment }) {
  const { visit, person, say } = treatment;
  const score = visit?.score;
  if (!person || !visit) return null;
  if (treatment.refused) return <Refused treatment={treatment} refusal={treatment.refused} />;
  if (score?.decision !== "ok") {
    return (
      <main className={css.begin}>
        <h1>{person.given_name}</h1>
        <p>There is no score for this visit yet.</p>
        <Link to="/people/$personId/compose" params={{ personId: person.id }}>
          Compose a score
        </Link>
      </main>
    );
  }
  return (
    <main className={css.begin}>
      <h1>{person.given_name}</h1>
      <LimitStrip limits={person.limits} more={12} />
      <Disputes treatment={treatment} />
      <Asks asks={score.asks} />
      <ScoreView score={score} />
      <p>
        {score.stops.filter((stop) => !stop.muted).length} stops, {minutesAndSeconds(score.total_s)}. Starts{" "}
        {positionWords[score.stops[0]?.position ?? "supine"]}. Space pauses, X ends the session.
      </p>
      <div className={css.row}>
        <Button size="xl" className={css.now} onClick={() => say({ kind: "begin", version: visit.version })}>
          Start session
        </Button>
        <Link to="/people/$personId/compose" params={{ personId: person.id }}>
          Back to the score
        </Link>
      </div>
    </main>
  );
}

/** "GB21: why" and "LI4: why" as one why, with what it is said of. */
function byReason(details: Detail[]): [string, string[]][] {
  const found = new Map<string, string[]>();
  for (const { message } of details) {
    const at = message.indexOf(": ");
    const [name, reason] = at < 0 ? ["", message] : [message.slice(0, at), message.slice(at + 2)];
    found.set(reason, [...(found.get(reason) ?? []), name]);
  }
  return [...found];
}

/** The start was refused: what stands in the way, and the way on. */
function Refused({ treatment, refusal }: { treatment: Treatment; refusal: ApiError }) {
  const { person, open } = treatment;
  if (!person) return null;
  const { details, message, code } = refusal.problem;
  return (
    <main className={css.begin}>
      <h1>{person.given_name}</h1>
      <div role="alert" className={css.refused}>
        <p>{message}</p>
        {details && details.length > 0 && (
          <dl>
            {byReason(details).map(([reason, names]) => (
              <div key={reason}>
                <dt>{names.join(", ")}</dt>
                <dd>{reason}</dd>
              </div>
            ))}
          </dl>
        )}
      </div>
      <div className={css.row}>
        {code === "conflict" ? (
          <Button size="xl" className={css.now} onClick={() => void open()}>
            Reload the score
          </Button>
        ) : (
          <Link className={css.link} to="/people/$personId/compose" params={{ personId: person.id }}>
            Compose again
          </Link>
        )}
        <Link to="/people/$personId/story" params={{ personId: person.id }}>
          Screening
        </Link>
      </div>
    </main>
  );
}

/** What happened and could not be applied, to be settled here or in the write-up. */
function Disputes({ treatment }: { treatment: Treatment }) {
  return <DisputedEntries entries={treatment.disputed} settle={treatment.settle} />;
}

export function feltOf(session: TreatmentState) {
  const felt: Record<string, { first: number; last: number }> = {};
  for (const [key, record] of Object.entries(session.records)) {
    const first = record.soreness[0];
    const last = record.soreness.at(-1);
    if (first && last) felt[key] = { first: first.value, last: last.value };
  }
  return felt;
}

/** What was seen or said at each stop, by name, for the score. */
export function seenOf(session: TreatmentState) {
  return Object.fromEntries(
    Object.entries(session.records)
      .filter(([, record]) => record.reactions.length > 0)
      .map(([key, record]) => [key, record.reactions.map((name) => facts.reactions[name])]),
  );
}

export function Over({ treatment, session }: { treatment: Treatment; session: TreatmentState }) {
  const { person, visit, unsent, away } = treatment;
  const me = useMe();
  if (!person || !session.score) return null;
  const outcome = outcomeOf(session);
  return (
    <main className={css.begin}>
      <h1>{session.status === "finished" ? "Done" : "Stopped"}</h1>
      {outcome ? (
        <WhatToDo session={session} outcome={outcome} />
      ) : (
        <p>
          Offer water and rest; help them get up slowly.{" "}
          {session.advice?.follows === "stop_session" && session.advice.text}
        </p>
      )}
      {wasWrong(session) && <p>Note what you observed before you close this record.</p>}
      {!outcome && session.advice?.follows === "stop_session" && me.data?.emergency && <p>{me.data.emergency}</p>}
      {!outcome && visit && <RateAfter personId={person.id} visitId={visit.id} />}
      <ScoreView score={session.score} felt={feltOf(session)} seen={seenOf(session)} />
      <Afterwards session={session} say={treatment.say} />
      {unsent > 0 && <Kept unsent={unsent} away={away} />}
      <Disputes treatment={treatment} />
      <div className={css.row}>
        <Link
          className={css.link}
          to="/people/$personId/complaints"
          params={{ personId: person.id }}
          search={{ moment: "after" }}
        >
          Complaints
        </Link>
        <Link to="/people/$personId/take-away" params={{ personId: person.id }}>
          Write up
        </Link>
      </div>
    </main>
  );
}

export function Kept({ unsent, away }: { unsent: number; away: boolean }) {
  return (
    <p className={css.kept} role="status" data-testid="unsent">
      {away ? "Offline." : "Sending."} {unsent === 1 ? "1 entry" : `${unsent} entries`} saved on this device.
    </p>
  );
}
