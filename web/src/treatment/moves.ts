/** The small moves that everything at the table is made of, as core/treat/moves.py has them; each gives a new state. */
import { facts } from "../api/facts.gen";
import { Disputed, type Event, type Follows, type Session, type StopRecord } from "./state";

export const withRecord = (session: Session, record: StopRecord): Session => ({
  ...session,
  records: { ...session.records, [record.key]: record },
});

export const recordOf = (session: Session): StopRecord | undefined =>
  session.current ? session.records[session.current] : undefined;

/** The record of the stop that hands are at. Throws Disputed before the first. */
export function current(session: Session, event: Event): StopRecord {
  const record = recordOf(session);
  if (!record) throw new Disputed(`'${event.kind}' before a stop was started`);
  return record;
}

const secondsBetween = (earlier: string, later: string) =>
  Math.max((Date.parse(later) - Date.parse(earlier)) / 1000, 0);

/** Seconds that the current stop has been pressed for, up to a moment. */
export function pressedFor(session: Session, at: string): number {
  const record = recordOf(session);
  if (!record) return 0;
  return record.active_s + (session.running_since ? secondsBetween(session.running_since, at) : 0);
}

/** Stop the clock, and book what ran. */
export function hold(session: Session, at: string): Session {
  const record = recordOf(session);
  if (!record || !session.running_since) return session;
  const booked = withRecord(session, {
    ...record,
    active_s: record.active_s + secondsBetween(session.running_since, at),
  });
  return { ...booked, running_since: null, status: "paused" };
}

export const advise = (session: Session, text: string, follows: Follows = "none"): Session => ({
  ...session,
  advice: { follows, text },
});

/** One level less, and no way back up by itself: a round that goes on asks at the lower one. */
export function lighten(session: Session, was: StopRecord, text: string): Session {
  const going = session.loop?.key === was.key ? was.rounds.at(-1) : undefined;
  const rounds = going ? [...was.rounds.slice(0, -1), { ...going, level: Math.max(going.level - 1, 1) }] : was.rounds;
  const record = { ...was, rounds, level: Math.max(was.level - 1, 1) };
  return advise(withRecord(session, record), text, "lighten");
}

/** This place is left for today. */
export function leave(session: Session, record: StopRecord, text: string): Session {
  const closed = close(withRecord(session, { ...record, left: true }));
  return advise(unqueue(closed, record.key), text, "leave");
}

export function queue(session: Session, key: string): Session {
  if (session.second_looks.includes(key) || session.records[key]?.left) return session;
  return { ...session, second_looks: [...session.second_looks, key] };
}

export const unqueue = (session: Session, key: string): Session => ({
  ...session,
  second_looks: session.second_looks.filter((one) => one !== key),
});

/** A round that goes on ends, answered or not: the level is what it was before it. */
export function close(session: Session): Session {
  const record = session.loop ? session.records[session.loop.key] : undefined;
  const going = record?.rounds.at(-1);
  if (!record || !going) return session;
  const ended = withRecord(session, { ...record, level: allowed(session, record, going.level) });
  return { ...ended, loop: null };
}

/** The level, under the ceiling of the place and of who sleeps. */
export const allowed = (session: Session, record: StopRecord, level: number): number =>
  session.asleep ? Math.min(level, record.ceiling, facts.asleep_most) : Math.min(level, record.ceiling);

export const end = (session: Session, at: string, reason: "finished" | "stopped"): Session => ({
  ...hold(close(session), at),
  status: reason,
  ended_at: at,
});

/** Words with their places filled in; spaces that nothing stands between are one. */
export const fill = (text: string, values: Record<string, string | number | null | undefined>): string =>
  text
    .replace(/\{(\w+)\}/g, (_, name: string) => String(values[name] ?? ""))
    .replace(/\s+/g, " ")
    .trim();
