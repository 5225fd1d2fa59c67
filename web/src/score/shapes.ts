/** Shapes of the score: pure geometry from stops to blocks. Height is pressure, texture the way of pressing. */
import type { Schema } from "../api/client";
import { facts } from "../api/facts.gen";

export type Stop = Schema["Stop"];
export type Dose = Stop["dose"];
export type Lane = "right" | "midline" | "left";
export const LANES: Lane[] = ["right", "midline", "left"];
export const LEVELS = 5;

export type Block = { stop: Stop; lane: Lane; start_s: number; duration_s: number; half: 0 | 1 | 2 };

/** The blocks of a stop: one; or one a side, at once or after the other. The core has said when and how long. */
export function blocksOf(stop: Stop): Block[] {
  if (stop.side !== "both")
    return [{ stop, lane: stop.side, start_s: stop.start_s, duration_s: stop.duration_s, half: 0 }];
  const duration_s = stop.dose.together ? stop.duration_s : stop.duration_s / 2;
  const second = stop.dose.together ? stop.start_s : stop.start_s + duration_s;
  const [first, then]: [Lane, Lane] = stop.first === "left" ? ["left", "right"] : ["right", "left"];
  return [
    { stop, lane: first, start_s: stop.start_s, duration_s, half: 1 },
    { stop, lane: then, start_s: second, duration_s, half: 2 },
  ];
}

/** Height of a block at a level, in a lane of a height: pressure is height. */
export const blockHeight = (lane: number, level: number) => (lane * 0.66 * level) / LEVELS + 3;

/** The level that a height in a lane stands for, from 1 to 5. */
export const levelAt = (lane: number, height: number) =>
  Math.min(LEVELS, Math.max(1, Math.round(((height - 3) * LEVELS) / (lane * 0.66))));

/** Teeth of a block: how many, and the share of each that presses. */
function teeth(dose: Dose): [number, number] | undefined {
  switch (dose.form) {
    case "pulse":
      return [dose.cycles, dose.on_s / (dose.on_s + dose.off_s)];
    case "pumps":
      return [dose.count, 0.5];
    case "sets": {
      const work = dose.count * dose.seconds_each;
      return [dose.sets, work / (work + dose.release_s)];
    }
    case "compound": // a tooth a part: what is done one after the other
      return [dose.parts.length * (dose.rounds ?? 1), 0.85];
    default:
      return undefined;
  }
}

/** Outline of a block from its lower left corner (y up is negative), `width` by `height` pixels. */
export function outline(dose: Dose, width: number, height: number): string {
  const w = Math.max(width, 3);
  const toothed = teeth(dose);
  if (toothed) {
    const count = Math.max(1, Math.min(toothed[0], Math.floor(w / 4)));
    const step = w / count;
    let top = "";
    for (let i = 0; i < count; i++) top += `V${-height}H${(i + toothed[1]) * step}V${-height * 0.35}H${(i + 1) * step}`;
    return `M0 0${top}V0Z`;
  }
  switch (dose.form) {
    case "circles": {
      const count = Math.max(2, Math.min(2 * dose.each_way, Math.floor(w / 6)));
      const step = w / count;
      return `M0 0V${-height * 0.8}${`q${step / 2} ${-height * 0.4} ${step} 0`.repeat(count)}V0Z`;
    }
    case "breaths": {
      const count = Math.max(1, Math.min(dose.count, Math.floor(w / 8)));
      const step = w / count;
      const wave = `c${step / 4} ${-height * 0.5} ${step / 4} ${-height * 0.5} ${step / 2} 0c${step / 4} ${height * 0.3} ${step / 4} ${height * 0.3} ${step / 2} 0`;
      return `M0 0V${-height * 0.7}${wave.repeat(count)}V0Z`;
    }
    case "glide":
      return `M0 0V${-height * 0.25}L${w} ${-height}V0Z`;
    case "walk": {
      const count = Math.max(1, Math.min(dose.passes, Math.floor(w / 5)));
      const step = w / count;
      const bend = `l${step / 2} ${-height * 0.55}h${step / 2}v${height * 0.55}`;
      return `M0 0V${-height * 0.45}${bend.repeat(count)}V0Z`;
    }
    case "rubs": {
      const count = Math.max(1, Math.min(dose.count, Math.floor(w / 5)));
      const step = w / count;
      return `M0 0V${-height * 0.6}${`l${step / 2} ${-height * 0.4}l${step / 2} ${height * 0.4}`.repeat(count)}V0Z`;
    }
    case "until": // it may end before its cap
      return `M0 0V${-height}H${w * 0.6}L${w} ${-height * 0.35}V0Z`;
    default:
      return `M0 0V${-height}H${w}V0Z`;
  }
}

