/** The small moves that everything at the table is made of, as core/treat/moves.py has them; each gives a new state. */
import { facts } from "../api/facts.gen";
import { Disputed, type Event, type Follows, type StopRecord, type TreatmentState } from "./state";

export const withRecord = (treatment: TreatmentState, record: StopRecord): TreatmentState => ({
  ...treatment,
  records: { ...treatment.records, [record.key]: record },
});

export const recordOf = (treatment: TreatmentState): StopRecord | undefined =>
  treatment.current ? treatment.records[treatment.current] : undefined;

/** The record of the stop that hands are at. Throws Disputed before the first. */
export function current(treatment: TreatmentState, event: Event): StopRecord {
  const record = recordOf(treatment);
  if (!record) throw new Disputed(`“${event.kind}” before a stop was started`);
  return record;
}

const secondsBetween = (earlier: string, later: string) =>
  Math.max((Date.parse(later) - Date.parse(earlier)) / 1000, 0);

/** Seconds that the current stop has been pressed for, up to a moment. */
export function pressedFor(treatment: TreatmentState, at: string): number {
  const record = recordOf(treatment);
  if (!record) return 0;
  return record.active_s + (treatment.running_since ? secondsBetween(treatment.running_since, at) : 0);
}

/** Stop the clock, and book what ran. */
export function hold(treatment: TreatmentState, at: string): TreatmentState {
  const record = recordOf(treatment);
  if (!record || !treatment.running_since) return treatment;
  const booked = withRecord(treatment, {
    ...record,
    active_s: record.active_s + secondsBetween(treatment.running_since, at),
  });
  return { ...booked, running_since: null, status: "paused" };
}

export const advise = (treatment: TreatmentState, text: string, follows: Follows = "none"): TreatmentState => ({
  ...treatment,
  advice: { follows, text },
});

/** One level less, and no way back up by itself: a round that goes on asks at the lower one. */
export function lighten(treatment: TreatmentState, was: StopRecord, text: string): TreatmentState {
  const going = treatment.loop?.key === was.key ? was.rounds.at(-1) : undefined;
  const rounds = going ? [...was.rounds.slice(0, -1), { ...going, level: Math.max(going.level - 1, 1) }] : was.rounds;
  const record = { ...was, rounds, level: Math.max(was.level - 1, 1) };
  return advise(withRecord(treatment, record), text, "lighten");
}

/** This place is left for today. */
export function leave(treatment: TreatmentState, record: StopRecord, text: string): TreatmentState {
  const closed = close(withRecord(treatment, { ...record, left: true }));
  return advise(unqueue(closed, record.key), text, "leave");
}

export function queue(treatment: TreatmentState, key: string): TreatmentState {
  if (treatment.second_looks.includes(key) || treatment.records[key]?.left) return treatment;
  return { ...treatment, second_looks: [...treatment.second_looks, key] };
}

export const unqueue = (treatment: TreatmentState, key: string): TreatmentState => ({
  ...treatment,
  second_looks: treatment.second_looks.filter((one) => one !== key),
});

/** A round that goes on ends, answered or not: the level is what it was before it. */
export function close(treatment: TreatmentState): TreatmentState {
  const record = treatment.loop ? treatment.records[treatment.loop.key] : undefined;
  const going = record?.rounds.at(-1);
  if (!record || !going) return treatment;
  const ended = withRecord(treatment, { ...record, level: allowed(treatment, record, going.level) });
  return { ...ended, loop: null };
}

/** The level, under the ceiling of the place and of who sleeps. */
export const allowed = (treatment: TreatmentState, record: StopRecord, level: number): number =>
  treatment.asleep ? Math.min(level, record.ceiling, facts.asleep_most) : Math.min(level, record.ceiling);

export const end = (treatment: TreatmentState, at: string, reason: "finished" | "stopped"): TreatmentState => ({
  ...hold(close(treatment), at),
  status: reason,
  ended_at: at,
});

/** Words with their places filled in; spaces that nothing stands between are one. */
export const fill = (text: string, values: Record<string, string | number | null | undefined>): string =>
  text
    .replace(/\{(\w+)\}/g, (_, name: string) => String(values[name] ?? ""))
    .replace(/\s+/g, " ")
    .trim();
