/** Sets take turns by days counted from the first, and sides come one after the other. */
import { expect, test } from "vitest";
import { type Place, pressesOf, setOn } from "./turn";

const plan = (...names: string[]) => ({ sets: names.map((name) => ({ name, points: [] })) }) as never;
const place = (id: string, side: string, together = false) =>
  ({ id, side, dose: { form: "hold", seconds: 30, together } }) as unknown as Place;

test.each([
  ["2026-12-30", "A"],
  ["2026-12-31", "B"],
  ["2027-01-01", "A"],
  ["2026-12-29", "B"],
  ["2027-03-29", "B"], // clocks are put forward in between
])("on %s it is the turn of %s", (day, name) => {
  expect(setOn(plan("A", "B"), "2026-12-30", day)?.name).toBe(name);
});

test("one set has every turn, and none has none", () => {
  expect(setOn(plan("A"), "2026-12-30", "2027-01-02")?.name).toBe("A");
  expect(setOn(plan(), "2026-12-30", "2027-01-02")).toBeUndefined();
});

test("both sides are pressed one after the other, unless they are pressed together", () => {
  const presses = pressesOf([place("GB20", "both"), place("yintang", "midline"), place("HT7", "right")]);
  expect(presses.map((one) => [one.place.id, one.side])).toEqual([
    ["GB20", "left"],
    ["GB20", "right"],
    ["yintang", ""],
    ["HT7", "right"],
  ]);
  expect(pressesOf([place("GB20", "both", true)]).map((one) => one.side)).toEqual(["both sides"]);
});
