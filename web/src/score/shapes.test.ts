/** The score's shapes: time is length, pressure is height, sides are lanes. */
import { describe, expect, it, test } from "vitest";
import {
  around,
  blockHeight,
  blocksOf,
  type Dose,
  FORMS,
  LEVELS,
  levelAt,
  type Named,
  outline,
  placeNames,
  type Stop,
} from "./shapes";

const stop = (values: object) =>
  ({
    key: "SP6-1",
    kind: "point",
    side: "left",
    start_s: 60,
    duration_s: 40,
    dose: { form: "hold", seconds: 40, together: false },
    ...values,
  }) as unknown as Stop;

test("a stop of one side is one block in its lane", () => {
  for (const side of ["left", "right", "midline"] as const)
    expect(blocksOf(stop({ side }))).toMatchObject([{ lane: side, start_s: 60, duration_s: 40, half: 0 }]);
});

test("both sides: one after the other share the time, together they share the moment", () => {
  expect(blocksOf(stop({ side: "both" }))).toMatchObject([
    { lane: "right", start_s: 60, duration_s: 20, half: 1 },
    { lane: "left", start_s: 80, duration_s: 20, half: 2 },
  ]);
  const together = { form: "hold", seconds: 40, together: true };
  expect(blocksOf(stop({ side: "both", dose: together }))).toMatchObject([
    { lane: "right", start_s: 60, duration_s: 40 },
    { lane: "left", start_s: 60, duration_s: 40 },
  ]);
});

test("a height stands for the level that it was drawn for, on lanes of any height", () => {
  for (const lane of [20, 34, 60, 120])
    for (let level = 1; level <= LEVELS; level++) {
      expect(levelAt(lane, blockHeight(lane, level))).toBe(level);
      if (level > 1) expect(blockHeight(lane, level)).toBeGreaterThan(blockHeight(lane, level - 1));
    }
  expect(levelAt(34, -50)).toBe(1);
  expect(levelAt(34, 500)).toBe(LEVELS);
});

const DOSES = {
  hold: { seconds: 30 },
  pulse: { on_s: 5, off_s: 3, cycles: 6 },
  circles: { each_way: 10, seconds_each: 1.5 },
  breaths: { count: 6, per_minute: 10 },
  glide: { strokes: 8, seconds_each: 3 },
  walk: { passes: 3, seconds_each: 10 },
  sets: { sets: 2, count: 6, seconds_each: 3, release_s: 4 },
  pumps: { count: 20, seconds_each: 1.5 },
  rubs: { count: 20, seconds_each: 1 },
  until: { sign: "eases", cap_s: 60 },
};

test("every form has an outline that begins and ends on the ground, however narrow", () => {
  expect(Object.keys(DOSES).sort()).toEqual([...FORMS].sort());
  const seen = new Set<string>();
  for (const [form, values] of Object.entries(DOSES))
    for (const width of [0, 2, 30, 400]) {
      const path = outline({ form, together: false, ...values } as Dose, width, 20);
      expect(path).toMatch(/^M0 0/);
      expect(path).toMatch(/V0Z$/);
      expect(path).not.toMatch(/NaN|Infinity|undefined/);
      if (width === 400) seen.add(path);
    }
  expect(seen.size).toBe(FORMS.length);
});

test("a window stays inside the score", () => {
  expect(around(0, 300, 1200)).toEqual({ from_s: 0, to_s: 300 });
  expect(around(600, 300, 1200)).toEqual({ from_s: 450, to_s: 750 });
  expect(around(1190, 300, 1200)).toEqual({ from_s: 900, to_s: 1200 });
});

describe("names over blocks", () => {
  const block = (n: number, more: Partial<Named> = {}): Named => ({
    key: `${n}`,
    lane: "right",
    x: 100 + n * 14,
    width: 12,
    height: 30,
    name: `GB${30 + n}`,
    weight: 1,
    ...more,
  });
  it("never cover each other, a block, or the lane above", () => {
    const blocks = Array.from({ length: 9 }, (_, n) => block(n, { height: n === 4 ? 44 : 28 }));
    const names = placeNames(blocks, 78);
    expect(names.length).toBeGreaterThan(4);
    const boxes = names.map(({ x, y, text }) => ({ x, to: x + text.length * 7.4, y }));
    for (const one of boxes) {
      expect(one.y - 13).toBeGreaterThanOrEqual(-78 - 2);
      for (const other of blocks)
        if (other.x < one.to && other.x + other.width > one.x) expect(-one.y).toBeGreaterThanOrEqual(other.height);
      for (const other of boxes)
        if (one !== other && one.x < other.to && other.x < one.to)
          expect(Math.abs(one.y - other.y)).toBeGreaterThanOrEqual(13);
    }
  });
  it("are shortened where the whole has no room, and left out where nothing has", () => {
    const long = block(0, { name: "shoulder strokes", height: 20 });
    expect(placeNames([long, block(6, { height: 48 })], 50).map((one) => one.text)).toContain("should…");
    expect(placeNames([block(0, { height: 48 })], 50)).toEqual([]);
  });
});
