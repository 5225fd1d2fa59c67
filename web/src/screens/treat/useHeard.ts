/** What is heard: a sound for each moment of a stop, each once; and, where the device has a voice, what to do. */
import { useEffect, useRef } from "react";
import type { Schema } from "../../api/client";
import { isPressed } from "../../score/shapes";
import { useDevicePrefs } from "../../shared/device-prefs";
import { sound } from "../../shared/sound";
import { speak } from "../../shared/voice";
import { positionWords, shortId } from "../../shared/words";
import type { TreatmentState } from "../../treatment/fold";
import type { Now } from "./useNow";

type Stop = Schema["Stop"];
type Heard = {
  now: Now;
  next: Stop | undefined;
  running: boolean;
  turning: boolean;
  session: TreatmentState;
};
const NEXT_S = 7; // before the end: what comes next

export function useHeard({ now, next, running, turning, session }: Heard) {
  const { stop, elapsed, inTurn } = now;
  const { prefs } = useDevicePrefs();
  const last = useRef({ turn: "", at: 0 });
  const turn = stop ? `${stop.key}-${now.record?.started}` : "";
  useEffect(() => {
    if (!stop || !running) return;
    const fresh = last.current.turn !== turn;
    const before = fresh ? Math.min(elapsed - 1, -1) : last.current.at;
    const passed = (mark: number) => before < mark && elapsed >= mark;
    const say = (text: string) => prefs.voice !== "off" && speak(text);
    if (fresh) {
      sound.start();
      say(saidOf(stop, now, prefs.voice === "full"));
    } else if (passed(stop.duration_s / 2)) {
      inTurn ? sound.side() : sound.half();
      if (inTurn) say(`Now the ${now.side}.`);
    } else if (passed(stop.duration_s)) turning ? sound.turn() : sound.done();
    else for (let n = 1; n <= 5; n++) if (passed(stop.duration_s - n)) sound.tick();
    if (!fresh && passed(stop.duration_s - NEXT_S) && !session.loop) say(nextWords(stop, next));
    last.current = { turn, at: elapsed };
  });
  useAdvice(session, now, prefs.voice !== "off");
  useTheirs(now, prefs.voice !== "off");
}

/** What whoever lies there has said on a screen of their own is heard at once: no eye may be on this one. */
function useTheirs({ record, stop }: Now, aloud: boolean) {
  const last = record?.soreness.findLast((one) => one.by === "person");
  const told = last ? `${stop?.key} ${last.at}` : "";
  const value = last?.value;
  const heard = useRef(told);
  useEffect(() => {
    if (told === heard.current) return;
    heard.current = told;
    if (told === "") return;
    sound.theirs();
    if (aloud) speak(`They rate it ${value}.`);
  }, [told, value, aloud]);
}

/** Advice is said when it is new; and when a round is over, what is asked then. */
function useAdvice(session: TreatmentState, { loop, record }: Now, aloud: boolean) {
  const asked = loop !== null && loop <= 0;
  const text = session.advice?.text ?? "";
  useEffect(() => {
    if (aloud && text) speak(text);
  }, [aloud, text]);
  const level = record?.rounds.at(-1)?.level;
  useEffect(() => {
    if (!asked) return;
    sound.second();
    if (aloud) speak(`Press as before, level ${level}. How is it now?`);
  }, [asked, aloud, level]);
}

function saidOf(stop: Stop, { side }: Now, full: boolean): string {
  const where = stop.side === "midline" ? "" : stop.side === "both" && stop.dose.together ? "both sides" : side;
  const name = isPressed(stop) ? shortId(stop.id) : stop.name;
  const short = [name, where].filter(Boolean).join(", ");
  if (!full) return `${short}.`;
  return [`${short}.`, isPressed(stop) && `Level ${stop.level}.`, `${stop.dose_words}.`, stop.hand, stop.stand]
    .filter(Boolean)
    .join(" ");
}

/** What comes next: the place, and whether the person stays as they are. */
export function nextWords(stop: Stop, next: Stop | undefined): string {
  if (!next) return "Then we finish.";
  const side = next.side === "left" || next.side === "right" ? `${next.side} ` : "";
  const name = isPressed(next) ? shortId(next.id) : next.name;
  const stays =
    next.position === stop.position
      ? `stay ${positionWords[next.position]}`
      : `turn over, ${positionWords[next.position]}`;
  return `Next: ${side}${name}; ${stays}.`;
}
