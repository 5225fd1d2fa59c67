/** The way through a score while it is played: what sounds, what comes next, what came before. */
import type { Schema } from "../../api/client";
import { isPressed } from "../../score/shapes";
import type { TreatmentState } from "../../treatment/fold";
import { secondVisit } from "../../treatment/second";

type Stop = Schema["Stop"];

/** The stops that sound, in their order. */
export const order = (session: TreatmentState): Stop[] => (session.score?.stops ?? []).filter((stop) => !stop.muted);

const isOpen = (session: TreatmentState, stop: Stop) => !session.records[stop.key]?.left;

/** What comes after the current stop: the next untouched one; where the score keeps time for second looks, those that
 * wait, the most worth first; without such a time, before the quiet close. */
export function following(session: TreatmentState): Stop | undefined {
  const stops = order(session);
  const at = stops.findIndex((stop) => stop.key === session.current);
  const untouched = stops
    .slice(at + 1)
    .filter((stop) => isOpen(session, stop) && session.records[stop.key]?.started === 0);
  const [first, after] = untouched;
  const second = secondVisit(session, 0)
    .map((look) => stops.find((stop) => stop.key === look.key))
    .find((stop) => stop && stop.key !== session.current);
  if (first?.kind === "second_look") {
    const looked = Object.values(session.records).some((one) => one.look_s !== null);
    return second ?? (looked ? after : first);
  }
  const closing = !untouched.some(isPressed);
  return (closing ? second : undefined) ?? first;
}

/** The stop before the current one that has not been left for today. */
export function preceding(session: TreatmentState): Stop | undefined {
  const stops = order(session);
  const at = stops.findIndex((stop) => stop.key === session.current);
  return stops.slice(0, Math.max(at, 0)).findLast((stop) => isOpen(session, stop));
}
