/** Every stop: planned against done, in time and level, with soreness first and last and what was seen. */
import type { Schema } from "../../api/client";
import { isPressed } from "../../score/shapes";
import desk from "../../shared/desk.module.css";
import { SoreRing } from "../../shared/parts";
import { minutesAndSeconds, type Side, sideWords } from "../../shared/words";
import css from "./VisitScreen.module.css";

type Stop = Schema["StopAccount"];

export function StopTable({ stops, begun }: { stops: readonly Stop[]; begun: boolean }) {
  return (
    <table className={desk.table}>
      <thead>
        <tr>
          <th scope="col">Stop</th>
          <th scope="col">Time</th>
          <th scope="col">Level</th>
          <th scope="col">Sore</th>
          <th scope="col">Observed</th>
        </tr>
      </thead>
      <tbody>
        {stops.map((stop) => (
          <tr key={stop.key} data-outcome={begun ? stop.outcome : undefined} className={css.stop}>
            <td>
              {stop.name} {isPressed(stop) && <span className={desk.small}>{sideWords[stop.side as Side]}</span>}
            </td>
            <td className={desk.figures}>
              {minutesAndSeconds(stop.planned_s)}
              {begun && stop.outcome !== "muted" && (
                <>
                  {" → "}
                  {stop.outcome === "not_reached" ? "–" : minutesAndSeconds(stop.done_s)}
                </>
              )}
            </td>
            <td className={desk.figures}>
              {stop.planned_level}
              {begun && stop.level !== stop.planned_level && ` → ${stop.level}`}
            </td>
            <td>
              {stop.sore_first !== null && (
                <span className={css.sore}>
                  <SoreRing value={stop.sore_first} size={28} />
                  {stop.sore_last !== null && stop.sore_last !== stop.sore_first && (
                    <>
                      {"→"} <SoreRing value={stop.sore_last} size={28} />
                    </>
                  )}
                </span>
              )}
            </td>
            <td className={desk.small}>
              {[begun || stop.outcome === "muted" ? stop.why : "", ...stop.reactions].filter(Boolean).join(", ")}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
