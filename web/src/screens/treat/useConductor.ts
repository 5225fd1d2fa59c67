/** Conducting: where the treatment is at this second, and everything that hands can say of it. */
import { useInterval } from "@mantine/hooks";
import { useEffect, useRef, useState } from "react";
import type { Schema } from "../../api/client";
import { facts } from "../../api/facts.gen";
import type { Session } from "../../treatment/fold";
import type { useTreatment } from "../../treatment/useTreatment";
import { following, order, preceding } from "./course";
import type { Action } from "./keys";
import { useSounds } from "./useSounds";

type Stop = Schema["Stop"];
export type Treatment = ReturnType<typeof useTreatment>;
const TICK_MS = 200;

/** Seconds that the current stop has run, ticking while it runs, by the server's clock. */
function useElapsed(session: Session, offset_s: number): number {
  const [, tick] = useState(0);
  const running = session.running_since;
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

/** The current stop as the hands meet it. `over_s`: seconds past its end, below zero before it. */
function useNow(session: Session, offset_s: number) {
  const elapsed = useElapsed(session, offset_s);
  const stop = order(session).find((one) => one.key === session.current);
  const record = stop ? session.records[stop.key] : undefined;
  const inTurn = stop?.side === "both" && !stop.dose.together;
  const second = stop !== undefined && inTurn && elapsed >= stop.duration_s / 2;
  const leftFirst = stop?.first === "left";
  const side: "left" | "right" = stop?.side === "left" || (inTurn && second !== leftFirst) ? "left" : "right";
  return { stop, record, elapsed, over_s: stop ? elapsed - stop.duration_s : 0, inTurn, second, side };
}
export type Now = ReturnType<typeof useNow>;

/** What a key, a button or the search can ask of the screen around the treatment. */
type Around = { dim: () => void; find: (stop: Stop) => void; seen: () => void };

export function useConductor(treatment: Treatment, session: Session, around: Around) {
  const { say } = treatment;
  const now = useNow(session, treatment.offset_s);
  const { stop, record } = now;
  const next = following(session);
  const running = session.running_since !== null;
  useSounds(stop, now.elapsed, running);

  const start = (one: Stop | undefined) => one && say({ kind: "start_stop", key: one.key });
  const onward = () => (next ? start(next) : say({ kind: "end", reason: "finished" }));

  // At the end of a stop the conductor moves on by itself: the hands have five seconds to find the next place.
  const due = stop !== undefined && running && now.over_s >= facts.move_s;
  const turn = stop && `${stop.key}-${record?.started}`;
  const movedOn = useRef<string | undefined>(undefined);
  useEffect(() => {
    if (!due || movedOn.current === turn) return;
    movedOn.current = turn;
    onward();
  });

  const level = (by: number) => {
    const wanted = (record?.level ?? 0) + by;
    if (record && wanted >= 1 && wanted <= record.ceiling) say({ kind: "level", level: wanted });
  };
  const act = (action: Action) => {
    switch (action.does) {
      case "hold":
        return stop ? say({ kind: running ? "pause" : "resume" }) : start(order(session)[0]);
      case "onward":
        return onward();
      case "previous":
        return start(preceding(session));
      case "soreness":
        return stop && say({ kind: "soreness", value: action.value, side: stop.side === "midline" ? null : now.side });
      case "level":
        return level(action.by);
      case "technique":
        return say({ kind: "technique", technique: action.technique });
      case "reaction":
        return say({ kind: "reaction", reaction: action.reaction, words: action.words ?? "" });
      case "later":
        return say({ kind: "later" });
      case "stop":
        return say({ kind: "end", reason: "stopped" });
      case "wrong":
        return say({ kind: "wrong", step: "", answer: "begun" });
      case "seen":
        return stop && around.seen();
      case "dim":
        return around.dim();
      case "find":
        return stop && around.find(stop);
    }
  };
  return { now, next, running, start, act };
}
export type Conductor = ReturnType<typeof useConductor>;
