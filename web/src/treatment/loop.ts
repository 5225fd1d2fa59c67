/** The sore spot, as core/treat/loop.py has it: what its soreness leads to, and the loop that is tried on it. */
import type { Schema } from "../api/client";
import { facts } from "../api/facts.gen";
import { advise, allowed, close, current, fill, leave, pressedFor, queue, unqueue, withRecord } from "./moves";
import type { Felt, Round, Score, StopRecord, TreatmentState, Way } from "./state";

export const OTHER: Partial<Record<Way, Way>> = { ease: "rim", rim: "ease" };
const OF_SCHOOL = { leave: "later", ease: "ease", rim: "rim", short_firm_press: "ease" } as const;
const { words, ways, whys } = facts;
type Why = Round["why"];
type Side = Felt["side"];
const sideOf = (one: { side?: Side }) => one.side ?? null;

function choose(score: Score, key: string, value: number, side: Side): [Way, Why] {
  const stop = score.stops.find((one) => one.key === key);
  if (value >= facts.too_sore) return ["ease", "very"];
  const helped = (stop?.before ?? []).findLast((one) => one.way && OTHER[one.way] && one.side === (side ?? stop?.side));
  if (helped?.way) return [helped.way, "helped"];
  if (value <= facts.sore_enough && score.stops.some((one) => one.kind === "second_look" && !one.muted))
    return ["later", "mild"];
  if (stop?.kind === "area") return ["rim", "area"];
  const { then, school } = score.sore ?? {};
  return [OF_SCHOOL[then ?? "ease"], school ? "school" : "usual"];
}

/** A soreness was said of the current stop. */
export function felt(was: TreatmentState, event: Schema["Soreness"]): TreatmentState {
  const { key } = current(was, event);
  const side = event.side ?? null;
  const going = was.loop?.key === key && sideOf(was.loop) === side ? was.records[key]?.rounds.at(-1) : undefined;
  let treatment = going ? answered(close(was), key, event.value) : was;
  const record = current(treatment, event);
  const before = record.soreness.filter((one) => sideOf(one) === side);
  const here: Felt = { value: event.value, level: record.level, at: event.at, side, by: event.by ?? "hand" };
  treatment = withRecord(treatment, { ...record, soreness: [...record.soreness, here] });
  const now = () => current(treatment, event);
  if (event.value <= facts.loop.hardly && !lastOfEach(now()).some((one) => one.value >= facts.sore_enough))
    treatment = unqueue(treatment, key);
  const same = before.filter((one) => one.level === record.level).at(-1);
  const last = before.at(-1);
  if (event.value > facts.too_sore && before.some((one) => one.value > facts.too_sore))
    return leave(treatment, now(), words.very_sore_twice);
  if (same && event.value - same.value >= facts.worse_by) return leave(treatment, now(), words.grows);
  if (going) return combine(event.value > facts.too_sore ? lower(treatment, key) : treatment, key, going, here);
  if (event.value > facts.too_sore || (event.value >= facts.sore_enough && !last)) return propose(treatment, key, here);
  if (last && event.value < last.value)
    return advise(treatment, fill(words.eases, { before: last.value, now: event.value }));
  return treatment;
}

const lastOfEach = (record: StopRecord): Felt[] => [
  ...new Map(record.soreness.map((one) => [sideOf(one), one])).values(),
];

/** The round that went on has its answer. */
function answered(treatment: TreatmentState, key: string, after: number): TreatmentState {
  const record = treatment.records[key];
  const round = record?.rounds.at(-1);
  if (!record || !round) return treatment;
  return withRecord(treatment, { ...record, rounds: [...record.rounds.slice(0, -1), { ...round, after }] });
}

function lower(treatment: TreatmentState, key: string): TreatmentState {
  const record = treatment.records[key];
  return record ? withRecord(treatment, { ...record, level: Math.max(record.level - 1, 1) }) : treatment;
}

/** The first round at a side that is sore. While one goes on at the other side, it waits for its second look. */
function propose(was: TreatmentState, key: string, here: Felt): TreatmentState {
  const queued = queue(was, key);
  const treatment = here.value > facts.too_sore ? lower(queued, key) : queued;
  if (treatment.loop || !treatment.score) return treatment;
  const [way, why] = choose(treatment.score, key, here.value, here.side);
  return begin(treatment, key, way, why, here, here.at);
}

