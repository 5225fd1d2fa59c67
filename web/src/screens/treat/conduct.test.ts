/** Conducting: which key means what, and the way through a score with places left and second looks. */

import { getHotkeyHandler } from "@mantine/hooks";
import { describe, expect, test } from "vitest";
import type { Schema } from "../../api/client";
import { phase } from "../../score/pace";
import { bindings } from "../../shared/keys";
import { type Event, NOTHING_YET, preview, type Score, type Session } from "../../treatment/fold";
import { following, order, preceding } from "./course";
import { type Action, keysNow } from "./keys";

const CODES: Record<string, string> = { " ": "Space" };
const codeOf = (key: string) => CODES[key] ?? (/^[a-z]$/i.test(key) ? `Key${key.toUpperCase()}` : key);

/** What a key press does, through the library that binds the keys. */
function keyAction(pressed: { key: string; code: string; shiftKey: boolean }, begun: boolean): Action | null {
  let done: Action | null = null;
  const keys = Object.entries(keysNow(begun)).map(([key, action]) => [key, () => (done = action)] as const);
  const none = { altKey: false, ctrlKey: false, metaKey: false, target: null, preventDefault: () => {} };
  getHotkeyHandler(bindings(Object.fromEntries(keys)))({ ...none, ...pressed } as unknown as KeyboardEvent);
  return done;
}
const press = (key: string, code = codeOf(key), shiftKey = false) => ({ key, code, shiftKey });

describe("keys", () => {
  test("digits are soreness on any keyboard, ten with shift", () => {
    for (let n = 0; n <= 9; n++) {
      expect(keyAction(press(String(n), `Digit${n}`), true)).toEqual({ does: "soreness", value: n });
      expect(keyAction(press(String(n), `Numpad${n}`), true)).toEqual({ does: "soreness", value: n });
    }
    expect(keyAction(press("à", "Digit0"), true)).toEqual({ does: "soreness", value: 0 });
    expect(keyAction(press(")", "Digit0", true), true)).toEqual({ does: "soreness", value: 10 });
  });

  test.each([
    [" ", "hold"],
    ["ArrowRight", "onward"],
    ["ArrowLeft", "previous"],
    ["l", "later"],
    ["L", "later"],
    ["x", "stop"],
    ["X", "stop"],
    ["d", "dim"],
    ["f", "find"],
  ])("%s: %s", (key, does) => {
    expect(keyAction(press(key), true)?.does).toBe(does);
  });

  test("before the first stop only starting, stopping and the light", () => {
    const done = [..."0123456789 lerbptxdfq", "ArrowUp", "ArrowDown", "ArrowLeft", "ArrowRight", "Enter"]
      .map((key) => keyAction(press(key, /\d/.test(key) ? `Digit${key}` : codeOf(key)), false)?.does)
      .filter(Boolean);
    expect(new Set(done)).toEqual(new Set(["hold", "stop", "dim", "onward"]));
  });

  test("what is no key of ours is left to the browser", () => {
    for (const key of ["Tab", "Enter", "q", "F5"]) expect(keyAction(press(key), true)).toBeNull();
  });
});

const score = {
  decision: "ok",
  stops: ["first", "second", "third", "silent", "close"].map((key) => ({
    key,
    level: 3,
    ceiling: 4,
    ceiling_reasons: [],
    muted: key === "silent",
  })),
} as unknown as Score;
let count = 0;
const told = (...said: [string, object?][]): Session => {
  const events = [["begin", { version: 1 }], ...said].map(
    ([kind, values]) =>
      ({ kind, id: `${++count}`, at: "2026-03-01T09:00:00Z", ...(values as object) }) as unknown as Event,
  );
  return preview(NOTHING_YET, events, score).session;
};
const start = (key: string): [string, object] => ["start_stop", { key }];
const sore = (value: number): [string, object] => ["soreness", { value }];
const next = (session: Session) => following(session)?.key;

describe("the way through a score", () => {
  test("what is muted does not sound", () => {
    expect(order(told()).map((stop) => stop.key)).toEqual(["first", "second", "third", "close"]);
  });

  test("one after the other, then nothing", () => {
    expect(next(told())).toBe("first");
    expect(next(told(start("first")))).toBe("second");
    expect(next(told(start("first"), start("second"), start("third"), start("close")))).toBeUndefined();
  });

  test("a second look comes before the close, and once", () => {
    const queued = [start("first"), sore(6), start("second"), start("third")] as [string, object][];
    expect(next(told(...queued))).toBe("first");
    expect(next(told(...queued, start("first")))).toBe("close");
  });

  test("what was left for today is passed over, forwards and back, and never looked at again", () => {
    const left = [start("second"), sore(9), sore(9)] as [string, object][];
    expect(next(told(start("first"), ...left, ["later"], start("third")))).toBe("close");
    expect(preceding(told(start("first"), ...left, start("third")))?.key).toBe("first");
    expect(preceding(told(start("first")))).toBeUndefined();
  });
});

test("the pace of every form of dose stays between closed and open", () => {
  const doses: Schema["Stop"]["dose"][] = [
    { form: "hold", seconds: 30, together: false },
    { form: "pulse", on_s: 5, off_s: 3, cycles: 4, together: false },
    { form: "circles", each_way: 10, seconds_each: 1.5, together: false },
    { form: "breaths", count: 6, per_minute: 10, together: false },
    { form: "glide", strokes: 8, seconds_each: 3, together: false },
    { form: "walk", passes: 3, seconds_each: 10, together: false },
    { form: "sets", sets: 2, count: 6, seconds_each: 3, release_s: 4, together: false },
    { form: "pumps", count: 20, seconds_each: 1.5, together: false },
    { form: "rubs", count: 20, seconds_each: 1, together: false },
    { form: "until", sign: "eases", cap_s: 60, together: false },
  ];
  for (const dose of doses)
    for (let s = 0; s < 90; s += 0.7) {
      const { open, word } = phase(dose, s);
      expect(open).toBeGreaterThan(0);
      expect(open).toBeLessThanOrEqual(1);
      expect(word).not.toBe("");
    }
  expect(phase({ form: "pulse", on_s: 5, off_s: 3, cycles: 4, together: false }, 5.1).word).toBe("release");
  expect(phase({ form: "breaths", count: 6, per_minute: 10, together: false }, 0.5).word).toBe("in");
});
