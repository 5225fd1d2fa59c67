/** The pace of a dose: which of its beats is due. The beats are the core's (core/compose/score/course.py). */
import type { Schema } from "../api/client";

export type Phrase = Schema["Phrase"];
/** How far the ring is open (0 to 1), how much of the beat is done (0 to 1), the word, and which of how many it is; `of`
 * is 0 where that is not worth saying. */
export type Beat = { open: number; done: number; word: string; nth: number; of: number };

const SILENT: Beat = { open: 1, done: 0, word: "hold", nth: 0, of: 0 };

/** The beat that is due after some seconds on one side. `breath_s`: the person's own breath, where it was tapped. */
export function beatAt(rhythm: readonly Phrase[], at_s: number, breath_s?: number | null): Beat {
  let left = Math.max(at_s, 0);
  let last = SILENT;
  for (const phrase of rhythm) {
    const planned = sum(phrase.beats.map((beat) => beat.seconds));
    const breathing = phrase.beats.every((beat) => beat.breath);
    const own = breathing && breath_s ? breath_s / planned : 1;
    const whole = planned * phrase.times;
    const length = planned * own;
    const of = phrase.counts ? Math.max(Math.round(whole / length), 1) : 0;
    if (left < whole) return beat(phrase, left, own, length, of);
    left -= whole;
    last = { open: phrase.beats.at(-1)?.closes ?? 1, done: 1, word: phrase.beats.at(-1)?.word ?? "hold", nth: of, of };
  }
  return last;
}

const sum = (numbers: number[]) => numbers.reduce((a, b) => a + b, 0);

function beat(phrase: Phrase, at: number, own: number, length: number, of: number): Beat {
  const nth = Math.floor(at / length) + 1;
  let inside = at % length;
  for (const one of phrase.beats) {
    const seconds = one.seconds * own;
    if (inside < seconds)
      return {
        open: one.opens + (one.closes - one.opens) * (inside / seconds),
        done: inside / seconds,
        word: one.word,
        nth: of ? Math.min(nth, of) : 0,
        of,
      };
    inside -= seconds;
  }
  return { ...SILENT, nth, of };
}
