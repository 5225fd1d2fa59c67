/** The treatment as a fold over its events: what the core will say of them, said here while the server is away.
 *
 * The core (src/acuthesis/core/treat/fold.py and the files beside it) decides; this says the same in the browser, and
 * is held to it event by event by fold.test.ts. Its thresholds and words are the core's own.
 * Decision: docs/decisions/0005-treating-offline.md
 */
import type { Schema } from "../api/client";
import { facts } from "../api/facts.gen";
import { isPressed } from "../score/shapes";
import { felt, overrule } from "./loop";
import { advise, close, current, end, fill, hold, leave, withRecord } from "./moves";
import { Disputed, type Event, isOver, type Score, type Stop, type StopRecord, type TreatmentState } from "./state";
import { asPlanned, came, reacted, wrong } from "./watching";

export { Disputed, type Event, NOTHING_YET, type Score, type Sent, type TreatmentState } from "./state";

const { words } = facts;
const NEVER_CHANGED = new Set(["records", "past", "event_count"]);
/** What is said of a stop. */
export const AT_STOP = new Set<Event["kind"]>([
  "level",
  "soreness",
  "reaction",
  "technique",
  "sign",
  "note",
  "found",
  "later",
]);
const AFTERWARDS = new Set<Event["kind"]>(["note", "time", "undo"]);

/** State after events; those that cannot follow are passed over and named. `score` is what a beginning begins with. */
export function preview(
  treatment: TreatmentState,
  events: Event[],
  score: Score | null,
): { session: TreatmentState; disputed: Set<string> } {
  let state = treatment;
  const disputed = new Set<string>();
  for (const event of events) {
    try {
      state = step(state, event, score);
    } catch (error) {
      if (!(error instanceof Disputed)) throw error;
      disputed.add(event.id);
    }
  }
  return { session: state, disputed };
}

/** State after one more event. Throws Disputed for one that cannot follow; nothing is changed then. */
export function step(treatment: TreatmentState, event: Event, score: Score | null): TreatmentState {
  const next = moved(treatment, event, score);
  return { ...next, event_count: (treatment.event_count ?? 0) + 1 };
}

function moved(treatment: TreatmentState, event: Event, score: Score | null): TreatmentState {
  if (event.kind === "begin") return begun(treatment, event, "score" in event ? event.score : score);
  if (event.kind === "undo") return undone(treatment, event);
  return remembered(applied(treatment, event), treatment, event);
}

type Moving = Exclude<Event, { kind: "begin" | "undo" }>;

function applied(treatment: TreatmentState, event: Moving): TreatmentState {
  if (treatment.status === "not_begun") throw new Disputed(`“${event.kind}” before the session started`);
  if (isOver(treatment) && !AFTERWARDS.has(event.kind)) throw new Disputed(`“${event.kind}” after the session ended`);
  const key = "key" in event && AT_STOP.has(event.kind) ? event.key : null;
  return key && key !== treatment.current ? movedElsewhere(treatment, event, key) : movedHere(treatment, event);
}

/** What is said of another stop than the one that hands are at: done as if they were there, and then everything of the
 * moment is as it was. Only an end is an end. */
function movedElsewhere(treatment: TreatmentState, event: Moving, key: string): TreatmentState {
  const record = treatment.records[key];
  if (!record) throw new Disputed(`the score has no stop “${key}”`);
  if (!record.started) throw new Disputed(`“${event.kind}” at a stop before it was started`);
  const there = close(movedHere({ ...treatment, current: key, running_since: null, loop: null }, event));
  const { current, running_since, status, advice, loop } = treatment;
  const back: TreatmentState = { ...there, current, running_since, status, advice, loop };
  if (!isOver(there) || isOver(treatment)) return back;
  return { ...end(back, there.ended_at ?? event.at, "stopped"), advice: there.advice };
}

