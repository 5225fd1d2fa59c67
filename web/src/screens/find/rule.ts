/** Between the editor's fields and the rule language: four forms that cover most points of one's own. */
import type { Schema } from "../../api/client";

type Parts = Schema["RuleParts"];
export const FORMS = {
  level: "At a level of a stretch",
  between: "Between two landmarks",
  beside: "Beside the middle line",
  away: "Away from a landmark",
} as const;
export type FormKind = keyof typeof FORMS;
export type Form =
  | { kind: "level"; segment: string; from: string; cun: number; line: string }
  | { kind: "between"; a: string; b: string; percent: number }
  | { kind: "beside"; landmark: string; cun: number; of: string; face: "front" | "back" }
  | { kind: "away"; landmark: string; direction: string; cun: number; of: string };

/** A form to begin with. */
export function startOf(kind: FormKind, _parts: Parts): Form {
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

/** The form of a rule that this editor made; undefined for one that came from a file and says more. */
export function readForm(place: unknown, _parts: Parts): Form | undefined {
  const rule = place as Record<string, unknown>;
  if (typeof rule?.line === "string")
    return {
      kind: "level",
      line: rule.line,
      segment: String(rule.segment),
      from: String(rule.from),
      cun: Number(rule.cun),
    };
  if (typeof rule?.beside === "string")
    return {
      kind: "beside",
      landmark: rule.beside,
      cun: Number(rule.cun),
      of: String(rule.of),
      face: rule.face === "back" ? "back" : "front",
    };
  const dropped = rule?.drop as Record<string, unknown> | undefined;
  if (Array.isArray(dropped?.between))
    return {
      kind: "between",
      a: String(dropped.between[0]),
      b: String(dropped.between[1]),
      percent: Number(dropped.at ?? 0.5) * 100,
    };
  const [direction, amount] = Object.entries((dropped?.by as Record<string, number>) ?? {})[0] ?? [];
  if (typeof dropped?.move === "string" && direction)
    return {
      kind: "away",
      landmark: dropped.move,
      direction,
      cun: Number(amount),
      of: String(dropped.cun),
    };
}