/** An answer after a round: enough, the other way, once firmer, or enough of trying. */
function combine(treatment: TreatmentState, key: string, tried: Round, here: Felt): TreatmentState {
  const { rounds: most, eased_by } = facts.loop;
  const fell = (tried.before ?? 0) - here.value;
  if (here.value < facts.sore_enough || fell >= eased_by)
    return fell > 0
      ? advise(treatment, fill(words.carry_on, { before: tried.before, now: here.value }))
      : { ...treatment, advice: null };
  const record = treatment.records[key];
  const rounds = (record?.rounds ?? []).filter((one) => sideOf(one) === sideOf(here) && one.taken !== "later");
  const firm = rounds.filter((one) => one.taken === "firm").length;
  const other = OTHER[tried.taken];
  if (rounds.length - firm < most && other) return begin(treatment, key, other, "again", here, here.at);
  if (record && firm === 0 && firmMay(treatment, record, here.value))
    return begin(treatment, key, "firm", "school", here, here.at);
  return advise(queue(treatment, key), words.enough);
}

const firmMay = (treatment: TreatmentState, record: StopRecord, value: number) =>
  Boolean(treatment.score?.sore?.firm) &&
  value <= facts.loop.firm_most &&
  allowed(treatment, record, record.level + 1) === record.level + 1 &&
  !treatment.lighter;

/** A round begins: its level, its time, and what is said. `here`: what was felt last, if anything was. */
function begin(
  treatment: TreatmentState,
  key: string,
  way: Way,
  why: Why,
  here: Felt | undefined,
  at: string,
): TreatmentState {
  const record = treatment.records[key];
  if (!record) return treatment;
  const tried: Round = {
    side: here?.side ?? null,
    proposed: why === "hand" ? null : way,
    why,
    taken: way,
    level: record.level,
    before: here?.value ?? null,
    after: null,
    at,
  };
  const begun = work(withRecord(treatment, { ...record, rounds: [...record.rounds, tried] }), key, at);
  const said = fill(whys[why], { school: treatment.score?.sore?.school });
  const text = tried.proposed ? fill(words.sore, { now: tried.before, why: said, way: ways[way] }) : ways[way];
  return advise(begun, text, way === "ease" ? "lighten" : "none");
}

/** Press as the last round's way wants it, for as long as it wants. */
function work(treatment: TreatmentState, key: string, at: string): TreatmentState {
  const record = treatment.records[key];
  const tried = record?.rounds.at(-1);
  if (!record || !tried) return treatment;
  if (tried.taken === "later") return queue({ ...treatment, loop: null }, key);
  const { ease_s, rim_s, firm_s } = facts.loop;
  const seconds = { ease: ease_s, rim: rim_s, firm: firm_s }[tried.taken];
  const lowered = (tried.before ?? 0) > facts.too_sore;
  const step = { ease: lowered ? 0 : -1, rim: 0, firm: 1 }[tried.taken];
  const level = Math.max(allowed(treatment, record, tried.level + step), 1);
  const loop = { key, side: tried.side ?? null, way: tried.taken, at_s: pressedFor(treatment, at), seconds };
  return { ...withRecord(treatment, { ...record, level }), loop };
}

/** The hand takes another way than was proposed, or a way where none was; the proposal stays in the log. */
export function overrule(was: TreatmentState, event: Schema["ChangeTechnique"] | Schema["Later"]): TreatmentState {
  const { key } = current(was, event);
  const way: Way = event.kind === "later" ? "later" : event.technique;
  const record = current(was, event);
  const treatment =
    event.kind === "later" ? was : withRecord(was, { ...record, techniques: [...record.techniques, way] });
  if (treatment.loop?.key === key) {
    const closed = close(treatment);
    const own = current(closed, event);
    const tried = own.rounds.at(-1);
    if (!tried) return closed;
    const taken = withRecord(closed, { ...own, rounds: [...own.rounds.slice(0, -1), { ...tried, taken: way }] });
    return advise(work(taken, key, event.at), ways[way], way === "ease" ? "lighten" : "none");
  }
  if (event.kind === "later") return queue(treatment, key);
  return begin(treatment, key, way, "hand", record.soreness.at(-1), event.at);
}
