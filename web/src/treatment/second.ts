/** The second visit, as core/treat/second.py has it: what is worth coming back to, and what of it fits. */
import { facts } from "../api/facts.gen";
import { OTHER } from "./loop";
import type { Session, Way } from "./state";

export type Look = { key: string; cost_s: number; worth: number; way: Way; fits: boolean };

export function secondVisit(session: Session, left_s: number): Look[] {
  const found = session.second_looks.map((key) => look(session, key)).sort((a, b) => b.worth - a.worth);
  let spent = 0;
  return found.map((one) => {
    const fits = spent + one.cost_s <= left_s;
    if (fits) spent += one.cost_s;
    return { ...one, fits };
  });
}

function look(session: Session, key: string): Look {
  const record = session.records[key];
  const stop = session.score?.stops.find((one) => one.key === key);
  const last = new Map((record?.soreness ?? []).map((one) => [one.side ?? null, one.value]));
  const tried = record?.rounds.findLast((one) => OTHER[one.taken])?.taken;
  return {
    key,
    cost_s: facts.move_s + facts.look.side_s * Math.max(last.size, 1),
    worth: Math.max(0, ...last.values()) + facts.look.core_worth * (stop?.core_of?.length ?? 0),
    way: (tried && OTHER[tried]) || "ease",
    fits: false,
  };
}
