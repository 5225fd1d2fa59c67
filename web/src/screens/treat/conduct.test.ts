/** Conducting: which key means what, and the way through a score with places left and second looks. */

import { getHotkeyHandler } from "@mantine/hooks";
import { describe, expect, test } from "vitest";
import { beatAt, type Phrase } from "../../score/pace";
import { bindings } from "../../shared/keys";
import { type Event, NOTHING_YET, preview, type Score, type TreatmentState } from "../../treatment/fold";
import { type Action, keysNow, onceMeant, unlessBounced } from "./keys";
import { following, order, preceding } from "./onward";

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
    const done = [..."0123456789 lerbptxdfqzoks", "ArrowUp", "ArrowDown", "ArrowLeft", "ArrowRight", "Enter"]
      .map((key) => keyAction(press(key, /\d/.test(key) ? `Digit${key}` : codeOf(key)), false)?.does)
      .filter(Boolean);
    expect(new Set(done)).toEqual(new Set(["hold", "stop", "dim", "onward"]));
  });

  test("what is no key of ours is left to the browser", () => {
    for (const key of ["Tab", "Escape", "q", "F5"]) expect(keyAction(press(key), true)).toBeNull();
  });
});

const score = {
  decision: "ok",
  stops: ["first", "second", "third", "silent", "close"].map((key) => ({
    key,
    kind: key === "close" ? "close" : "point",
    level: 3,
    ceiling: 4,
    ceiling_reasons: [],
    muted: key === "silent",
  })),
} as unknown as Score;
let count = 0;
const told = (...said: [string, object?][]): TreatmentState => told2(score, ...said);
const told2 = (score: Score, ...said: [string, object?][]): TreatmentState => {
  const events = [["begin", { version: 1 }], ...said].map(
    ([kind, values]) =>
      ({ kind, id: `${++count}`, at: "2026-03-01T09:00:00Z", ...(values as object) }) as unknown as Event,
  );
  return preview(NOTHING_YET, events, score).session;
};
const start = (key: string): [string, object] => ["start_stop", { key }];
const sore = (value: number): [string, object] => ["soreness", { value }];
const next = (session: TreatmentState) => following(session)?.key;

describe("the way through a score", () => {
  test("what is muted does not sound", () => {
    expect(order(told()).map((stop) => stop.key)).toEqual(["first", "second", "third", "close"]);
  });

  test("one after the other, then nothing", () => {
    expect(next(told())).toBe("first");
    expect(next(told(start("first")))).toBe("second");
    expect(next(told(start("first"), start("second"), start("third"), start("close")))).toBeUndefined();
  });

  test("where time is kept for second looks, they fill it, the most worth first, and it is not waited for twice", () => {
    const looks = { ...score, stops: [...score.stops] } as unknown as { stops: { key: string; kind: string }[] };
    looks.stops.splice(4, 0, { ...looks.stops[0], key: "look", kind: "second_look" } as never);
    const all = (...said: [string, object?][]) => told2(looks as unknown as Score, ...said);
    const round = [start("first"), sore(6), start("second"), sore(7), start("third")] as [string, object][];
    expect(next(all(...round))).toBe("second");
    expect(next(all(...round, start("second")))).toBe("first");
    expect(next(all(...round, start("second"), start("first")))).toBe("close");
    expect(next(all(start("first"), start("second"), start("third")))).toBe("look");
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

test("a key pressed twice at once is meant once; a level, a breath and taking back are meant each time", () => {
  const meant = onceMeant();
  expect(meant({ does: "later" }, 0)).toBe(true);
  expect(meant({ does: "later" }, 300)).toBe(false);
  expect(meant({ does: "later" }, 2000)).toBe(true);
  expect([meant({ does: "soreness", value: 6 }, 3000), meant({ does: "soreness", value: 7 }, 3100)]).toEqual([
    true,
    true,
  ]);
  expect([meant({ does: "level", by: -1 }, 4000), meant({ does: "level", by: -1 }, 4100)]).toEqual([true, true]);
  // What opens something takes the keys: held back, the letters of a second note would be said of the stop.
  for (const does of ["note", "found", "seen", "sore"] as const)
    expect([meant({ does }, 5000), meant({ does }, 5100)]).toEqual([true, true]);
});

test("the key that opened something chooses nothing of it by bouncing or by being held", () => {
  const chosen: number[] = [];
  const opened = { current: 10_000 };
  let now = 10_000;
  const press = unlessBounced(
    () => chosen.push(now),
    opened,
    () => now,
  );
  for (const at of [10_040, 10_500, 10_530, 11_000, 11_600]) {
    now = at;
    press();
  }
  expect(chosen, "held on, it repeats").toEqual([]);
  now = 12_400;
  press();
  expect(chosen).toEqual([12_400]);
});

const still = { opens: 1, closes: 1, breath: false };
const PULSES: Phrase[] = [
  {
    beats: [
      { ...still, word: "press", seconds: 5 },
      { word: "release", seconds: 3, opens: 0.35, closes: 0.35, breath: false },
    ],
    times: 4,
    counts: true,
  },
  { beats: [{ ...still, word: "hold", seconds: 10 }], times: 1, counts: false },
];
const BREATHS: Phrase[] = [
  {
    beats: [
      { word: "in", seconds: 2, opens: 0.3, closes: 1, breath: true },
      { word: "out", seconds: 3, opens: 1, closes: 0.3, breath: true },
    ],
    times: 6,
    counts: true,
  },
];

describe("the beats of a dose", () => {
  test("each in its turn, counted, and the last stays", () => {
    expect(beatAt(PULSES, 0)).toEqual({ open: 1, done: 0, word: "press", nth: 1, of: 4 });
    expect(beatAt(PULSES, 13.5)).toMatchObject({ word: "release", nth: 2, of: 4 });
    expect(beatAt(PULSES, 33)).toEqual({ open: 1, done: 0.1, word: "hold", nth: 0, of: 0 });
    expect(beatAt(PULSES, 500).word).toBe("hold");
    expect(beatAt([], 3).word).toBe("hold");
  });

  test("a breath that was tapped is followed: fewer of them in the same time", () => {
    expect(beatAt(BREATHS, 2.5)).toMatchObject({ word: "out", nth: 1, of: 6 });
    expect(beatAt(BREATHS, 3.9, 10)).toMatchObject({ word: "in", nth: 1, of: 3 });
    expect(beatAt(BREATHS, 12, 10)).toMatchObject({ word: "in", nth: 2 });
    for (let s = 0; s < 40; s += 0.3) expect(beatAt(BREATHS, s, 7).open).toBeGreaterThan(0.29);
  });
});
