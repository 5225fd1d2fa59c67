/** Names on the body: none over another or over what must stay free, as near as they can be. */
import { describe, expect, test } from "vitest";
import { around, type Box, nearestOf, placeNames } from "./placing";

const VIEW = { width: 700, height: 560 };
const CHOSEN = around(350, 280, 16);
const covers = (a: Box, b: Box) =>
  a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;

/** Places as close together as landmarks of a face are, from a seed. */
function crowd(seed: number, count: number) {
  let state = seed;
  const next = () => {
    state = (state * 1103515245 + 12345) % 2147483648;
    return state / 2147483648;
  };
  return Array.from({ length: count }, () => ({
    x: 300 + next() * 110,
    y: 230 + next() * 110,
    width: 60 + next() * 130,
    height: 17,
  }));
}

describe("names on the body", () => {
  test.each([1, 2, 3, 4, 5, 6, 7, 8])("a crowd of places, %i", (seed) => {
    const places = crowd(seed, 9);
    const boxes = placeNames(places, [CHOSEN], VIEW);
    const shown = boxes.filter((box) => box !== null);
    expect(shown.length).toBeGreaterThanOrEqual(8);
    for (const [index, box] of shown.entries()) {
      expect(covers(box, CHOSEN)).toBe(false);
      for (const other of shown.slice(index + 1)) expect(covers(box, other)).toBe(false);
      expect(box.x).toBeGreaterThanOrEqual(0);
      expect(box.x + box.width).toBeLessThanOrEqual(VIEW.width);
    }
  });

  test("a name of an area stands on it, and when it cannot, close by or not at all", () => {
    const area = { x: 200, y: 200, width: 60, height: 14, within: true };
    const [on] = placeNames([area], [], VIEW);
    expect(on && on.x + on.width / 2).toBeCloseTo(200);
    const [beside] = placeNames([area], [around(200, 200, 10)], VIEW);
    expect(beside && Math.hypot(...nearestOf(beside, 200, 200).map((at) => at - 200))).toBeLessThan(30);
    expect(placeNames([area], [around(200, 200, 90)], VIEW)).toEqual([null]);
  });

  test("alone it stands close beside its place", () => {
    const [box] = placeNames([{ x: 100, y: 100, width: 80, height: 17 }], [], VIEW);
    expect(box).toEqual({ x: 109, y: 91.5, width: 80, height: 17 });
    expect(nearestOf(box as Box, 100, 100)).toEqual([109, 100]);
  });

  test("at the right edge it stands on the left, and where there is no room nowhere", () => {
    const [box] = placeNames([{ x: 690, y: 100, width: 80, height: 17 }], [], VIEW);
    expect(box?.x).toBe(690 - 9 - 80);
    expect(
      placeNames([{ x: 20, y: 20, width: 80, height: 17 }], [{ x: 0, y: 0, width: 700, height: 560 }], VIEW),
    ).toEqual([null]);
  });
});
