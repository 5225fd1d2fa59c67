/** The stretch of time that is looked at: from ten years to a day, moved and zoomed without leaving what there is. */

export const DAY_MS = 86_400_000;
export const SHORTEST = DAY_MS;
export const LONGEST = 3660 * DAY_MS;

export type Span = { from: number; to: number };

/** A span of a length, inside what there is (and its margin), no shorter than a day and no longer than ten years. */
export function held(span: Span, all: Span): Span {
  const length = Math.min(Math.max(span.to - span.from, SHORTEST), LONGEST);
  const middle = (span.from + span.to) / 2;
  const [low, high] = [Math.min(all.from, all.to - length), Math.max(all.to, all.from + length)];
  const from = Math.min(Math.max(middle - length / 2, low), high - length);
  return { from, to: from + length };
}

/** Nearer or farther around a moment, which stays where it is. */
export function zoomed(span: Span, all: Span, factor: number, around = (span.from + span.to) / 2): Span {
  const length = Math.min(Math.max((span.to - span.from) * factor, SHORTEST), LONGEST);
  const share = (around - span.from) / (span.to - span.from);
  return held({ from: around - share * length, to: around + (1 - share) * length }, all);
}

/** Moved along by a share of what is seen. */
export const moved = (span: Span, all: Span, share: number): Span => {
  const by = (span.to - span.from) * share;
  return held({ from: span.from + by, to: span.to + by }, all);
};

const STEPS = [1, 2, 7, 14, 30, 91, 182, 365, 730].map((days) => days * DAY_MS);

/** Moments at which the axis is named: midnights by the practice's clock, at most so many. */
export function ticks(span: Span, most: number, midnightOf: (at: number) => number): number[] {
  const step = STEPS.find((one) => (span.to - span.from) / one <= most) ?? LONGEST;
  const found: number[] = [];
  for (let at = midnightOf(span.from); at <= span.to; at = midnightOf(at + step + DAY_MS / 4)) {
    if (at >= span.from) found.push(at);
  }
  return found;
}

/** A day of the core's count (days since the year 1, by the practice's clock) as a moment. */
export const momentOfDay = (day: number): number => (day - 719_163) * DAY_MS;
