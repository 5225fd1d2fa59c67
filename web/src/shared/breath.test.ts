import { expect, test } from "vitest";
import { breathOf } from "./breath";

test("a breath opens for its share and closes for the rest, breath after breath", () => {
  expect(breathOf(0, 10, 0.4)).toEqual({ word: "in", open: 0 });
  expect(breathOf(2, 10, 0.4)).toEqual({ word: "in", open: 0.5 });
  expect(breathOf(4, 10, 0.4)).toEqual({ word: "out", open: 1 });
  expect(breathOf(7, 10, 0.4).open).toBeCloseTo(0.5);
  expect(breathOf(12, 10, 0.4).open).toBeCloseTo(breathOf(2, 10, 0.4).open);
});
