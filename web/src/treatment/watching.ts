/** Watching the person, as core/treat/watching.py has it: reactions, one that keeps coming, and what is wrong. */
import type { Schema } from "../api/client";
import { facts } from "../api/facts.gen";
import { advise, allowed, current, end, fill, hold, leave, lighten, pressedFor, recordOf, withRecord } from "./moves";
import { Disputed, type Score, type TreatmentState } from "./state";

const { words } = facts;

export function reacted(treatment: TreatmentState, event: Schema["Reacted"]): TreatmentState {
  const known = facts.reactions[event.reaction];
  const was = recordOf(treatment);
  const again = was?.reactions.includes(event.reaction) ?? false;
  const follows = again && known.second ? known.second : known.then;
  const say: string = again && known.second_say ? known.second_say : known.say;
  const text = known.lay ? say.replace("{lay}", helpOf(treatment).lay[known.lay] ?? "") : say;
  const spoken = event.words ? [event.words] : [];
  const told = was && { ...was, reactions: [...was.reactions, event.reaction], said: [...was.said, ...spoken] };
  const next = slept(told ? withRecord(treatment, told) : treatment, event.reaction);
  const record = recordOf(next);
  if (follows === "stop_session") return end(advise(next, text, follows), event.at, "stopped");
  if (record && follows === "leave") return leave(next, record, text);
  if (record && follows === "lighten") {
    const { session: lighter, said } = keepsComing(next, event.reaction);
    return lighten(lighter, current(lighter, event), [text, ...said].join(" "));
  }
  return advise(next, text);
}

/** A reaction at one stop after another: everything still to come is made lighter, once; what to say of it. */
function keepsComing(
  treatment: TreatmentState,
  reaction: Schema["Reacted"]["reaction"],
): { session: TreatmentState; said: string[] } {
  const shown = Object.values(treatment.records).filter((one) => one.reactions.includes(reaction));
  if (treatment.lighter || shown.length < facts.keeps_coming) return { session: treatment, said: [] };
  const before: Record<string, number> = {};
  const records = { ...treatment.records };
  for (const [key, one] of Object.entries(treatment.records)) {
    if (one.started || one.left || one.level <= 1) continue;
    before[key] = one.level;
    records[key] = { ...one, level: one.level - 1 };
  }
  const said = fill(words.keeps, { reaction: facts.reactions[reaction].name, stops: shown.length });
  return { session: { ...treatment, records, lighter: { reaction, before, taken_back: false } }, said: [said] };
}

/** What was made lighter goes back to its level, where it has not been pressed yet. */
export function asPlanned(treatment: TreatmentState): TreatmentState {
  const { lighter } = treatment;
  if (!lighter || lighter.taken_back) return treatment;
  const records = { ...treatment.records };
  for (const [key, level] of Object.entries(lighter.before)) {
    const one = records[key];
    if (one && !one.started) records[key] = { ...one, level: allowed(treatment, one, level) };
  }
  return advise({ ...treatment, records, lighter: { ...lighter, taken_back: true } }, words.as_planned);
}

/** The sign that was waited for has come. */
export function came(treatment: TreatmentState, event: Schema["Came"]): TreatmentState {
  const record = current(treatment, event);
  const came_s = pressedFor(treatment, event.at);
  return advise(withRecord(treatment, { ...record, signs: [...record.signs, event.sign], came_s }), words.came);
}

/** What helps this person: it came with the score when the treatment began. */
export const helpOf = (treatment: TreatmentState): NonNullable<Score["help"]> =>
  treatment.score?.help ?? facts.usual_help;

/** Who sleeps cannot say what is too much: everything to come is lightened until they are awake. */
function slept(treatment: TreatmentState, reaction: Schema["Reacted"]["reaction"]): TreatmentState {
  if (reaction === "awake") return { ...treatment, asleep: false };
  if (reaction !== "asleep") return treatment;
  const lighter = Object.entries(treatment.records).map(([key, one]) => [
    key,
    { ...one, level: Math.min(one.level, facts.asleep_most) },
  ]);
  return { ...treatment, asleep: true, records: Object.fromEntries(lighter) };
}

/** One question on in finding out what is wrong; at an outcome, what it says. What was opened by mistake is closed. */
export function wrong(treatment: TreatmentState, event: Schema["Wrong"]): TreatmentState {
  const helped = helpOf(treatment);
  const answered = event.answer === "yes" || event.answer === "no";
  const to = answered ? afterAnswer(event.step, event.answer as "yes" | "no", helped) : "";
  const waiting = hold(treatment, event.at);
  const step = { at: event.at, step: event.step, answer: event.answer, to };
  const next = { ...waiting, wrong: [...waiting.wrong, step] };
  const outcome = outcomes[to];
  if (!outcome) return next;
  const text = saidOf(outcome, helped);
  const record = recordOf(next);
  if (outcome.then === "stop") return end(advise(next, text, "stop_session"), event.at, "stopped");
  if (outcome.then === "leave" && record) return leave(next, record, text);
  return advise(next, text);
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
/** What to do, in order, with how this person is laid. */
export const stepsOf = (outcome: Outcome, helped: Helped) =>
  outcome.do.map((line) => line.replace("{lay}", helped.lay[outcome.lay] ?? ""));
const saidOf = (outcome: Outcome, helped: Helped) => [`${outcome.title}.`, ...stepsOf(outcome, helped)].join(" ");

/** Where an answer leads, past questions that this person is not asked. Throws Disputed for no such question. */
export function afterAnswer(step: string, answer: "yes" | "no", helped: Helped): string {
  const asked = questions[step];
  if (!asked) throw new Disputed(`“${step}” is not asked when something is wrong`);
  let to = asked[answer];
  while (questions[to]?.pregnant && !helped.pregnant) to = questions[to]?.no ?? "";
  return to;
}
