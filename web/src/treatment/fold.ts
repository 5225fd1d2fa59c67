/** The treatment as a fold over its events: what the core will say of them, said here while the server is away.
 *
 * The core (src/acuthesis/core/treat/session.py) decides; this says the same in the browser, and is held to it event by
 * event by fold.test.ts. Its thresholds and words are the core's own. Decision: docs/decisions/0005-treating-offline.md
 */
import type { Schema } from "../api/client";
import { facts } from "../api/facts.gen";

export type Score = Schema["Score"];
export type Session = Schema["Session"];
export type Sent = Schema["Events"]["events"][number];
/** What is sent, and what the server keeps of it or adds to it. */
export type Event = Sent | Schema["Begin"] | Schema["NewLimits"];
type StopRecord = Session["records"][string];
type Advice = NonNullable<Session["advice"]>;

/** An event that cannot follow what is there. It happened all the same: the server keeps it as disputed. */
export class Disputed extends Error {}

export const NOTHING_YET: Session = {
  status: "not_begun",
  score: null,
  records: {},
  current: null,
  running_since: null,
  advice: null,
  second_looks: [],
  asleep: false,
  wrong: [],
  began_at: null,
  ended_at: null,
  event_count: 0,
};

const { words } = facts;
const over = (session: Session) => session.status === "stopped" || session.status === "finished";
const fill = (text: string, values: Record<string, string | number>) =>
  text.replace(/\{(\w+)\}/g, (_, name: string) => String(values[name] ?? "")).trim();

