import { describe, expect, it } from "vitest";
import { DAY_MS, held, LONGEST, moved, SHORTEST, type Span, ticks, zoomed } from "./span";

const all: Span = { from: 0, to: 100 * DAY_MS };
const length = (span: Span) => span.to - span.from;

describe("the stretch of time that is looked at", () => {
  it("never leaves what there is, and is never shorter than a day or longer than ten years", () => {
    let span = all;
    for (const factor of [0.5, 0.2, 0.01, 4, 0.3, 100, 10_000]) {
      span = zoomed(span, all, factor, span.from + length(span) * 0.8);
      expect(length(span)).toBeGreaterThanOrEqual(SHORTEST);
      expect(length(span)).toBeLessThanOrEqual(LONGEST);
    }
    for (const share of [-3, 0.5, 9]) {
      const shown = moved({ from: 20 * DAY_MS, to: 40 * DAY_MS }, all, share);
      expect(shown.from).toBeGreaterThanOrEqual(all.from);
      expect(shown.to).toBeLessThanOrEqual(all.to);
      expect(length(shown)).toBe(20 * DAY_MS);
    }
  });

  it("keeps the moment under the finger where it is", () => {
    const span = { from: 20 * DAY_MS, to: 60 * DAY_MS };
    const around = 30 * DAY_MS;
    const nearer = zoomed(span, all, 0.5, around);
    expect((around - nearer.from) / length(nearer)).toBeCloseTo(0.25);
  });

  it("shows a short course whole", () => {
    expect(held({ from: 0, to: DAY_MS / 2 }, { from: 0, to: DAY_MS / 2 })).toMatchObject({ to: expect.any(Number) });
  });

  it("names midnights, and not too many of them", () => {
    const midnightOf = (at: number) => Math.floor(at / DAY_MS) * DAY_MS;
    for (const days of [1, 5, 30, 200, 3600]) {
      const named = ticks({ from: 0, to: days * DAY_MS }, 8, midnightOf);
      expect(named.length).toBeGreaterThan(0);
      expect(named.length).toBeLessThanOrEqual(9);
      expect(named.every((at) => at % DAY_MS === 0)).toBe(true);
    }
  });
});
