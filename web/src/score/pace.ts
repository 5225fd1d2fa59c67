/** The pace of a dose: full while pressing, small while released, breathing with the breath. */
import type { Dose } from "./shapes";

const IN_SHARE = 0.4; // in shorter than out

/** How far the ring is open, 0 to 1, and the word that goes with it. */
export function phase(dose: Dose, elapsed: number): { open: number; word: string } {
  switch (dose.form) {
    case "pulse": {
      const at = elapsed % (dose.on_s + dose.off_s);
      return at < dose.on_s ? { open: 1, word: "press" } : { open: 0.35, word: "release" };
    }
    case "breaths": {
      const length = 60 / dose.per_minute;
      const at = (elapsed % length) / length;
      return at < IN_SHARE
        ? { open: 0.3 + 0.7 * (at / IN_SHARE), word: "in" }
        : { open: 1 - 0.7 * ((at - IN_SHARE) / (1 - IN_SHARE)), word: "out" };
    }
    case "circles": {
      const length = dose.each_way * dose.seconds_each;
      return { open: 0.8, word: elapsed % (2 * length) < length ? "one way" : "other way" };
    }
    case "glide":
      return { open: 0.5 + 0.5 * ((elapsed % dose.seconds_each) / dose.seconds_each), word: "glide" };
    case "walk":
    case "rubs": {
      const length = dose.seconds_each;
      return { open: 0.5 + 0.5 * ((elapsed % length) / length), word: dose.form === "walk" ? "walk" : "rub" };
    }
    case "pumps": {
      const length = dose.seconds_each;
      return elapsed % length < length / 2 ? { open: 0.9, word: "pump" } : { open: 0.6, word: "pump" };
    }
    case "sets": {
      const work = dose.count * dose.seconds_each;
      const at = elapsed % (work + dose.release_s);
      return at < work ? { open: 1, word: "work" } : { open: 0.35, word: "release" };
    }
    case "compound": {
      const { part, at } = partAt(dose, elapsed);
      return phase(part, at);
    }
    case "until":
      return { open: 1, word: "wait for it" };
    default:
      return { open: 1, word: "hold" };
  }
}

type Compound = Extract<Dose, { form: "compound" }>;

/** The part of a compound dose that is due, and the seconds since it began. */
function partAt({ parts, lengths_s }: Compound, elapsed: number): { part: Dose; at: number } {
  const lengths = lengths_s ?? [];
  let at = elapsed % (lengths.reduce((sum, one) => sum + one, 0) || 1);
  for (const [n, part] of parts.entries()) {
    const length = lengths[n] ?? 0;
    if (at < length || n === parts.length - 1) return { part, at };
    at -= length;
  }
  return { part: { form: "hold", seconds: 5 } as Dose, at };
}
