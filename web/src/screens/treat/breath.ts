/** The breath that a hold goes by. */
import { facts } from "../../api/facts.gen";

/** Words of beats that last: what is held goes with the breath. */
export const HELD = new Set(["hold", "wait for it"]);
export type Breath = { word: string; open: number };

/** Where a breath is: the person's own where it was tapped, and a calm one otherwise. */
export function breathAt(at_s: number, breath_s?: number | null): Breath {
  const { seconds, in_share } = facts.breath;
  const at = (at_s / (breath_s ?? seconds)) % 1;
  return at < in_share
    ? { word: "in", open: at / in_share }
    : { word: "out", open: 1 - (at - in_share) / (1 - in_share) };
}
