/** Keys while treating: which key means what. Doing it is the screen's. */
import type { Schema } from "../../api/client";

type Reaction = Schema["Reacted"]["reaction"];
export type KeyAction =
  | { does: "soreness"; value: number }
  | { does: "level"; by: 1 | -1 }
  | { does: "technique"; technique: "ease" | "rim" }
  | { does: "reaction"; reaction: Reaction }
  | { does: "hold" | "onward" | "previous" | "later" | "stop" | "dim" | "find" };
export type Pressed = { key: string; code: string; shiftKey: boolean };

const KEYS: Record<string, KeyAction> = {
  " ": { does: "hold" },
  arrowright: { does: "onward" },
  arrowleft: { does: "previous" },
  arrowup: { does: "level", by: 1 },
  arrowdown: { does: "level", by: -1 },
  l: { does: "later" },
  e: { does: "technique", technique: "ease" },
  r: { does: "technique", technique: "rim" },
  b: { does: "reaction", reaction: "bracing" },
  p: { does: "reaction", reaction: "pulse_felt" },
  t: { does: "reaction", reaction: "tingling" },
  x: { does: "stop" },
  d: { does: "dim" },
  f: { does: "find" },
};
/** What can be done before the first stop has been started. */
const BEFORE: KeyAction["does"][] = ["hold", "onward", "stop", "dim"];

/** What a key means; null where it means nothing now. `begun`: a stop has been started. */
export function keyAction({ key, code, shiftKey }: Pressed, begun: boolean): KeyAction | null {
  const digit = /^(?:Digit|Numpad)(\d)$/.exec(code)?.[1];
  const action: KeyAction | undefined =
    digit === undefined
      ? KEYS[key.toLowerCase()]
      : { does: "soreness", value: shiftKey && digit === "0" ? 10 : Number(digit) };
  if (!action || !(begun || BEFORE.includes(action.does))) return null;
  return action;
}
