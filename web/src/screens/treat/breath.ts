/** The breath that a hold goes by. */
import { facts } from "../../api/facts.gen";
import { type Breath, breathOf } from "../../shared/breath";

export type { Breath } from "../../shared/breath";
/** Words of beats that last: what is held goes with the breath. */
export const HELD = new Set(["hold", "wait for it"]);

/** The person's own breath where it was tapped, and a calm one otherwise. */
export const breathAt = (at_s: number, breath_s?: number | null): Breath =>
  breathOf(at_s, breath_s ?? facts.breath.seconds, facts.breath.in_share);
