/** Joining what the server says with what is known here: a late answer must not undo a newer one, and entries stand where
 * the server will place them. */
import type { Sent } from "./fold";
import type { Treatment } from "./sender";

/** Of two states of a treatment the one that knows of more events; what is disputed is never forgotten on the way. */
export function later(now: Treatment | undefined, next: Treatment): Treatment {
  if (!now || (now.session.event_count ?? 0) <= (next.session.event_count ?? 0)) return next;
  return { ...now, disputed: next.disputed.length > now.disputed.length ? next.disputed : now.disputed };
}

/** Entries as the server will place them: `offset_s` is what has to be added to this device's clock. */
export function placed(events: Sent[], offset_s: number): Sent[] {
  if (offset_s === 0) return events;
  return events.map((event) => ({ ...event, at: new Date(Date.parse(event.at) + offset_s * 1000).toISOString() }));
}