function movedHere(treatment: TreatmentState, event: Moving): TreatmentState {
  switch (event.kind) {
    case "start_stop":
      return started(treatment, event);
    case "pause":
      return hold(treatment, event.at);
    case "resume":
      return treatment.current && !treatment.running_since
        ? { ...treatment, running_since: event.at, status: "running" }
        : treatment;
    case "level":
      return levelled(treatment, event);
    case "soreness":
      return felt(treatment, event);
    case "reaction":
      return reacted(treatment, event);
    case "wrong":
      return wrong(treatment, event);
    case "technique":
    case "later":
      return overrule(treatment, event);
    case "as_planned":
      return asPlanned(treatment);
    case "sign":
      return came(treatment, event);
    case "breath":
      return { ...treatment, breath_s: event.seconds };
    case "note":
      return {
        ...treatment,
        notes: [...treatment.notes, { at: event.at, key: treatment.current ?? null, text: event.text }],
      };
    case "found":
      return found(treatment, event);
    case "time":
      return timePut(treatment, event);
    case "rest":
      return anotherRest(treatment, event);
    case "limits":
      return limited(treatment, event);
    case "end":
      return end(treatment, event.at, event.reason);
  }
}

function begun(treatment: TreatmentState, event: Event, score: Score | null): TreatmentState {
  if (treatment.status !== "not_begun") throw new Disputed("the session has already started");
  if (score?.decision !== "ok") throw new Disputed("the screening does not allow a session");
  const records = fresh(treatment, score.stops);
  return { ...treatment, status: "ready", score, records, began_at: event.at };
}

/** Records of stops that have not begun; muted ones have none. */
function fresh(treatment: TreatmentState, stops: readonly Stop[]): Record<string, StopRecord> {
  const records: Record<string, StopRecord> = {};
  for (const stop of stops) {
    if (stop.muted) continue;
    records[stop.key] = {
      key: stop.key,
      started: 0,
      active_s: 0,
      level: treatment.asleep ? Math.min(stop.level, facts.asleep_most) : stop.level,
      ceiling: stop.ceiling,
      ceiling_reasons: stop.ceiling_reasons,
      soreness: [],
      rounds: [],
      reactions: [],
      techniques: [],
      signs: [],
      came_s: null,
      look_s: null,
      said: [],
      left: false,
    };
  }
  return records;
}

/** What has not begun gives way; what has, stays where it was, and the new stops follow it. */
function anotherRest(
  treatment: TreatmentState,
  event: Schema["ChangeRest"] | Schema["ChangeRestWith"],
): TreatmentState {
  const { score } = treatment;
  // What is sent carries the stops as they were offered, laid out; the server lays them out anew.
  const stops = event.stops as Stop[];
  if (!score) throw new Disputed("there is no score");
  const keys = new Set(stops.map((stop) => stop.key));
  if (keys.size !== stops.length || stops.some((stop) => stop.key in treatment.records))
    throw new Disputed("a stop of the new plan has a key that is already used");
  const isGone = (stop: Stop) => {
    const record = treatment.records[stop.key];
    return !stop.muted && !record?.started && !record?.left;
  };
  const gone = score.stops.filter(isGone);
  const again = new Set(stops.map((stop) => `${stop.id} ${stop.side}`));
  const comesNot = (one: { id: string; side: string }) => !again.has(`${one.id} ${one.side}`);
  const given_up = [
    ...(treatment.given_up ?? []).filter(comesNot),
    ...gone
      .filter((stop) => isPressed(stop) && comesNot(stop))
      .map(({ key, id, name, side, kind }) => ({ key, id, name, side, kind, why: event.why ?? "" })),
  ];
  const out = new Set(gone.map((stop) => stop.key));
  const kept = Object.entries(treatment.records).filter(([key]) => !out.has(key));
  const all = [...score.stops.filter((stop) => !out.has(stop.key)), ...stops];
  const ends = all.filter((stop) => !stop.muted).map((stop) => stop.start_s + stop.duration_s);
  return {
    ...treatment,
    score: { ...score, stops: all, total_s: Math.max(0, ...ends) },
    records: { ...Object.fromEntries(kept), ...fresh(treatment, stops) },
    given_up,
    second_looks: treatment.second_looks.filter((key) => !out.has(key)),
  };
}

