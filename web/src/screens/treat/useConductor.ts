/** Conducting: everything that hands can say of the treatment, and moving on by itself. */
import { useEffect, useRef, useState } from "react";
import type { Schema } from "../../api/client";
import { facts } from "../../api/facts.gen";
import { isPressed } from "../../score/shapes";
import type { MovesOn } from "../../shared/device-prefs";
import { AT_STOP, type TreatmentState } from "../../treatment/fold";
import type { Said, useTreatment } from "../../treatment/useTreatment";
import { type Action, onceMeant } from "./keys";
import { following, order, preceding } from "./onward";
import { useHeard } from "./useHeard";
import { isResting, useNow } from "./useNow";

type Stop = Schema["Stop"];
export type Treatment = ReturnType<typeof useTreatment>;
const ANSWER_S = 20; // how long an answer is waited for after a round, before the hands go on without one
const BREATHS = 4; // breaths that are tapped along

/** What a key, a button or the search can ask of the screen around the treatment. */
type Around = {
  dim: () => void;
  find: (stop: Stop) => void;
  open: (what: "seen" | "note" | "sore" | "found") => void;
  movesOn: MovesOn;
  nextMovesOn: () => void;
  nextVoice: () => void;
};
const WAITS: Record<MovesOn, number> = {
  automatic: facts.move_s,
  slow: 2 * facts.move_s,
  manual: Number.POSITIVE_INFINITY,
};

export function useConductor(treatment: Treatment, session: TreatmentState, around: Around) {
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
    // With its stop: told late, it is booked where it was said.
    const at = AT_STOP.has(said.kind) && session.current ? { key: session.current } : {};
    say({ ...said, ...at, hands: byItself ? 0 : Math.max(touches.current, 1) });
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
      case "found":
        return stop && isPressed(stop) && around.open("found");
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
  const taps = useRef<number[]>([]); // two taps may come before the screen is drawn again
  const [told, setTold] = useState(0);
  const tap = () => {
    const at = Date.now();
    const last = taps.current.at(-1);
    const fresh = last !== undefined && at - last < 20_000 ? [...taps.current, at] : [at];
    const first = fresh[0] ?? at;
    taps.current = fresh.length > BREATHS ? [] : fresh;
    setTold(taps.current.length);
    if (fresh.length <= BREATHS) return;
    const seconds = (at - first) / 1000 / BREATHS;
    known(Math.round(Math.min(Math.max(seconds, 2), 20) * 10) / 10);
  };
  return { taps: told, tap };
}
