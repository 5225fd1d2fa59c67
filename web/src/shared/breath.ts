/** Where a breath is, by seconds: in for its first share, then out. `open` goes from 0 to 1 and back. */
export type Breath = { word: string; open: number };

export function breathOf(at_s: number, seconds: number, in_share: number): Breath {
  const at = (at_s / seconds) % 1;
  return at < in_share
    ? { word: "in", open: at / in_share }
    : { word: "out", open: 1 - (at - in_share) / (1 - in_share) };
}