const differs = (a: unknown, b: unknown) => a !== b && JSON.stringify(a) !== JSON.stringify(b);

/** Keep what the event changed as it was. New limits are not taken back, nor anything that lies before them. */
function remembered(treatment: TreatmentState, before: TreatmentState, event: Event): TreatmentState {
  if (event.kind === "limits") return { ...treatment, past: [] };
  const fields = Object.entries(before).filter(
    ([name, value]) => !NEVER_CHANGED.has(name) && differs(value, treatment[name as keyof TreatmentState]),
  );
  const records = Object.entries(before.records).filter(([key, one]) => differs(one, treatment.records[key]));
  const past = {
    id: event.id,
    what: inWords(event),
    session: Object.fromEntries(fields),
    records: Object.fromEntries(records),
    added: Object.keys(treatment.records).filter((key) => !(key in before.records)),
  };
  return { ...treatment, past: [...(before.past ?? []), past].slice(-facts.most_past) };
}

/** What the last event changed is as it was before it; a clock that it had held runs on. */
function undone(treatment: TreatmentState, event: Schema["Undo"]): TreatmentState {
  const last = treatment.past?.at(-1);
  if (!last || last.id !== event.of) throw new Disputed("only the last entry can be undone");
  const added = new Set(last.added ?? []);
  const kept = Object.entries(treatment.records).filter(([key]) => !added.has(key));
  const back = {
    ...treatment,
    ...last.session,
    records: { ...Object.fromEntries(kept), ...last.records },
    past: treatment.past?.slice(0, -1),
  } as TreatmentState;
  return advise(back, fill(words.undone, { what: last.what }));
}

function started(treatment: TreatmentState, event: Schema["StartStop"]): TreatmentState {
  const record = treatment.records[event.key];
  if (!record) throw new Disputed(`the score has no stop “${event.key}”`);
  if (record.left) throw new Disputed(`“${event.key}” was left for today`);
  const waiting = hold(close(treatment), event.at);
  const now = waiting.records[event.key] ?? record;
  const look_s = treatment.second_looks.includes(event.key) && now.started > 0 ? now.active_s : null;
  return {
    ...withRecord(waiting, { ...now, started: now.started + 1, came_s: null, look_s }),
    current: event.key,
    running_since: event.at,
    status: "running",
    advice: null,
    second_looks: treatment.second_looks.filter((key) => key !== event.key),
  };
}

function levelled(treatment: TreatmentState, event: Schema["SetLevel"]): TreatmentState {
  const record = current(treatment, event);
  if (event.level > record.ceiling) throw new Disputed(`level ${event.level} is above ${record.ceiling}`);
  if (treatment.asleep && event.level > facts.asleep_most)
    throw new Disputed(fill(words.asleep, { level: facts.asleep_most }));
  const told =
    event.by === "person"
      ? advise(
          treatment,
          event.level === 1 && record.level <= 1
            ? words.asks_lightest
            : fill(words.asks_lighter, { level: event.level }),
          "lighten",
        )
      : treatment;
  return withRecord(told, { ...askedAt(treatment, record, event.level), level: event.level });
}

/** What a hand found at the place of a stop: the newest of a side counts. */
function found(treatment: TreatmentState, event: Schema["Found"]): TreatmentState {
  const { key } = current(treatment, event);
  const stop = treatment.score?.stops.find((one) => one.key === key);
  if (!stop || !isPressed(stop) || ![event.side, "both", "midline"].includes(stop.side))
    throw new Disputed(`there is no stop there on the ${event.side}`);
  const offset = event.offset ?? { mm: {} };
  const ways = new Set((stop.beside ?? []).map((way) => way.name));
  if (Object.keys(offset.mm ?? {}).some((name) => !ways.has(name)))
    throw new Disputed("there is no such direction at this point");
  const { id, side, at } = event;
  const others = (treatment.found ?? []).filter((one) => one.key !== key || one.side !== side);
  return { ...treatment, found: [...others, { id, key, side, texture: event.texture ?? null, offset, at }] };
}

