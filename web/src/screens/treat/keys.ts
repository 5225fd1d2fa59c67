/** Keys while treating: which key means what. Doing it is the screen's. */
import type { Schema } from "../../api/client";

type Reaction = Schema["Reacted"]["reaction"];
export type Action =
  | { does: "soreness"; value: number }
  | { does: "level"; by: 1 | -1 }
  | { does: "technique"; technique: "ease" | "rim" }
  | { does: "reaction"; reaction: Reaction; words?: string }
  | { does: "hold" | "onward" | "previous" | "later" | "stop" | "dim" | "find" | "seen" | "wrong" }
  | {
      does: "undo" | "note" | "other_side" | "moves_on" | "as_planned" | "sign" | "breath" | "voice" | "sore" | "found";
    };

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
  enter: { does: "sign" },
  l: { does: "later" },
  e: { does: "technique", technique: "ease" },
  r: { does: "technique", technique: "rim" },
  o: { does: "other_side" },
  b: { does: "reaction", reaction: "bracing" },
  p: { does: "reaction", reaction: "pulse_felt" },
  t: { does: "reaction", reaction: "tingling" },
  k: { does: "as_planned" },
  c: { does: "breath" },
  a: { does: "moves_on" },
  v: { does: "voice" },
  n: { does: "note" },
  g: { does: "found" },
  z: { does: "undo" },
  x: { does: "stop" },
  d: { does: "dim" },
  f: { does: "find" },
  s: { does: "seen" },
  w: { does: "wrong" },
};
/** What can be done before the first stop has been started. */
const BEFORE: Action["does"][] = ["hold", "onward", "stop", "dim", "wrong", "moves_on", "voice", "note", "breath"];

/** Every key that means something now. `begun`: a stop has been started. */
export function keysNow(begun: boolean): Record<string, Action> {
  if (begun) return KEYS;
  return Object.fromEntries(Object.entries(KEYS).filter(([, action]) => BEFORE.includes(action.does)));
}

/** A key that is pressed a second time at once was meant once. Not held back: what is meant to be repeated, and what opens
 * something that then has the keys: held back, the next letters would be said of the stop. */
const AGAIN_MS = 700;
const REPEATED: Action["does"][] = [
  "onward",
  "previous",
  "level",
  "breath",
  "undo",
  "moves_on",
  "voice",
  "dim",
  "other_side",
  "note",
  "found",
  "seen",
  "sore",
];
/** So soon after the hands went to a stop, nothing moves them on: the key that brought them there bounces. */
export const RESTS_MS = 700;

/** The key that opened something, when it bounces or is held: it must choose nothing of what it opened. `opened`: when
 * that was (ms), moved on with every such press. */
export function unlessBounced(choose: () => void, opened: { current: number }, clock = Date.now): () => void {
  return () => {
    const now = clock();
    if (now - opened.current >= AGAIN_MS) return choose();
    opened.current = now;
  };
}

/** Holds back a second press that was not meant. Moving on has a rest of its own. */
export function onceMeant(): (action: Action, now: number) => boolean {
  let last = { what: "", at: Number.NEGATIVE_INFINITY };
  return (action, now) => {
    const what = JSON.stringify(action);
    const again = what === last.what && now - last.at < AGAIN_MS && !REPEATED.includes(action.does);
    last = { what, at: now };
    return !again;
  };
}