const FORM_WORDS = {
  hold: "hold",
  pulse: "pulses",
  circles: "circles",
  breaths: "breaths",
  glide: "strokes",
  walk: "thumb-walking",
  sets: "sets",
  pumps: "pumps",
  rubs: "rubs",
  until: "until a sign is felt",
  compound: "one after the other",
} as const;
export type Form = keyof typeof FORM_WORDS;
/** The forms that are chosen from a list; a compound dose is told in words. */
export const FORMS = (Object.keys(FORM_WORDS) as Form[]).filter((form) => form !== "compound");
export const formWord = (form: Form) => FORM_WORDS[form];

const PRESSED: readonly string[] = facts.pressed;
export const isPressed = (stop: { kind: string }) => PRESSED.includes(stop.kind);

/** What stands above a block: the code of a point, the name of anything else in a word. */
export const blockName = (stop: Stop, short: (id: string) => string) =>
  isPressed(stop)
    ? short(stop.id)
    : stop.kind === "rate"
      ? "rate"
      : stop.kind === "close"
        ? "close"
        : stop.id === "second_look"
          ? "recheck"
          : stop.id.replaceAll("_", " ");

/** A block as its name sees it: where it stands in its lane, in units of the drawing, and how much it matters. */
export type Named = { key: string; lane: Lane; x: number; width: number; height: number; name: string; weight: number };
/** Where a name stands: from the block's lane line, and whether it had to be shortened. */
export type NamePlace = { key: string; x: number; y: number; text: string };

const LETTER = 7.4; // as wide as a letter of a name, at the most
const ROW = 13; // from one row of names to the next
const SHORT = 6; // letters of a name that is shortened

/**
 * Names over their blocks, in the free space of their own lane: in the lowest row where none covers another, a block, or
 * the lane above; those that weigh most first. What finds no place is left out; the chosen stop says its name below.
 */
export function placeNames(blocks: Named[], lane: number): NamePlace[] {
  return LANES.flatMap((one) => {
    const mine = blocks.filter((block) => block.lane === one);
    const placed: (NamePlace & { to: number })[] = [];
    for (const block of mine.toSorted((a, b) => b.weight - a.weight || a.x - b.x)) {
      const short = block.name.length > SHORT + 1 ? `${block.name.slice(0, SHORT).trimEnd()}…` : block.name;
      for (const text of block.name === short ? [short] : [block.name, short]) {
        const x = block.x + 2;
        const to = x + text.length * LETTER;
        const below = mine.filter((other) => other.x < to && other.x + other.width > x);
        const floor = Math.max(...below.map((other) => other.height), block.height) + 4;
        const rows = Math.floor((lane - floor - ROW + 2) / ROW) + 1;
        const y = Array.from({ length: Math.max(rows, 0) }, (_, row) => -(floor + row * ROW)).find((row) =>
          placed.every((other) => other.to + 3 < x || other.x > to + 3 || Math.abs(other.y - row) >= ROW),
        );
        if (y === undefined) continue;
        placed.push({ key: block.key, x, y, text, to });
        break;
      }
    }
    return placed.map(({ key, x, y, text }) => ({ key, x, y, text }));
  });
}

export type Window = { from_s: number; to_s: number };

/** A window of `length_s` around a moment, kept inside the score. */
export function around(moment_s: number, length_s: number, total_s: number): Window {
  const from_s = Math.max(0, Math.min(moment_s - length_s / 2, total_s - length_s));
  return { from_s, to_s: from_s + length_s };
}
