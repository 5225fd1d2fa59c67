/** The sore spot while it is worked: right and left side by side, the last visits beside today, and the round that goes
 * on with its own time. */
import type { Schema } from "../../api/client";
import { facts } from "../../api/facts.gen";
import { SoreRing } from "../../shared/parts";
import type { TreatmentState } from "../../treatment/fold";
import { fill } from "../../treatment/moves";
import css from "./TreatScreen.module.css";
import type { Now } from "./useNow";

type Stop = Schema["Stop"];
type Record = TreatmentState["records"][string];
type Side = "left" | "right" | null;
const COLUMNS: BySide<Side[]> = { both: ["right", "left"], left: ["left"], right: ["right"], midline: [null] };
type BySide<T> = { [side: string]: T };
const DAY: Intl.DateTimeFormatOptions = { day: "numeric", month: "short" };

/** Today's values of each side, and beside them what was felt there before. */
export function Sides({ stop, record, sided }: { stop: Stop; record: Record; sided: Side }) {
  const columns = stop.dose.together && record.soreness.every((one) => !one.side) ? [null] : (COLUMNS[stop.side] ?? []);
  const before = stop.before ?? [];
  if (record.soreness.length === 0 && before.length === 0) return null;
  return (
    <div className={css.sides} data-testid="felt">
      {columns.map((side) => {
        const today = record.soreness.filter((one) => (one.side ?? null) === side || (one.side === null && !side));
        const earlier = before
          .filter((one) => !side || one.side === side || one.side === "both")
          .slice(columns.length > 1 ? -1 : -2);
        return (
          <section key={side ?? "middle"} aria-label={side ?? "Soreness here"} data-now={side === sided || undefined}>
            <b>{side ?? "Here"}</b>
            {today.map((one) => (
              <span key={one.at} className={css.said}>
                <SoreRing value={one.value} size={38} />
                {one.by === "person" && <small>self-rated</small>}
              </span>
            ))}
            {today.length === 0 && <span>not rated yet</span>}
            {earlier.map((one) => (
              <span key={one.on + one.side} className={css.earlier}>
                {new Date(one.on).toLocaleDateString("en-GB", DAY)}: {one.first}
                {one.last !== one.first && ` → ${one.last}`}
                {one.way && `, ${WAY[one.way]}`}
              </span>
            ))}
          </section>
        );
      })}
    </div>
  );
}

const WAY = { ease: "lightened", rim: "rim", firm: "firmer" };

/** The round that goes on: what is done, how long still, then what is asked. */
export function Round({ session, now }: { session: TreatmentState; now: Now }) {
  const { loop } = session;
  const tried = now.record?.rounds.at(-1);
  if (!loop || !tried || now.loop === null) return null;
  const asks = now.loop <= 0;
  const left = Math.max(Math.ceil(now.loop), 0);
  return (
    <section className={css.round} data-asks={asks || undefined} aria-label="At the sore spot">
      <svg viewBox="0 0 60 60" role="img" aria-label={`${left} s left`}>
        <circle cx="30" cy="30" r="25" className={css.roundRim} />
        <circle
          cx="30"
          cy="30"
          r="25"
          className={css.roundLeft}
          pathLength={loop.seconds}
          strokeDasharray={`${Math.max(now.loop, 0)} ${loop.seconds}`}
        />
        <text x="30" y="37" textAnchor="middle">
          {asks ? "?" : left}
        </text>
      </svg>
      <p role="status">
        {asks ? fill(facts.words.as_before, { level: tried.level }) : (session.advice?.text ?? facts.ways[loop.way])}
      </p>
    </section>
  );
}
