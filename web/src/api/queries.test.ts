/** What stays on a screen while something new loads is of the same person. */
import "fake-indexeddb/auto";
import { expect, test } from "vitest";
import { keepsInMemory, standsOnAPage } from "../shared/browser.testing";

keepsInMemory();
standsOnAPage();

test("the last of the same person stays; never another's, nor where nobody was shown", async () => {
  const { lastOf } = await import("./queries");
  const keep = lastOf("ada");
  expect(keep("ada's figure", { queryKey: ["person", "ada", "figure"] })).toBe("ada's figure");
  expect(keep("bo's figure", { queryKey: ["person", "bo", "figure"] })).toBeUndefined();
  expect(keep("somebody's", undefined)).toBeUndefined();
});
