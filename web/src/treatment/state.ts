/** Where a treatment stands, as the core tells it (core/treat/state.py), and what can be said of it. */
import type { Schema } from "../api/client";

export type Score = Schema["Score"];
export type TreatmentState = Schema["TreatmentState"];
export type Sent = Schema["Events"]["events"][number];
/** What is sent, and what the server keeps of it or adds to it. */
export type Event = Sent | Schema["Begin"] | Schema["ChangeRest"] | Schema["NewLimits"];
export type Stop = Schema["Stop"];
export type StopRecord = TreatmentState["records"][string];
export type Round = StopRecord["rounds"][number];
export type Felt = StopRecord["soreness"][number];
export type Way = Round["taken"];
export type Follows = NonNullable<TreatmentState["advice"]>["follows"];

/** An event that cannot follow what is there. It happened all the same: the server keeps it as disputed. */
export class Disputed extends Error {}

export const NOTHING_YET: TreatmentState = {
  status: "not_begun",
  score: null,
  records: {},
  current: null,
  running_since: null,
  advice: null,
  second_looks: [],
  loop: null,
  lighter: null,
  asleep: false,
  breath_s: null,
  wrong: [],
  notes: [],
  found: [],
  given_up: [],
  began_at: null,
  ended_at: null,
  past: [],
  event_count: 0,
};

export const isOver = (treatment: TreatmentState) => treatment.status === "stopped" || treatment.status === "finished";
