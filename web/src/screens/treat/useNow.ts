/** Where the hands are at this second: the stop, its side, its part, its beat, and how long still. */
import { useInterval } from "@mantine/hooks";
import { useEffect, useState } from "react";
import { facts } from "../../api/facts.gen";
import { beatAt, type Phrase } from "../../score/pace";
import type { TreatmentState } from "../../treatment/fold";
import { lookSeconds } from "../../treatment/second";
import type { Stop } from "../../treatment/state";
import { RESTS_MS } from "./keys";
import { order } from "./onward";

type Side = "left" | "right";
const TICK_MS = 200;

/** Seconds that the current stop has run, ticking while it runs, by the server's clock. */
function useElapsed(session: TreatmentState, offset_s: number): number {
  const [, tick] = useState(0);
  const running = session.running_since ?? null;
  const ticking = useInterval(() => tick((n) => n + 1), TICK_MS);
  const { start, stop } = ticking;
  useEffect(() => {
    if (!running) return;
    start();
    return stop;
  }, [running, start, stop]);
  const record = session.current ? session.records[session.current] : undefined;
  const since = running ? Math.max((Date.now() - Date.parse(running)) / 1000 + offset_s, 0) : 0;
  return (record?.active_s ?? 0) + since;
}

export const inTurn = (stop: Stop) => stop.side === "both" && !stop.dose.together;

/** The current stop as the hands meet it. `over_s`: seconds past its end, below zero before it; `side` where the hands
 * are, `sided` the side that a number is said of; `rests` while a key that bounces must not move on; `loop`: seconds left of a round, zero or below when it asks. */
export function useNow(session: TreatmentState, offset_s: number, other: boolean) {
  const elapsed = useElapsed(session, offset_s);
  const running = session.running_since ?? null;
  const stop = order(session).find((one) => one.key === session.current);
  const record = stop ? session.records[stop.key] : undefined;
  const turns = stop !== undefined && inTurn(stop);
  const side_s = stop ? stop.duration_s / (turns ? 2 : 1) : 0;
  const second = stop !== undefined && turns && elapsed >= side_s;
  const leftFirst = stop?.first === "left";
  const side: Side = stop?.side === "left" || (turns && second !== leftFirst) ? "left" : "right";
  const opposite: Side = side === "left" ? "right" : "left";
  const sided: Side | null = !stop || stop.side === "midline" ? null : other && stop.side === "both" ? opposite : side;
  const at_s = elapsed - (second ? side_s : 0);
  const step = stop?.course.findLast((one) => one.part !== "find" && one.at_s <= elapsed);
  const end_s = endOf(stop, record);
  const rests = isResting(running, offset_s);
  const loop = session.loop ? session.loop.at_s + session.loop.seconds - elapsed : null;
  return {
    stop,
    record,
    elapsed,
    over_s: stop ? elapsed - end_s : 0,
    inTurn: turns,
    second,
    side,
    sided,
    step,
    loop,
    rests,
    beat: session.loop
      ? beatAt(AT_THE_SPOT[session.loop.way], elapsed - session.loop.at_s)
      : beatAt(stop?.rhythm ?? [], at_s, session.breath_s),
  };
}
/** So soon after hands on, a key that bounces must not move on. */
export const isResting = (running: string | null, offset_s: number) =>
  running !== null && Date.now() - Date.parse(running) + offset_s * 1000 < RESTS_MS;

/** What the hands do in a round at a sore spot, instead of the dose. */
const held: Phrase = {
  beats: [{ word: "hold", seconds: 600, opens: 1, closes: 1, breath: false }],
  times: 1,
  counts: false,
};
const rim: Phrase = {
  beats: [{ word: "circle", seconds: 2, opens: 0.5, closes: 1, breath: false }],
  times: 300,
  counts: false,
};
const AT_THE_SPOT = { ease: [held], rim: [rim], firm: [held], later: [held] };

/** Seconds at which hands leave: after the sign that was waited for, after a second look, or as planned. */
function endOf(stop: Stop | undefined, record: TreatmentState["records"][string] | undefined): number {
  if (!stop || !record) return 0;
  if (record.came_s != null) return record.came_s + facts.release_s;
  if (record.look_s != null) return record.look_s + lookSeconds(record);
  return stop.duration_s;
}
export type Now = ReturnType<typeof useNow>;
