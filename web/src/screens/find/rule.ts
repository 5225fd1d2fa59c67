/** Between the editor's fields and the rule language: four forms that cover most points of one's own. */
import type { Schema } from "../../api/client";

type Parts = Schema["RuleParts"];
export const FORMS = {
  level: "At a level of a segment",
  between: "Between two landmarks",
  beside: "Beside the midline",
  away: "Away from a landmark",
} as const;
export type FormKind = keyof typeof FORMS;
export type Form =
  | { kind: "level"; segment: string; from: string; cun: number; line: string }
  | { kind: "between"; a: string; b: string; percent: number }
  | { kind: "beside"; landmark: string; cun: number; of: string; face: "front" | "back" }
  | { kind: "away"; landmark: string; direction: string; cun: number; of: string };

/** A form to begin with. */
export function startOf(kind: FormKind): Form {
  switch (kind) {
    case "level":
      return {
        kind,
        segment: "lower_leg_outer",
        from: "popliteal_crease",
        cun: 4,
        line: "shin_crest_outer",
      };
    case "between":
      return { kind, a: "olecranon", b: "wrist_crease_dorsal", percent: 50 };
    case "beside":
      return { kind, landmark: "t5_spinous_process", cun: 1.5, of: "scapular_width", face: "back" };
    case "away":
      return { kind, landmark: "fibula_head", direction: "distal", cun: 1, of: "lower_leg_outer" };
  }
}

export const unitsFor = (parts: Parts) => parts.segments.map((one) => ({ value: one.id, label: one.name }));

/** The rule that a form stands for. */
export function placeOf(form: Form, parts: Parts): Record<string, unknown> {
  switch (form.kind) {
    case "level":
      return { line: form.line, segment: form.segment, from: form.from, cun: form.cun };
    case "between":
      return { drop: { between: [form.a, form.b], at: form.percent / 100 } };
    case "beside":
      return { beside: form.landmark, cun: form.cun, of: form.of, face: form.face };
    case "away": {
      const part = parts.landmarks.find((one) => one.id === form.landmark)?.part ?? "trunk";
      const direction = form.direction || (part === "trunk" || part === "head" ? "superior" : "proximal");
      return { drop: { move: form.landmark, by: { [direction]: form.cun }, cun: form.of, in: part } };
    }
  }
}

/** The form of a rule, if it is one of these four; a rule from a file may say more, and is then left as it is. */
export function readForm(place: unknown): Form | undefined {
  const rule = (place ?? {}) as Record<string, unknown>;
  const { line, segment, from, cun, beside, of, face, drop } = rule;
  if (isText(line) && isText(segment) && isText(from) && isNumber(cun))
    return { kind: "level", line, segment, from, cun };
  if (isText(beside) && isText(of) && isNumber(cun))
    return { kind: "beside", landmark: beside, cun, of, face: face === "back" ? "back" : "front" };
  const { between, at, move, by, cun: unit } = (drop ?? {}) as Record<string, unknown>;
  const [a, b] = Array.isArray(between) ? (between as unknown[]) : [];
  if (isText(a) && isText(b)) return { kind: "between", a, b, percent: isNumber(at) ? at * 100 : 50 };
  const ways = Object.entries((by ?? {}) as Record<string, unknown>);
  const [direction, amount] = ways[0] ?? [];
  if (isText(move) && isText(unit) && isText(direction) && isNumber(amount) && ways.length === 1)
    return { kind: "away", landmark: move, direction, cun: amount, of: unit };
}

const isText = (value: unknown): value is string => typeof value === "string";
const isNumber = (value: unknown): value is number => typeof value === "number";
