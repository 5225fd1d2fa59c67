import { describe, expect, test } from "vitest";
import { daysOn, isDay, momentOf, mondayOf, wallClock, weekdayNumber } from "./days";

describe("days", () => {
  test("are counted over months and leap days", () => {
    expect(daysOn("2028-02-28", 2)).toBe("2028-03-01");
    expect(daysOn("2026-01-01", -1)).toBe("2025-12-31");
    expect(mondayOf("2026-11-29")).toBe("2026-11-23");
    expect(weekdayNumber("2026-11-23")).toBe(0);
  });

  test("are told from other texts", () => {
    expect([isDay("2026-02-28"), isDay("2026-13-01"), isDay("today"), isDay(undefined)]).toEqual([
      true,
      false,
      false,
      false,
    ]);
  });
});

describe("a clock on the wall", () => {
  const zones = ["Europe/London", "Pacific/Honolulu", "Asia/Kathmandu", "Pacific/Tongatapu", "America/New_York"];

  test.each(zones)("and the moment go back and forth in %s, through both changes of clocks", (zone) => {
    for (let hour = 0; hour < 24 * 366; hour += 5) {
      const moment = new Date(Date.UTC(2026, 0, 1, hour, 30)).toISOString();
      const back = momentOf(wallClock(moment, zone), zone);
      const apart = (new Date(moment).getTime() - new Date(back).getTime()) / 3_600_000;
      // In the hour that comes twice the first is meant.
      expect([0, 1]).toContain(apart);
    }
  });

  test("an hour that is left out is the one after it", () => {
    // In London clocks go from 01:00 to 02:00 on 29 March 2026.
    expect(momentOf("2026-03-29 01:30", "Europe/London")).toBe("2026-03-29T01:30:00.000Z");
    expect(momentOf("2026-03-29 00:30", "Europe/London")).toBe("2026-03-29T00:30:00.000Z");
    expect(momentOf("2026-03-29 02:30", "Europe/London")).toBe("2026-03-29T01:30:00.000Z");
  });
});
