/** What a practitioner is at while composing: what is wished for, which stop is chosen, how close the score is seen. */
import { useEffect, useRef, useState } from "react";
import type { Schema } from "../../api/client";
import { useMe } from "../../api/queries";
import { around, type Window } from "../../score/shapes";
import { useKeys } from "../../shared/keys";
import { scoreKeys, stopKeys } from "./keys";
import { useScore, type Wish } from "./useScore";
import { beginsWith, firstWish, ownFirst } from "./wish";

/** From here on a score is looked at through a window, with the whole of it in a strip below. */
const MANY_STOPS = 26;
const WINDOW_S = 900;

/** What lies over the score: a drawer, or nothing. */
export type Panel = "drafts" | "protocols" | "programme" | null;

export type Inputs = {
  personId: string;
  today: Schema["DayVisit"];
  complaints: Schema["ComplaintOut"][];
  catalogue: Schema["Catalogue"];
};

export function useComposer({ personId, today, complaints, catalogue }: Inputs) {
  const score = useScore(today.visit_id, personId);
  const made = score.visit.data?.score;
  const ownSchools = useMe().data?.schools ?? [];
  const [wish, setWish] = useState<Wish>(() =>
    firstWish(complaints, today.minutes, beginsWith(ownSchools, catalogue.schools)),
  );
  // What the score that is here was composed for; what is wished otherwise is shown before it is taken.
  const [taken, setTaken] = useState<Wish>(wish);
  const [chosen, choose] = useState<string | null>(null);
  const [panel, setPanel] = useState<Panel>(null);
  const [asking, setAsking] = useState(false);
  const adding = useRef<HTMLInputElement>(null);
  const stop = score.stops.find((one) => one.key === chosen);
  const budget_s = today.minutes * 60;
  const window = useWindow(made, stop, budget_s);

  // The school of the score that is here is the one to go on with.
  const school = made?.school;
  const [schoolBefore, setSchoolBefore] = useState(school);
  if (school !== schoolBefore) {
    setSchoolBefore(school);
    if (school) {
      setWish((before) => ({ ...before, school }));
      setTaken((before) => ({ ...before, school }));
    }
  }

  const look = { closer: window.toggle, add: () => adding.current?.focus() };
  useKeys(
    panel !== null || !made?.stops.length
      ? {}
      : { ...scoreKeys(score, look), ...(stop && stopKeys(stop, score, choose)) },
  );

  const compose = (next: Wish) => {
    setWish(next);
    setTaken(next);
    choose(null);
    score.compose.mutate(next);
  };
  const add = (id: string, override = "", on?: "left" | "right") =>
    void score.add(id, chosen, on ? { override, side: on } : { override }).then(choose, () => undefined); // said already
  // A screen opens with its work done: where nothing was composed yet, it is.
  const waiting = score.visit.isSuccess && !made && wish.complaint_ids.length > 0 && score.compose.isIdle;
  useEffect(() => {
    if (waiting) score.compose.mutate(wish);
  }, [waiting, score.compose.mutate, wish]);

  return {
    score,
    made,
    differs: made?.decision === "ok" && JSON.stringify(wish) !== JSON.stringify(taken),
    leave: () => setWish(taken),
    schools: ownFirst(ownSchools, catalogue.schools),
    wish,
    setWish,
    compose,
    stop,
    chosen,
    choose,
    add,
    adding,
    panel,
    setPanel,
    asking,
    setAsking,
    budget_s,
    window,
  };
}
export type Composer = ReturnType<typeof useComposer>;

/** The stretch of time that is shown: a long or full score through a window that follows the chosen stop. */
function useWindow(made: Schema["Score"] | null | undefined, stop: Schema["Stop"] | undefined, budget_s: number) {
  const [wanted, setWanted] = useState<boolean | null>(null);
  const [middle_s, setMiddle] = useState(0);
  const chosen_s = stop && stop.start_s + stop.duration_s / 2;
  const [chosenBefore, setChosenBefore] = useState(chosen_s);
  if (chosen_s !== chosenBefore) {
    setChosenBefore(chosen_s);
    if (chosen_s !== undefined) setMiddle(chosen_s);
  }
  const closer = wanted ?? (made?.stops.length ?? 0) > MANY_STOPS;
  const whole_s = Math.max(made?.total_s ?? 0, budget_s);
  const long = whole_s > WINDOW_S;
  const shown: Window | undefined = closer && long ? around(middle_s, WINDOW_S, whole_s * 1.01) : undefined;
  return { shown, long, setMiddle, toggle: () => setWanted(!closer) };
}
