/** Small helpers that put values into words. */
export type Side = "left" | "right" | "both" | "midline";

export const clock = (iso: string) =>
  new Date(iso).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit", hourCycle: "h23" });
export const dayOf = (iso: string) => new Date(iso).toLocaleDateString("en-GB", { day: "numeric", month: "short" });
export const dateOf = (iso: string) =>
  new Date(iso).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" });

/** A date as forms and the API write it, by the clock of this browser. */
export const isoDay = (at: Date) => at.toLocaleDateString("sv-SE");

export const minutesAndSeconds = (seconds: number) => {
  const whole = Math.max(0, Math.round(seconds));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
};

/** Short code of a point or area: "TF4" for "ear_TF4", "spine lumbar" for "foot_spine_lumbar". */
export const shortId = (id: string) => id.replace(/^(ear|foot|hand|face|scalp|own)2?_/, "").replaceAll("_", " ");

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

export const positionWords: Record<string, string> = {
  supine: "on the back",
  prone: "on the front",
  left_side: "on the left side",
  right_side: "on the right side",
  seated: "seated",
};

export const newId = () => crypto.randomUUID();
