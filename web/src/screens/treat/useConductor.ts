/** Conducting: where the treatment is at this second, and everything that hands can say of it. */
import { useInterval } from "@mantine/hooks";
import { useEffect, useRef, useState } from "react";
import type { Schema } from "../../api/client";
import { facts } from "../../api/facts.gen";
import { beatAt, type Phrase } from "../../score/pace";
import type { MovesOn } from "../../shared/device-prefs";
import type { Session } from "../../treatment/fold";
import { lookSeconds } from "../../treatment/second";
import type { Said, useTreatment } from "../../treatment/useTreatment";
import { type Action, onceMeant, RESTS_MS } from "./keys";
import { following, order, preceding } from "./onward";
import { useHeard } from "./useHeard";

type Stop = Schema["Stop"];
type Side = "left" | "right";
export type Treatment = ReturnType<typeof useTreatment>;
const TICK_MS = 200;
const ANSWER_S = 20; // how long an answer is waited for after a round, before the hands go on without one
const BREATHS = 4; // breaths that are tapped along

/** Seconds that the current stop has run, ticking while it runs, by the server's clock. */
function useElapsed(session: Session, offset_s: number): number {
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
function useNow(session: Session, offset_s: number, other: boolean) {
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
const isResting = (running: string | null, offset_s: number) =>
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
function endOf(stop: Stop | undefined, record: Session["records"][string] | undefined): number {
  if (!stop || !record) return 0;
  if (record.came_s != null) return record.came_s + facts.release_s;
  if (record.look_s != null) return record.look_s + lookSeconds(record);
  return stop.duration_s;
}
export type Now = ReturnType<typeof useNow>;

/** What a key, a button or the search can ask of the screen around the treatment. */
type Around = {
  dim: () => void;
  find: (stop: Stop) => void;
  open: (what: "seen" | "note" | "sore") => void;
  movesOn: MovesOn;
  nextMovesOn: () => void;
  nextVoice: () => void;
};
const WAITS: Record<MovesOn, number> = {
  "by itself": facts.move_s,
  slowly: 2 * facts.move_s,
  "by hand": Number.POSITIVE_INFINITY,
};

export function useConductor(treatment: Treatment, session: Session, around: Around) {
  const { say } = treatment;
  const [other, setOther] = useState(false);
  const now = useNow(session, treatment.offset_s, other);
  const { stop, record } = now;
  const next = following(session);
  const running = session.running_since !== null;
  const turning = stop !== undefined && next !== undefined && next.position !== stop.position;
  const breath = useBreath((seconds) => tell({ kind: "breath", seconds }));

  // Touches since the last thing that was said: how much hand the treatment takes is itself worth knowing.
  const touches = useRef(0);
  const tell = (said: Said, byItself = false) => {
    say({ ...said, hands: byItself ? 0 : Math.max(touches.current, 1) });
    touches.current = 0;
  };

  // biome-ignore lint/correctness/useExhaustiveDependencies: what was said of the other side ends with the stop
  useEffect(() => setOther(false), [stop?.key, now.side]);
  useHeard({ now, next, running, turning, session });

  const start = (one: Stop | undefined, byItself = false) =>
    one && tell({ kind: "start_stop", key: one.key }, byItself);
  const onward = (byItself = false) =>
    next ? start(next, byItself) : tell({ kind: "end", reason: "finished" }, byItself);

  // At the end of a stop the conductor moves on by itself: the hands have some seconds to find the next place. Not while
  // somebody turns, and not while an answer is waited for.
  const waits = WAITS[around.movesOn];
  const answered = now.loop === null || now.loop < -ANSWER_S;
  const due = stop !== undefined && running && now.over_s >= waits && answered && !turning;
  const turn = stop && `${stop.key}-${record?.started}`;
  const movedOn = useRef<string | undefined>(undefined);
  useEffect(() => {
    if (!due || movedOn.current === turn) return;
    movedOn.current = turn;
    onward(true);
  });

  const level = (by: number) => {
    const wanted = (record?.level ?? 0) + by;
    if (record && wanted >= 1 && wanted <= record.ceiling) tell({ kind: "level", level: wanted });
  };
  const meant = useRef(onceMeant());
  const resting = () => isResting(session.running_since ?? null, treatment.offset_s);
  const act = (action: Action) => {
    touches.current += 1;
    if (!meant.current(action, Date.now())) return;
    switch (action.does) {
      case "hold":
        return stop ? tell({ kind: running ? "pause" : "resume" }) : start(order(session)[0]);
      case "onward":
        return !resting() && onward();
      case "previous":
        return !resting() && start(preceding(session));
      case "soreness":
        if (!stop) return;
        tell({ kind: "soreness", value: action.value, side: now.sided });
        return setOther(false);
      case "level":
        return level(action.by);
      case "technique":
        return stop && tell({ kind: "technique", technique: action.technique });
      case "reaction":
        return tell({ kind: "reaction", reaction: action.reaction, words: action.words ?? "" });
      case "later":
        return stop && tell({ kind: "later" });
      case "stop":
        return tell({ kind: "end", reason: "stopped" });
      case "wrong":
        return tell({ kind: "wrong", step: "", answer: "begun" });
      case "undo":
        return takeBack();
      case "as_planned":
        return session.lighter && !session.lighter.taken_back && tell({ kind: "as_planned" });
      case "sign":
        return stop?.dose.form === "until" && tell({ kind: "sign", sign: stop.dose.sign });
      case "other_side":
        return stop?.side === "both" && setOther(!other);
      case "breath":
        return breath.tap();
      case "moves_on":
        return around.nextMovesOn();
      case "voice":
        return around.nextVoice();
      case "seen":
      case "sore":
        return stop && around.open(action.does);
      case "note":
        return around.open("note");
      case "dim":
        return around.dim();
      case "find":
        return stop && around.find(stop);
    }
  };
  const takeBack = () => {
    const last = session.past.at(-1);
    if (last) tell({ kind: "undo", of: last.id });
  };
  return { now, next, running, turning, start, act, tell, taps: breath.taps };
}
export type Conductor = ReturnType<typeof useConductor>;

/** A breath is tapped along, at each breath in: after four of them it is known. */
function useBreath(known: (seconds: number) => void) {
  const [taps, setTaps] = useState<number[]>([]);
  const tap = () => {
    const at = Date.now();
    const last = taps.at(-1);
    const fresh = last !== undefined && at - last < 20_000 ? [...taps, at] : [at];
    const first = fresh[0];
    if (fresh.length <= BREATHS || first === undefined) return setTaps(fresh);
    setTaps([]);
    const seconds = (at - first) / 1000 / BREATHS;
    known(Math.round(Math.min(Math.max(seconds, 2), 20) * 10) / 10);
  };
  return { taps: taps.length, tap };
}
