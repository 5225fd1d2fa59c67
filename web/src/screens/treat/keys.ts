/** Keys while treating: which key means what. Doing it is the screen's. */
import type { Schema } from "../../api/client";

type Reaction = Schema["Reacted"]["reaction"];
export type Action =
  | { does: "soreness"; value: number }
  | { does: "level"; by: 1 | -1 }
  | { does: "technique"; technique: "ease" | "rim" }
  | { does: "reaction"; reaction: Reaction; words?: string }
  | { does: "hold" | "onward" | "previous" | "later" | "stop" | "dim" | "find" | "seen" | "wrong" };

/** Digits are taken by the place of the key: on some keyboards they are typed with Shift. */
const DIGITS: [string, Action][] = [
  ...Array.from({ length: 10 }, (_, value) => ({ does: "soreness", value }) as const).flatMap(
    (action): [string, Action][] => [
      [`Digit${action.value}`, action],
      [`Numpad${action.value}`, action],
    ],
  ),
  ["shift+Digit0", { does: "soreness", value: 10 }],
];

const KEYS: Record<string, Action> = {
  ...Object.fromEntries(DIGITS),
  space: { does: "hold" },
  arrowRight: { does: "onward" },
  arrowLeft: { does: "previous" },
  arrowUp: { does: "level", by: 1 },
  arrowDown: { does: "level", by: -1 },
  l: { does: "later" },
  e: { does: "technique", technique: "ease" },
  r: { does: "technique", technique: "rim" },
  b: { does: "reaction", reaction: "bracing" },
  p: { does: "reaction", reaction: "pulse_felt" },
  t: { does: "reaction", reaction: "tingling" },
  x: { does: "stop" },
  d: { does: "dim" },
  f: { does: "find" },
  s: { does: "seen" },
  w: { does: "wrong" },
};
/** What can be done before the first stop has been started. */
const BEFORE: Action["does"][] = ["hold", "onward", "stop", "dim", "wrong"];

/** Every key that means something now. `begun`: a stop has been started. */
export function keysNow(begun: boolean): Record<string, Action> {
  if (begun) return KEYS;
  return Object.fromEntries(Object.entries(KEYS).filter(([, action]) => BEFORE.includes(action.does)));
}
