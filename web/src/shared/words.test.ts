import { describe, expect, it } from "vitest";
import { clock, dateOf, dayOf, isoDay, minutesAndSeconds, setTimeZone, shortId, weekdayOf } from "./words";

describe("words", () => {
  it("tell a moment by the practice's clock, and a day as the same day everywhere", () => {
    const late = "2026-11-27T23:30:00Z";
    setTimeZone("Asia/Kathmandu");
    expect([clock(late), dayOf(late), isoDay(new Date(late))]).toEqual(["05:15", "28 Nov", "2026-11-28"]);
    setTimeZone("Pacific/Honolulu");
    expect([clock(late), dateOf(late), isoDay(new Date(late))]).toEqual(["13:30", "27 Nov 2026", "2026-11-27"]);
    expect([dayOf("2026-03-01"), weekdayOf("2026-03-01")]).toEqual(["1 Mar", "Sunday 1 March"]);
  });

  it("tell midnight as 00 and a minute with two digits", () => {
    setTimeZone("UTC");
    expect(clock("2026-11-27T00:05:00Z")).toBe("00:05");
    expect([0, 59.6, 61, 3600, -4].map(minutesAndSeconds)).toEqual(["0:00", "1:00", "1:01", "60:00", "0:00"]);
  });

  it("call a place by its short code", () => {
    expect([shortId("SP6"), shortId("ear_TF4"), shortId("foot_spine_lumbar")]).toEqual(["SP6", "TF4", "spine lumbar"]);
  });
});
