import { describe, expect, it } from "vitest";
import type { Schema } from "../../api/client";
import { beginsWith, firstWish, ownFirst, toggled, variations } from "./wish";

const page = (id: string, name: string, alone = false) =>
  ({ school: { id, name, alone } }) as unknown as Schema["SchoolPage"];
const SCHOOLS = [page("channel_acupressure", "Channels"), page("foot", "Foot and hand"), page("quiet", "Quiet", true)];
const wish = firstWish([{ id: "c1" }, { id: "c2" }] as unknown as Schema["ComplaintOut"][], 25, "channel_acupressure");

describe("what is composed for", () => {
  it("begins with every open complaint and the practitioner's own school", () => {
    expect(wish).toMatchObject({ complaint_ids: ["c1", "c2"], minutes: 25, positions_excluded: [] });
    expect(beginsWith([], SCHOOLS)).toBe("channel_acupressure");
    expect(beginsWith(["quiet", "foot"], SCHOOLS)).toBe("foot");
    expect(ownFirst(["foot"], SCHOOLS).map((one) => one.school.id)).toEqual(["foot", "channel_acupressure", "quiet"]);
    expect([toggled([1, 2], 2), toggled([1], 2)]).toEqual([[1], [1, 2]]);
  });

  it("is asked about with one thing otherwise, and nothing else", () => {
    const asked = variations(wish, SCHOOLS);
    expect(asked.map((one) => one.words)).toEqual([
      "10 minutes less",
      "10 minutes more",
      "not face down",
      "not face up",
      "self-care only",
      "Foot and hand",
    ]);
    for (const one of asked) {
      const changed = Object.entries(one.wish).filter(([name, value]) => value !== wish[name as keyof typeof wish]);
      expect(changed, one.words).toHaveLength(1);
    }
  });

  it("is not asked what is so already, or what leaves no time", () => {
    const short = variations({ ...wish, minutes: 12, setting: "self_care", positions_excluded: ["prone"] }, SCHOOLS);
    expect(short.map((one) => one.words)).toEqual(["10 minutes more", "not face up", "Foot and hand"]);
  });
});
