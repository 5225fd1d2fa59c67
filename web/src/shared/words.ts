/** Small helpers that put values into words. */
import { facts } from "../api/facts.gen";

export type Side = "left" | "right" | "both" | "midline";

/** Moments are told by the clock of the practice, wherever this browser is: set as soon as it is known who is signed in. */
let timeZone: string | undefined;
export const setTimeZone = (zone: string) => {
  timeZone = zone;
};

/** A moment, or a day (`2026-03-01`) that is the same everywhere. */
const told = (iso: string, how: Intl.DateTimeFormatOptions) =>
  new Date(iso).toLocaleString("en-GB", { timeZone: iso.length === 10 ? "UTC" : timeZone, ...how });

export const clock = (iso: string) => told(iso, { hour: "2-digit", minute: "2-digit", hourCycle: "h23" });
export const dayOf = (iso: string) => told(iso, { day: "numeric", month: "short" });
export const dateOf = (iso: string) => told(iso, { day: "numeric", month: "short", year: "numeric" });
export const weekdayOf = (iso: string) => told(iso, { weekday: "long", day: "numeric", month: "long" });

/** A date as forms and the API write it, by the clock of the practice. */
export const isoDay = (at: Date) => at.toLocaleDateString("sv-SE", { timeZone });

export const minutesAndSeconds = (seconds: number) => {
  const whole = Math.max(0, Math.round(seconds));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
};

/** Short code of a point or area: "TF4" for "ear_TF4", "spine lumbar" for "foot_spine_lumbar". */
export const shortId = (id: string) =>
  codes[id] ?? id.replace(new RegExp(facts.surface_prefix), "").replaceAll("_", " ");
const codes: Record<string, string> = facts.codes;

export const sideWords: Record<Side, string> = {
  left: "left",
  right: "right",
  both: "both sides",
  midline: "middle",
};

export const partWords: Record<string, string> = {
  head: "head",
  trunk: "trunk",
  upper_arm: "upper arm",
  forearm: "forearm",
  hand: "hand",
  thigh: "thigh",
  lower_leg: "lower leg",
  foot: "foot",
};

export const positionWords: Record<string, string> = facts.positions;

/** A number with its noun: "1 change", "3 changes". */
export const counted = (number: number, noun: string) => `${number} ${noun}${number === 1 ? "" : "s"}`;
export const newId = () => crypto.randomUUID();