/** A record whose round that goes on is asked at another level. */
function askedAt(treatment: TreatmentState, record: StopRecord, level: number): StopRecord {
  const going = treatment.loop?.key === record.key ? record.rounds.at(-1) : undefined;
  return going ? { ...record, rounds: [...record.rounds.slice(0, -1), { ...going, level }] } : record;
}

function timePut(treatment: TreatmentState, event: Schema["PutTime"]): TreatmentState {
  const record = treatment.records[event.key];
  if (!record) throw new Disputed(`the score has no stop “${event.key}”`);
  if (event.key === treatment.current && treatment.running_since) throw new Disputed("the timer is running");
  return withRecord(treatment, { ...record, active_s: event.active_s });
}

/** Lower what is above the new ceilings; leave what is refused now; end what must not go on. */
function limited(treatment: TreatmentState, event: Schema["NewLimits"]): TreatmentState {
  let next = treatment;
  for (const [key, now] of Object.entries(event.ceilings)) {
    const record = next.records[key];
    const planned = treatment.score?.stops.find((stop) => stop.key === key)?.ceiling;
    if (!record || planned === undefined) continue;
    const ceiling = Math.min(now.ceiling, planned);
    const going = next.loop?.key === key ? record.rounds.at(-1) : undefined;
    next = withRecord(next, {
      ...(going ? askedAt(next, record, Math.min(going.level, ceiling)) : record),
      ceiling,
      ceiling_reasons: now.reasons,
      level: Math.min(record.level, ceiling),
    });
    if (record.level > now.ceiling && key === treatment.current)
      next = advise(next, fill(words.lowered, { level: now.ceiling, reason: now.reasons[0] }), "lighten");
  }
  for (const [key, reason] of Object.entries(event.refused ?? {})) {
    const record = next.records[key];
    if (!record) continue;
    const { advice } = next;
    next = leave(next, record, fill(words.refused, { reason }));
    if (key !== treatment.current) next = { ...next, advice };
  }
  if (!event.no_session) return next;
  return end(advise(next, fill(words.no_session, { reason: event.no_session }), "stop_session"), event.at, "stopped");
}

/** An event in words, as the core tells it when it is taken back. */
function inWords(event: Event): string {
  switch (event.kind) {
    case "start_stop":
      return `hands on at ${event.key}`;
    case "level":
      return `level ${event.level}`;
    case "soreness":
      return `soreness ${event.value}${event.side ? `, ${event.side}` : ""}`;
    case "reaction":
      return event.words || facts.reactions[event.reaction].name.toLowerCase();
    case "wrong":
      if (event.answer === "begun") return "something was wrong";
      return event.answer === "closed" ? "nothing was wrong" : `${event.step}: ${event.answer}`;
    case "technique":
      return { ease: "eased and held", rim: "circled the rim" }[event.technique];
    case "sign":
      return `sign: ${facts.sign_words[event.sign]}`;
    case "breath":
      return `a breath of ${event.seconds} s`;
    case "note":
      return `“${event.text}”`;
    case "found":
      return event.texture ? `found ${event.texture}` : "found beside the calculated spot";
    case "time":
      return `${event.active_s} s at ${event.key}`;
    case "end":
      return `the end of the session (${event.reason})`;
    case "as_planned":
      return "levels as planned again";
    case "rest":
      return event.why ? `a new plan for the remaining time: ${event.why}` : "a new plan for the remaining time";
    case "pause":
      return "timer paused";
    case "resume":
      return "timer resumed";
    case "later":
      return "marked for later";
    default:
      return event.kind;
  }
}
