/** Whose turn it is: sets by day from the first day of a plan, and sides one after the other. */
import type { Shown } from "./device";

type Plan = NonNullable<Shown["plan"]>;
export type Place = Plan["sets"][number]["points"][number];
export type Press = { place: Place; side: string };
const DAY_MS = 86_400_000;

/** Today's set: counted in days, as the sheet and the calendar count, by the day it is where the person is. */
export function setOn(plan: Plan, firstDay: string, today: string): Plan["sets"][number] | undefined {
  const days = Math.round((Date.parse(today) - Date.parse(firstDay)) / DAY_MS);
  return plan.sets[((days % plan.sets.length) + plan.sets.length) % plan.sets.length];
}

/** What is pressed, one after the other: a place on both sides twice, unless both are pressed together. */
export function pressesOf(places: readonly Place[]): Press[] {
  return places.flatMap((place) =>
    place.side === "both" && !place.dose.together
      ? [
          { place, side: "left" },
          { place, side: "right" },
        ]
      : [{ place, side: place.side === "both" ? "both sides" : place.side === "midline" ? "" : place.side }],
  );
}

/** The day it is here, as the plan counts: `2026-03-01`. */
export const here = () => new Date().toLocaleDateString("sv-SE");
