/** The second visit, as core/treat/second.py has it: what is worth coming back to, and what of it fits. */
import { facts } from "../api/facts.gen";
import { OTHER } from "./loop";
import type { StopRecord, TreatmentState, Way } from "./state";

export type Look = { key: string; cost_s: number; worth: number; way: Way; fits: boolean };

export function secondVisit(treatment: TreatmentState, left_s: number): Look[] {
  const found = treatment.second_looks.map((key) => look(treatment, key)).sort((a, b) => b.worth - a.worth);
  let spent = 0;
  return found.map((one) => {
    const fits = spent + one.cost_s <= left_s;
    if (fits) spent += one.cost_s;
    return { ...one, fits };
  });
}

function look(treatment: TreatmentState, key: string): Look {
  const record = treatment.records[key];
  const stop = treatment.score?.stops.find((one) => one.key === key);
  const last = new Map((record?.soreness ?? []).map((one) => [one.side ?? null, one.value]));
  return {
    key,
    cost_s: facts.move_s + facts.look.side_s * Math.max(last.size, 1),
    worth: Math.max(0, ...last.values()) + facts.look.core_worth * (stop?.core_of?.length ?? 0),
    way: anotherWay(record),
    fits: false,
  };
}

/** How a place is worked at its second look: not as it was the last time. */
export function anotherWay(record: StopRecord | undefined): Way {
  const tried = record?.rounds.findLast((one) => OTHER[one.taken])?.taken;
  return (tried && OTHER[tried]) || "ease";
}

/** Seconds of a second look: each side that was felt. */
export const lookSeconds = (record: StopRecord): number =>
  facts.look.side_s * Math.max(new Set(record.soreness.map((one) => one.side ?? null)).size, 1);

/** Seconds that are left for second looks: of the time that was asked for, what the rest of the score does not take. */
export function leftForLooks(treatment: TreatmentState, now: number): number {
  const { score, began_at } = treatment;
  if (!score || !began_at) return 0;
  const gone = (now - Date.parse(began_at)) / 1000;
  const rest = score.stops.filter(
    (stop) => !stop.muted && stop.kind !== "second_look" && treatment.records[stop.key]?.started === 0,
  );
  const needs = rest.reduce((sum, stop) => sum + stop.duration_s + stop.find_s, 0);
  return Math.max(score.minutes * 60 - gone - needs, 0);
}
