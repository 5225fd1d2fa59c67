/** Session summary, beside what was planned: stop by stop, and how long the person was in each position. Times can still
 * be put right, and the last thing said taken back. */
import { useState } from "react";
import { facts } from "../../api/facts.gen";
import { isPressed } from "../../score/shapes";
import desk from "../../shared/desk.module.css";
import { minutesAndSeconds, positionWords, shortId, sideWords } from "../../shared/words";
import type { TreatmentState } from "../../treatment/fold";
import type { Stop } from "../../treatment/state";
import type { Said } from "../../treatment/useTreatment";
import { order } from "./onward";
import css from "./TreatScreen.module.css";

type Record_ = TreatmentState["records"][string];
const TRIED = { later: "later", ease: "lightened", rim: "rim", firm: "once more firmly" } as const;

export function Afterwards({ session, say }: { session: TreatmentState; say: (said: Said) => void }) {
  const stops = order(session).filter((stop) => session.records[stop.key]?.started || isPressed(stop));
  const last = session.past.at(-1);
  return (
    <section className={css.afterwards} aria-label="Session summary">
      <Positions session={session} />
      <table className={desk.table}>
        <thead>
          <tr>
            <th scope="col">Stop</th>
            <th scope="col">Planned</th>
            <th scope="col">Done</th>
            <th scope="col">Level</th>
            <th scope="col">Sore</th>
            <th scope="col">Methods, reactions, notes</th>
          </tr>
        </thead>
        <tbody>
          {stops.map((stop) => (
            <Row key={stop.key} stop={stop} session={session} say={say} />
          ))}
        </tbody>
      </table>
      {(session.given_up ?? []).length > 0 && (
        <p>
          Dropped:{" "}
          {session.given_up
            ?.map((one) => `${shortId(one.id)} ${sideWords[one.side as Stop["side"]]} (${one.why})`)
            .join(", ")}
          .
        </p>
      )}
      {last && (
        <button type="button" className={css.back} onClick={() => say({ kind: "undo", of: last.id })}>
          Undo: {last.what}
        </button>
      )}
    </section>
  );
}

/** Minutes in each position, by what was pressed in it and the way between. */
function Positions({ session }: { session: TreatmentState }) {
  const spent = new Map<Stop["position"], number>();
  for (const stop of order(session)) {
    const record = session.records[stop.key];
    if (!record?.started) continue;
    spent.set(stop.position, (spent.get(stop.position) ?? 0) + record.active_s + stop.find_s);
  }
  if (spent.size === 0) return null;
  return (
    <p>
      {[...spent].map(([position, seconds]) => `${minutesAndSeconds(seconds)} ${positionWords[position]}`).join(", ")}.
    </p>
  );
}

function Row({ stop, session, say }: { stop: Stop; session: TreatmentState; say: (said: Said) => void }) {
  const record = session.records[stop.key];
  if (!record) return null;
  const first = record.soreness[0];
  const last = record.soreness.at(-1);
  return (
    <tr data-left={record.left || undefined}>
      <th scope="row">
        {isPressed(stop) ? shortId(stop.id) : stop.name}
        {stop.side !== "midline" && ` ${sideWords[stop.side]}`}
      </th>
      <td>{minutesAndSeconds(stop.duration_s)}</td>
      <td>
        {record.started ? (
          <Done
            seconds={record.active_s}
            put={(active_s) => say({ kind: "time", key: stop.key, active_s })}
            name={stop.name}
          />
        ) : record.left ? (
          "left"
        ) : (
          "not reached"
        )}
      </td>
      <td>{record.level === stop.level ? record.level : `${stop.level} → ${record.level}`}</td>
      <td>{first && last && (first === last ? first.value : `${first.value} → ${last.value}`)}</td>
      <td>{toldOf(record, session, stop.key)}</td>
    </tr>
  );
}

function toldOf(record: Record_, session: TreatmentState, key: string): string {
  const seen = record.reactions.map((reaction) => facts.reactions[reaction].name.toLowerCase());
  const said = record.said.map((words) => `“${words}”`);
  const notes = session.notes.filter((note) => note.key === key).map((note) => note.text);
  const tried = record.rounds.map((round) => TRIED[round.taken]);
  return [...new Set([...tried, ...seen, ...said, ...notes, ...(record.left ? ["left for today"] : [])])].join(", ");
}

/** How long it was, as minutes and seconds; what is typed instead is kept on leaving the field. */
function Done({ seconds, put, name }: { seconds: number; put: (seconds: number) => void; name: string }) {
  const shown = minutesAndSeconds(seconds);
  const [typed, setTyped] = useState<string | null>(null);
  const leave = () => {
    const found = /^(\d{1,2}):([0-5]\d)$/.exec(typed?.trim() ?? "");
    setTyped(null);
    if (!found) return;
    const now = Number(found[1]) * 60 + Number(found[2]);
    if (Math.round(seconds) !== now && now <= 3600) put(now);
  };
  return (
    <input
      className={css.timePut}
      aria-label={`Time of ${name}, minutes and seconds`}
      value={typed ?? shown}
      onChange={(event) => setTyped(event.currentTarget.value)}
      onBlur={leave}
      onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
    />
  );
}
