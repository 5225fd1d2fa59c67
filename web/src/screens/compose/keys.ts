/** Keys of the score: on the chosen stop, and on the score as a whole. */
import { useEffect, useRef } from "react";
import { isPressed } from "../../score/shapes";
import type { ScoreOfVisit, Stop } from "./useScore";

const SIDES = ["left", "both", "right"] as const;
const STEP_S = 10;

/** Keys that need no chosen stop. Returns true where a key was used. */
export function onScoreKey(event: KeyboardEvent, score: ScoreOfVisit, look: { closer: () => void; add: () => void }) {
  switch (event.key) {
    case "u":
      score.undo();
      return true;
    case "U":
      score.redo();
      return true;
    case "z":
    case "Z":
      look.closer();
      return true;
    case "a":
    case "A":
    case "/":
      look.add();
      return true;
  }
  return false;
}

/** Keys on the chosen stop. Returns true where a key was used. */
export function onStopKey(event: KeyboardEvent, stop: Stop, score: ScoreOfVisit, choose: (key: string | null) => void) {
  const sounding = score.stops.filter((one) => !one.muted);
  const index = sounding.findIndex((one) => one.key === stop.key);
  const neighbour = (step: number) => sounding[index + step];
  const sides = stop.side === "both" && !stop.dose.together ? 2 : 1;
  switch (event.key) {
    case "ArrowRight":
    case "ArrowLeft": {
      const step = event.key === "ArrowRight" ? 1 : -1;
      if (!event.shiftKey) choose(neighbour(step)?.key ?? stop.key);
      else if (neighbour(step))
        score.move(stop.key, step > 0 ? (neighbour(2)?.key ?? null) : (neighbour(-1)?.key ?? null));
      return true;
    }
    case "ArrowUp":
      if (isPressed(stop) && stop.level < stop.ceiling) score.change(stop.key, { level: stop.level + 1 });
      return true;
    case "ArrowDown":
      if (isPressed(stop) && stop.level > 1) score.change(stop.key, { level: stop.level - 1 });
      return true;
    case "+":
    case "=":
      void score.stretch(stop.key, stop.duration_s + STEP_S * sides);
      return true;
    case "-":
      void score.stretch(stop.key, stop.duration_s - STEP_S * sides);
      return true;
    case "m":
    case "M":
      score.change(stop.key, { muted: !stop.muted });
      return true;
    case "c":
    case "C":
      score.duplicate(stop.key);
      return true;
    case "Delete":
    case "Backspace":
      choose(neighbour(1)?.key ?? null);
      score.remove(stop.key);
      return true;
    case "s":
    case "S":
      if (stop.side !== "midline") {
        const next = SIDES[(SIDES.indexOf(stop.side) + 1) % SIDES.length];
        if (next) score.change(stop.key, { side: next });
      }
      return true;
    case "Escape":
      choose(null);
      return true;
  }
  return false;
}

/** Ctrl+Z and Ctrl+Shift+Z, as everywhere. */
export function useUndoKeys(undo: () => void, redo: () => void) {
  const latest = useRef({ undo, redo });
  latest.current = { undo, redo };
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const inText = event.target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName);
      if (inText || !(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z") return;
      event.preventDefault();
      if (event.shiftKey) latest.current.redo();
      else latest.current.undo();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
}
