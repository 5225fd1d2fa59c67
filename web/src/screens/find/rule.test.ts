import { describe, expect, it } from "vitest";
import type { Schema } from "../../api/client";
import { FORMS, type Form, type FormKind, placeOf, readForm, startOf } from "./rule";

const PARTS = {
  landmarks: [
    { id: "fibula_head", part: "lower_leg" },
    { id: "navel", part: "trunk" },
  ],
  segments: [{ id: "lower_leg_outer", name: "outer side of the lower leg" }],
} as unknown as Schema["RuleParts"];

describe("between fields and rules", () => {
  it.each(Object.keys(FORMS) as FormKind[])("a form is its rule, and the rule is the form: %s", (kind) => {
    const form = startOf(kind);
    expect(readForm(placeOf(form, PARTS))).toEqual(form);
  });

  it("a landmark of the trunk is moved up where no direction is named, one of a limb toward the trunk", () => {
    const away = (landmark: string): Form => ({ kind: "away", landmark, direction: "", cun: 1, of: "lower_leg_outer" });
    expect(placeOf(away("navel"), PARTS)).toMatchObject({ drop: { by: { superior: 1 }, in: "trunk" } });
    expect(placeOf(away("fibula_head"), PARTS)).toMatchObject({ drop: { by: { proximal: 1 }, in: "lower_leg" } });
  });

  it("what says more than a form can is left as it is", () => {
    const two = { drop: { move: "navel", by: { superior: 1, lateral: 2 }, cun: "abdomen", in: "trunk" } };
    for (const rule of [two, null, undefined, "navel", {}, { line: "x", segment: "y" }, { drop: { between: ["a"] } }])
      expect(readForm(rule)).toBeUndefined();
    expect(readForm({ drop: { between: ["a", "b"] } })).toMatchObject({ percent: 50 });
    expect(readForm({ beside: "navel", cun: 2, of: "abdomen" })).toMatchObject({ face: "front" });
  });
});
