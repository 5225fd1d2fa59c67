import { beforeEach, describe, expect, it, vi } from "vitest";
import { stopKeys } from "./keys";
import type { ScoreOfVisit, Stop } from "./useScore";

const stop = (key: string, values: object = {}) =>
  ({
    key,
    kind: "point",
    side: "both",
    level: 2,
    ceiling: 3,
    duration_s: 40,
    muted: false,
    dose: { form: "hold", seconds: 20, together: false },
    ...values,
  }) as unknown as Stop;

const STOPS = [stop("a"), stop("b"), stop("out", { muted: true }), stop("c", { side: "midline", kind: "close" })];
const did = {
  change: vi.fn(),
  stretch: vi.fn(),
  remove: vi.fn(),
  move: vi.fn(),
  duplicate: vi.fn(),
};
const score = { stops: STOPS, ...did } as unknown as ScoreOfVisit;
const choose = vi.fn();
const press = (at: Stop | undefined, key: string) => at && stopKeys(at, score, choose)[key]?.();
const [A, B, , C] = STOPS;

beforeEach(() => vi.clearAllMocks());

describe("the chosen stop by keys", () => {
  it("is left for its neighbour that sounds, and stays where there is none", () => {
    press(B, "arrowRight");
    press(C, "arrowRight");
    press(A, "arrowLeft");
    expect(choose.mock.calls).toEqual([["c"], ["c"], ["a"]]);
  });

  it("is moved one place on or back, and not beyond the ends", () => {
    press(A, "shift+arrowRight");
    press(B, "shift+arrowLeft");
    press(A, "shift+arrowLeft");
    press(C, "shift+arrowRight");
    expect(did.move.mock.calls).toEqual([
      ["a", "c"],
      ["b", "a"],
    ]);
  });

  it("is pressed harder up to its ceiling; what is not pressed has no level", () => {
    press(stop("d", { level: 3 }), "arrowUp");
    press(stop("d", { level: 1 }), "arrowDown");
    press(C, "arrowUp");
    expect(did.change).not.toHaveBeenCalled();
    press(A, "arrowUp");
    expect(did.change).toHaveBeenCalledWith("a", { level: 3 });
  });

  it("is lengthened on each side that is worked in turn", () => {
    press(A, "+");
    press(stop("t", { dose: { form: "hold", seconds: 20, together: true } }), "-");
    expect(did.stretch.mock.calls).toEqual([
      ["a", 60],
      ["t", 30],
    ]);
  });

  it("changes its side in turn, and the middle has no other", () => {
    press(stop("l", { side: "left" }), "s");
    press(A, "s");
    press(C, "s");
    expect(did.change.mock.calls).toEqual([
      ["l", { side: "both" }],
      ["a", { side: "right" }],
    ]);
  });

  it("is taken out with the next one chosen", () => {
    press(B, "delete");
    expect(choose).toHaveBeenCalledWith("c");
    expect(did.remove).toHaveBeenCalledWith("b");
  });
});
