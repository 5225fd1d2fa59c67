/** The day at hand: the nearest first, no more than is needed, and never said to be there when it is not. */
import "fake-indexeddb/auto";
import Dexie from "dexie";
import { beforeEach, expect, test, vi } from "vitest";
import type { Schema } from "../api/client";
import { HERE, keepsInMemory, standsOnAPage } from "../shared/browser.testing";

const storage = keepsInMemory();
standsOnAPage();

let device: typeof import("./device");
let atHand: typeof import("./atHand");
let asked: string[];
let refused: Set<string>;

beforeEach(async () => {
  storage.clear();
  asked = [];
  refused = new Set();
  await Dexie.delete("acuthesis-device");
  vi.resetModules();
  vi.useFakeTimers({ toFake: ["Date"], now: new Date("2026-11-27T10:00:00Z") });
  device = await import("./device");
  atHand = await import("./atHand");
  vi.stubGlobal("fetch", async (what: string | Request) => {
    const path = new URL(typeof what === "string" ? what : what.url, HERE).pathname;
    asked.push(path);
    const visit = /visits\/(\w+)\/at-hand/.exec(path)?.[1];
    if (!visit) return Response.json({});
    return Response.json({
      refused: refused.has(visit) ? "no score yet" : "",
      places: [{ id: "SP6", side: "left" }],
      visit: { id: visit },
      person: { given_name: `Person of ${visit}` },
      treatment: {},
    });
  });
  await device.signedIn(somebody("1"));
});

const somebody = (n: string) =>
  ({ id: n.padStart(36, "0"), name: `No. ${n}`, device_key: btoa(n.repeat(32)) }) as unknown as Schema["Me"];
/** A visit of today at an hour, by its name; the person is named like it. */
const visit = (id: string, hour: number, more: object = {}) =>
  ({
    visit_id: id,
    person_id: `p_${id}`,
    starts_at: new Date(Date.UTC(2026, 10, 27, hour)).toISOString(),
    done: false,
    limits: [],
    ...more,
  }) as unknown as Schema["DayVisit"];

/** Brings a day to hand. Returns what was said to be there, in order, and which visits were asked for. */
async function brings(visits: Schema["DayVisit"][], left = () => false) {
  const told: string[] = [];
  asked = [];
  await atHand.bringDayToHand(visits, "/api/day", { told: (id) => told.push(id), left });
  return { told, fetched: asked.filter((path) => path.endsWith("/at-hand")).map((path) => path.split("/")[3]) };
}

test("the nearest to now comes first, what is over or cannot be begun is left", async () => {
  refused.add("late");
  const day = [visit("early", 8), visit("late", 16), visit("now", 10), visit("over", 11, { done: true })];
  const { told, fetched } = await brings(day);
  expect(fetched).toEqual(["now", "early", "late"]);
  expect(told).toEqual(["now", "early"]);
  expect((await device.snapshot("now"))?.person.given_name).toBe("Person of now");
  expect(await device.snapshot("late")).toBeNull();
});

test("what is there is not fetched again, until it stands otherwise or some time has gone", async () => {
  const day = [visit("a", 11), visit("b", 12)];
  await brings(day);
  expect(await brings(day)).toEqual({ told: ["a", "b"], fetched: [] });
  const moved = [visit("a", 11, { limits: ["Blood thinner"] }), visit("b", 12)];
  expect(await brings(moved)).toEqual({ told: ["a", "b"], fetched: ["a"] });
  vi.setSystemTime(new Date("2026-11-27T10:11:00Z"));
  expect((await brings(moved)).fetched).toEqual(["a", "b"]);
});

test("after a sign-out nothing is there, and nothing is said to be, whoever signs in next", async () => {
  const day = [visit("a", 11)];
  await brings(day);
  await device.signedOut();
  expect(await device.snapshot("a")).toBeNull();
  for (const who of ["1", "2"]) {
    await device.signedIn(somebody(who));
    expect(await brings(day), "fetched, because a sign-out took it").toEqual({ told: ["a"], fetched: ["a"] });
    await device.signedOut();
  }
});

test("who is not of today goes from the device, unless something of them waits to be sent", async () => {
  await brings([visit("monday", 11), visit("treated", 12)]);
  device.keep("treated", { id: "e1", kind: "pause", at: "2026-11-27T10:00:00Z" } as never);
  await brings([visit("tuesday", 11)]);
  expect(await device.snapshot("monday")).toBeNull();
  expect((await device.snapshot("treated"))?.person.given_name).toBe("Person of treated");
  expect(await device.fromDevice("/api/people/p_monday/kept-free")).toBeNull();
  expect(await device.fromDevice("/api/people/p_tuesday/kept-free")).not.toBeNull();
});

test("whoever goes on to something else is not followed by it", async () => {
  let looks = 0;
  const { told } = await brings([visit("a", 10), visit("b", 11), visit("c", 12)], () => ++looks > 1);
  expect(told).toEqual(["a"]);
});
