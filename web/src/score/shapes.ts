/** Shapes of the score: pure geometry from stops to blocks. Height is pressure, texture the way of pressing. */
import type { Schema } from "../api/client";

export type Stop = Schema["Stop"];
export type Dose = Stop["dose"];
export type Lane = "right" | "midline" | "left";
export const LANES: Lane[] = ["right", "midline", "left"];
export const LEVELS = 5;

export type Block = { stop: Stop; lane: Lane; start_s: number; duration_s: number; half: 0 | 1 | 2 };

/** The blocks of a stop: one, or one a side after the other. The core has said when it starts and how long it takes. */
export function blocksOf(stop: Stop): Block[] {
  if (stop.side !== "both")
    return [{ stop, lane: stop.side, start_s: stop.start_s, duration_s: stop.duration_s, half: 0 }];
  const half = stop.duration_s / 2;
  return [
    { stop, lane: "right", start_s: stop.start_s, duration_s: half, half: 1 },
    { stop, lane: "left", start_s: stop.start_s + half, duration_s: half, half: 2 },
  ];
}

/** Outline of a block from its lower left corner (y up is negative), `width` by `height` pixels. */
export function outline(dose: Dose, width: number, height: number): string {
  const w = Math.max(width, 3);
  switch (dose.form) {
    case "hold":
      return `M0 0V${-height}H${w}V0Z`;
    case "pulse": {
      const count = Math.max(1, Math.min(dose.cycles, Math.floor(w / 4)));
      const step = w / count;
      const on = dose.on_s / (dose.on_s + dose.off_s);
      let top = "";
      for (let i = 0; i < count; i++) {
        top += `V${-height}H${(i + on) * step}V${-height * 0.35}H${(i + 1) * step}`;
      }
      return `M0 0${top}V0Z`;
    }
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
  }
}

const FORM_WORDS = { hold: "hold", pulse: "pulses", circles: "circles", breaths: "breaths", glide: "glide" } as const;
export type Form = keyof typeof FORM_WORDS;
export const FORMS = Object.keys(FORM_WORDS) as Form[];
export const formWord = (form: Form) => FORM_WORDS[form];

export function doseWords(dose: Dose): string {
  switch (dose.form) {
    case "hold":
      return `hold ${dose.seconds} s`;
    case "pulse":
      return `${dose.cycles} × ${dose.on_s} s on, ${dose.off_s} s off`;
    case "circles":
      return `${dose.each_way} circles each way`;
    case "breaths":
      return `${dose.count} breaths`;
    case "glide":
      return `${dose.strokes} strokes`;
  }
}
