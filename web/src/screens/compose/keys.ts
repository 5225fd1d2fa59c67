/** Keys of the score: on the chosen stop, and on the score as a whole. */
import { isPressed } from "../../score/shapes";
import type { Keys } from "../../shared/keys";
import type { ScoreOfVisit, Stop } from "./useScore";

const SIDES = ["left", "both", "right"] as const;
const STEP_S = 10;

/** Keys that need no chosen stop. */
export function scoreKeys(score: ScoreOfVisit, look: { closer: () => void; add: () => void }): Keys {
  return {
    u: score.undo,
    "shift+U": score.redo,
    "mod+Z": score.undo,
    "mod+shift+Z": score.redo,
    z: look.closer,
    a: look.add,
    "/": look.add,
  };
}

/** Keys on the chosen stop. */
export function stopKeys(stop: Stop, score: ScoreOfVisit, choose: (key: string | null) => void): Keys {
  const sounding = score.stops.filter((one) => !one.muted);
  const index = sounding.findIndex((one) => one.key === stop.key);
  const neighbour = (step: number): string | null => sounding[index + step]?.key ?? null;
  const sides = stop.side === "both" && !stop.dose.together ? 2 : 1;
  const raise = (level: number) => {
    if (isPressed(stop) && level >= 1 && level <= stop.ceiling) score.change(stop.key, { level });
  };
  const stretch = (by: number) => void score.stretch(stop.key, stop.duration_s + by * sides);
  const remove = () => {
    choose(neighbour(1));
    score.remove(stop.key);
  };
  const otherSide = () => {
    if (stop.side === "midline") return;
    const next = SIDES[(SIDES.indexOf(stop.side) + 1) % SIDES.length];
    if (next) score.change(stop.key, { side: next });
  };
  return {
    arrowRight: () => choose(neighbour(1) ?? stop.key),
    arrowLeft: () => choose(neighbour(-1) ?? stop.key),
    "shift+arrowRight": () => neighbour(1) && score.move(stop.key, neighbour(2)),
    "shift+arrowLeft": () => neighbour(-1) && score.move(stop.key, neighbour(-1)),
    arrowUp: () => raise(stop.level + 1),
    arrowDown: () => raise(stop.level - 1),
    "+": () => stretch(STEP_S),
    "=": () => stretch(STEP_S),
    "-": () => stretch(-STEP_S),
    m: () => score.change(stop.key, { muted: !stop.muted }),
    c: () => score.duplicate(stop.key),
    delete: remove,
    backspace: remove,
    s: otherSide,
    escape: () => choose(null),
  };
}