/** State after events; those that cannot follow are passed over and named. `score` is what a beginning begins with. */
export function preview(
  session: Session,
  events: Event[],
  score: Score | null,
): { session: Session; disputed: Set<string> } {
  let state = session;
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
export function step(session: Session, event: Event, score: Score | null): Session {
  const next = applied(session, event, score);
  return { ...next, event_count: (session.event_count ?? 0) + 1 };
}

function applied(session: Session, event: Event, score: Score | null): Session {
  if (event.kind === "begin") return begun(session, event, "score" in event ? event.score : score);
  if (session.status === "not_begun") throw new Disputed(`'${event.kind}' before the treatment began`);
  if (over(session)) throw new Disputed(`'${event.kind}' after the treatment ended`);
  switch (event.kind) {
    case "start_stop":
      return started(session, event);
    case "pause":
      return held(session, event.at);
    case "resume":
      return session.current && !session.running_since
        ? { ...session, running_since: event.at, status: "running" }
        : session;
    case "level":
      return levelled(session, event);
    case "soreness":
      return felt(session, event);
    case "reaction":
      return reacted(session, event);
    case "wrong":
      return wrong(session, event);
    case "technique":
      return worked(session, event);
    case "later":
      return queued(session, current(session, event).key);
    case "limits":
      return limited(session, event);
    case "end":
      return ended(session, event.at, event.reason);
  }
}

function begun(session: Session, event: Event, score: Score | null): Session {
  if (session.status !== "not_begun") throw new Disputed("the treatment has begun already");
  if (score?.decision !== "ok") throw new Disputed("the screening does not allow a session");
  const records: Record<string, StopRecord> = {};
  for (const stop of score.stops) {
    if (stop.muted) continue;
    records[stop.key] = {
      key: stop.key,
      started: 0,
      active_s: 0,
      level: stop.level,
      ceiling: stop.ceiling,
      ceiling_reasons: stop.ceiling_reasons,
      soreness: [],
      reactions: [],
      techniques: [],
      said: [],
      left: false,
    };
  }
  return { ...session, status: "ready", score, records, began_at: event.at };
}

const withRecord = (session: Session, record: StopRecord): Session => ({
  ...session,
  records: { ...session.records, [record.key]: record },
});

const recordOf = (session: Session): StopRecord | undefined =>
  session.current ? session.records[session.current] : undefined;

/** Stop the clock, and book what ran. */
function held(session: Session, at: string): Session {
  const { running_since } = session;
  const record = recordOf(session);
  if (!record || !running_since) return session;
  const ran = Math.max((Date.parse(at) - Date.parse(running_since)) / 1000, 0);
  const booked = withRecord(session, { ...record, active_s: record.active_s + ran });
  return { ...booked, running_since: null, status: "paused" };
}

function started(session: Session, event: Schema["StartStop"]): Session {
  const record = session.records[event.key];
  if (!record) throw new Disputed(`the score has no stop '${event.key}'`);
  if (record.left) throw new Disputed(`'${event.key}' was left for today`);
  const waiting = held(session, event.at);
  const now = waiting.records[event.key] ?? record;
  return {
    ...withRecord(waiting, { ...now, started: now.started + 1 }),
    current: event.key,
    running_since: event.at,
    status: "running",
    advice: null,
    second_looks: session.second_looks.filter((key) => key !== event.key),
  };
}

function current(session: Session, event: Event): StopRecord {
  const record = recordOf(session);
  if (!record) throw new Disputed(`'${event.kind}' before a stop was started`);
  return record;
}

function levelled(session: Session, event: Schema["SetLevel"]): Session {
  const record = current(session, event);
  if (event.level > record.ceiling) throw new Disputed(`level ${event.level} is above ${record.ceiling}`);
  if (session.asleep && event.level > facts.asleep_most)
    throw new Disputed(fill(words.asleep, { level: facts.asleep_most }));
  return withRecord(session, { ...record, level: event.level });
}

function felt(session: Session, event: Schema["Soreness"]): Session {
  const was = current(session, event);
  const side = event.side ?? null;
  const before = was.soreness.filter((one) => (one.side ?? null) === side);
  const said = { value: event.value, level: was.level, at: event.at, side };
  const record = { ...was, soreness: [...was.soreness, said] };
  const next = withRecord(session, record);
  const same = before.filter((one) => one.level === was.level).at(-1);
  const last = before.at(-1);
  if (event.value > facts.too_sore && before.some((one) => one.value > facts.too_sore))
    return left(next, record, words.very_sore_twice);
  if (same && event.value - same.value >= facts.worse_by) return left(next, record, words.grows);
  if (event.value > facts.too_sore) return lightened(next, record, words.very_sore);
  if (event.value >= facts.sore_enough && !last)
    return queued({ ...next, advice: { follows: "none", text: words.sore } }, record.key);
  if (last && event.value < last.value)
    return { ...next, advice: { follows: "none", text: fill(words.eases, { before: last.value, now: event.value }) } };
  return next;
}

function reacted(session: Session, event: Schema["Reacted"]): Session {
  const known = facts.reactions[event.reaction];
  const was = recordOf(session);
  const again = was?.reactions.includes(event.reaction) ?? false;
  const follows = again && known.second ? known.second : known.then;
  const say: string = again && known.second_say ? known.second_say : known.say;
  const text = known.lay ? say.replace("{lay}", helpOf(session).lay[known.lay] ?? "") : say;
  const spoken = event.words ? [event.words] : [];
  const told = was && { ...was, reactions: [...was.reactions, event.reaction], said: [...was.said, ...spoken] };
  const next = slept(told ? withRecord(session, told) : session, event.reaction);
  const record = recordOf(next);
  if (follows === "stop_session") return ended({ ...next, advice: { follows, text } }, event.at, "stopped");
  if (record && follows === "leave") return left(next, record, text);
  if (record && follows === "lighten") return lightened(next, record, text);
  return { ...next, advice: { follows: "none", text } };
}

/** What helps this person: it came with the score when the treatment began. */
export const helpOf = (session: Session): NonNullable<Score["help"]> => session.score?.help ?? facts.usual_help;

/** Who sleeps cannot say what is too much: everything to come is lightened until they are awake. */
function slept(session: Session, reaction: Schema["Reacted"]["reaction"]): Session {
  if (reaction === "awake") return { ...session, asleep: false };
  if (reaction !== "asleep") return session;
  const lighter = Object.entries(session.records).map(([key, one]) => [
    key,
    { ...one, level: Math.min(one.level, facts.asleep_most) },
  ]);
  return { ...session, asleep: true, records: Object.fromEntries(lighter) };
}

/** One question on in finding out what is wrong; at an outcome, what it says. */
function wrong(session: Session, event: Schema["Wrong"]): Session {
  const helped = helpOf(session);
  const to = event.answer === "begun" ? "" : afterAnswer(event.step, event.answer, helped);
  const waiting = held(session, event.at);
  const step = { at: event.at, step: event.step, answer: event.answer, to };
  const next = { ...waiting, wrong: [...waiting.wrong, step] };
  const outcome = outcomes[to];
  if (!outcome) return next;
  const text = saidOf(outcome, helped);
  const record = recordOf(next);
  if (outcome.then === "stop")
    return ended({ ...next, advice: { follows: "stop_session", text } }, event.at, "stopped");
  if (outcome.then === "leave" && record) return left(next, record, text);
  return { ...next, advice: { follows: "none", text } };
}

type Helped = NonNullable<Score["help"]>;
type Asked = { ask: string; yes: string; no: string; pregnant: boolean };
export type Outcome = {
  title: string;
  do: readonly string[];
  lay: string;
  call: boolean;
  phone: readonly string[];
  then: string;
};
export const questions: Record<string, Asked> = facts.wrong.questions;
export const outcomes: Record<string, Outcome> = facts.wrong.outcomes;
export const layOf = (outcome: Outcome, helped: Helped) => (outcome.lay ? (helped.lay[outcome.lay] ?? "") : "");
const saidOf = (outcome: Outcome, helped: Helped) =>
  [`${outcome.title}.`, ...outcome.do, layOf(outcome, helped)].filter(Boolean).join(" ");

/** Where an answer leads, past questions that this person is not asked. Throws Disputed for no such question. */
export function afterAnswer(step: string, answer: "yes" | "no", helped: Helped): string {
  const asked = questions[step];
  if (!asked) throw new Disputed(`'${step}' is not asked when something is wrong`);
  let to = asked[answer];
  while (questions[to]?.pregnant && !helped.pregnant) to = questions[to]?.no ?? "";
  return to;
}

function worked(session: Session, event: Schema["ChangeTechnique"]): Session {
  const was = current(session, event);
  const record = { ...was, techniques: [...was.techniques, event.technique] };
  const next = withRecord(session, record);
  return event.technique === "ease"
    ? lightened(next, record, words.ease)
    : { ...next, advice: { follows: "none", text: words.rim } };
}

/** Lower what is above the new ceilings; leave what is refused now; end what must not go on. */
function limited(session: Session, event: Schema["NewLimits"]): Session {
  let next = session;
  for (const [key, now] of Object.entries(event.ceilings)) {
    const record = next.records[key];
    const planned = session.score?.stops.find((stop) => stop.key === key)?.ceiling;
    if (!record || planned === undefined) continue;
    const ceiling = Math.min(now.ceiling, planned);
    next = withRecord(next, {
      ...record,
      ceiling,
      ceiling_reasons: now.reasons,
      level: Math.min(record.level, ceiling),
    });
    if (record.level > now.ceiling && key === session.current)
      next = { ...next, advice: lowered(now.ceiling, now.reasons[0] ?? "") };
  }
  for (const [key, reason] of Object.entries(event.refused ?? {})) {
    const record = next.records[key];
    if (!record) continue;
    const { advice } = next;
    next = left(next, record, fill(words.refused, { reason }));
    if (key !== session.current) next = { ...next, advice };
  }
  if (!event.no_session) return next;
  const text = fill(words.no_session, { reason: event.no_session });
  return ended({ ...next, advice: { follows: "stop_session", text } }, event.at, "stopped");
}

const lowered = (level: number, reason: string): Advice => ({
  follows: "lighten",
  text: fill(words.lowered, { level, reason }),
});

function lightened(session: Session, record: StopRecord, text: string): Session {
  const next = withRecord(session, { ...record, level: Math.max(record.level - 1, 1) });
  return { ...next, advice: { follows: "lighten", text } };
}

function left(session: Session, record: StopRecord, text: string): Session {
  const second_looks = session.second_looks.filter((key) => key !== record.key);
  return { ...withRecord(session, { ...record, left: true }), second_looks, advice: { follows: "leave", text } };
}

function queued(session: Session, key: string): Session {
  if (session.second_looks.includes(key) || session.records[key]?.left) return session;
  return { ...session, second_looks: [...session.second_looks, key] };
}

function ended(session: Session, at: string, reason: "finished" | "stopped"): Session {
  return { ...held(session, at), status: reason, ended_at: at };
}
