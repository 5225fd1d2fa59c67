import { expect, test } from "vitest";
import { typedDay } from "./DayInput";

test("a day is read as people type it, day before month, and nothing is guessed", () => {
  expect(["2026-03-05", "5/3/2026", "05.03.2026", "5 Mar 2026", " 5 March 2026 "].map(typedDay)).toEqual(
    Array(5).fill("2026-03-05"),
  );
  expect(["31/2/2026", "13/13/2026", "2026", "soon", ""].map(typedDay)).toEqual(Array(5).fill(null));
});
