/** The way through a score while it is played: what sounds, what comes next, what came before. */
import type { Schema } from "../../api/client";
import type { Session } from "../../treatment/fold";

type Stop = Schema["Stop"];

/** The stops that sound, in their order. */
export const order = (session: Session): Stop[] => (session.score?.stops ?? []).filter((stop) => !stop.muted);

const isOpen = (session: Session, stop: Stop) => !session.records[stop.key]?.left;

/** What comes after the current stop: the next untouched one, then the second looks; the quiet close is the end. */
export function following(session: Session): Stop | undefined {
  const stops = order(session);
  const at = stops.findIndex((stop) => stop.key === session.current);
  const untouched = stops
    .slice(at + 1)
    .find((stop) => isOpen(session, stop) && session.records[stop.key]?.started === 0);
  const second = session.second_looks
    .map((key) => stops.find((stop) => stop.key === key))
    .find((stop) => stop && stop.key !== session.current);
  // Second looks come before the quiet close.
  if (untouched && !(untouched === stops.at(-1) && second)) return untouched;
  return second ?? untouched;
}

/** The stop before the current one that has not been left for today. */
export function preceding(session: Session): Stop | undefined {
  const stops = order(session);
  const at = stops.findIndex((stop) => stop.key === session.current);
  return stops.slice(0, Math.max(at, 0)).findLast((stop) => isOpen(session, stop));
}
