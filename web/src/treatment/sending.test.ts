/** How often what waits is sent, by an outbox whose clock is held: counted for each way in which a server can fail. */
import "fake-indexeddb/auto";
import Dexie from "dexie";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Schema } from "../api/client";
import { keepsInMemory, standsOnAPage } from "../shared/browser.testing";
import type { Sent } from "./fold";
import { later, placed } from "./merge";
import { pause_ms } from "./retry";

const storage = keepsInMemory();
standsOnAPage();
const ME = {
  id: "11111111-0000-4000-8000-000000000001",
  name: "Ode Marrable",
  device_key: btoa("k".repeat(32)),
  device_key_until: "2199-01-01T00:00:00Z",
} as unknown as Schema["Me"];
const TEN_MINUTES = 600_000;

let device: typeof import("./device");
let sender: typeof import("./sender");
/** How the server answers entries; null: not at all. */
let server: (events: Sent[]) => Response | null;
let sent: Sent[][];
let count = 0;
const entry = (kind = "pause"): Sent => ({ kind, id: `e${++count}`, at: "2026-03-01T09:00:00Z" }) as unknown as Sent;
const taken = (events: Sent[]) =>
  Response.json({
    session: { event_count: events.length },
    disputed: [],
    outcomes: events.map(({ id }) => ({ id, outcome: "kept", reason: "" })),
  });
const refused =
  (status: number, headers = {}) =>
  () =>
    Response.json({ code: "x", message: "No.", where: "", details: [] }, { status, headers });

beforeEach(async () => {
  vi.resetModules();
  storage.clear();
  await Dexie.delete("acuthesis-device");
  sent = [];
  server = taken;
  vi.stubGlobal("document", { visibilityState: "visible", addEventListener: () => undefined });
  vi.stubGlobal("fetch", async (request: Request) => {
    if (request.url.endsWith("/api/me")) return Response.json({ csrf: "value" });
    const { events } = (await request.json()) as { events: Sent[] };
    sent.push(events);
    const answer = server(events);
    if (answer === null) throw new TypeError("Failed to fetch");
    return answer;
  });
  device = await import("./device");
  sender = await import("./sender");
  await device.signedIn(ME);
  vi.useFakeTimers({ toFake: ["setTimeout", "clearTimeout", "Date"] });
});
afterEach(() => vi.useRealTimers());

const really = setTimeout; // as it was before any clock was held
const LOOKS = 30; // two milliseconds apart, without anything sent: also a slow machine is done then
/** Everything that can be done without the clock going on is done: sealing, the database, answers. */
async function settled() {
  for (let quiet = 0, seen = sent.length; quiet < LOOKS; quiet = sent.length === seen ? quiet + 1 : 0) {
    seen = sent.length;
    await new Promise<void>((done) => really(done, 2));
  }
}

/** Let a held clock go on, from one timer to the next: what each sets off is done before the next is due. */
async function goOn(ms: number) {
  const until = Date.now() + ms;
  await settled();
  while (vi.getTimerCount() > 0 && Date.now() < until) {
    const before = sent.length;
    while (sent.length === before && vi.getTimerCount() > 0 && Date.now() < until) {
      vi.advanceTimersByTime(50);
      if (vi.getTimerCount() === 0) await settled();
    }
  }
}

// Pauses double from 0.5 s to a minute: at least a quarter of a second of jitter away, at most the whole of it.
// Ten minutes are 8 doublings (127.5 s at their longest) and then at least 7.9, at most 18 pauses.
test.each([
  ["no answer", () => null, 14, 28],
  ["500", refused(500), 14, 28],
  ["502", refused(502), 14, 28],
  ["503", refused(503), 14, 28],
  ["429 that asks for two minutes", refused(429, { "Retry-After": "120" }), 5, 6],
  ["401", refused(401), 1, 1],
  ["403", refused(403), 2, 2],
  ["422", refused(422), 1, 1],
])(
  "%s: requests in ten minutes",
  async (_, answers, least, most) => {
    server = answers;
    sender.say("v", entry());
    await goOn(TEN_MINUTES);
    expect(sent.length).toBeGreaterThanOrEqual(least);
    expect(sent.length).toBeLessThanOrEqual(most);
    expect(await device.waiting(), "nothing is lost").toMatchObject([{ count: 1 }]);
  },
  120_000,
);

test("what comes in while entries are on their way is sent at once after them", async () => {
  let during: Sent | null = entry("later");
  server = (events) => {
    if (during) sender.say("v", during);
    during = null;
    return taken(events);
  };
  sender.say("v", entry());
  await goOn(0);
  expect(sent.map((events) => events.map((one) => one.kind))).toEqual([["pause"], ["later"]]);
  expect(await device.waiting()).toEqual([]);
});

test("what comes in while it is being told that nothing waits any more is sent too", async () => {
  let late: Sent | null = entry("late");
  sender.hearWaiting((rows) => {
    if (sent.length === 0 || rows.length > 0 || !late) return;
    sender.say("v", late);
    late = null;
  });
  sender.say("v", entry());
  await goOn(0);
  expect(sent.map((events) => events.map((one) => one.kind))).toEqual([["pause"], ["late"]]);
  expect(await device.waiting()).toEqual([]);
});

test("while the server is waited for, new entries wait with the old ones, and go together when it is back", async () => {
  const heard: (string | null)[] = [];
  sender.hearWaiting((_, waits) => heard.push(waits));
  server = () => null;
  for (let at = 0; at < 20; at += 1) sender.say("v", entry());
  await goOn(0);
  const before = sent.length;
  for (let at = 0; at < 20; at += 1) sender.say("v", entry());
  await goOn(0);
  expect(sent.length).toBe(before);
  expect(heard.at(-1)).toBe("server");
  server = taken;
  await goOn(3000);
  expect(sent.at(-1)?.length).toBe(40);
  expect(heard.at(-1)).toBeNull();
});

test("after a 401 entries wait for a sign-in, say so, and are sent with it", async () => {
  const heard: (string | null)[] = [];
  sender.hearWaiting((_, waits) => heard.push(waits));
  server = refused(401);
  sender.say("v", entry());
  sender.say("v", entry());
  await goOn(TEN_MINUTES);
  expect(heard.at(-1)).toBe("sign-in");
  server = taken;
  sender.signedInAgain();
  await goOn(0);
  expect(await device.waiting()).toEqual([]);
  expect(heard.at(-1)).toBeNull();
}, 60_000);

test("pauses double to a minute, keep a random half, heed the server, and are longer on a page nobody looks at", () => {
  const longest = [1, 2, 3, 4, 5, 6, 7, 8, 9, 50].map((failures) => pause_ms(failures, 1));
  expect(longest).toEqual([500, 1000, 2000, 4000, 8000, 16_000, 32_000, 60_000, 60_000, 60_000]);
  expect(pause_ms(1, 0)).toBe(250);
  expect(pause_ms(8, 0)).toBe(30_000);
  expect(pause_ms(1, 1, 7000)).toBe(7000);
  expect(pause_ms(1, 1, 0, true)).toBe(2500);
  expect(pause_ms(50, 1, 0, true)).toBe(300_000);
});

test("a late answer does not undo a newer one, and brings what it knows to be disputed", () => {
  const state = (event_count: number, disputed: number) =>
    ({ session: { event_count }, disputed: Array(disputed).fill({}) }) as unknown as import("./sender").Treatment;
  const [older, newer, other] = [state(3, 2), state(5, 1), state(5, 0)];
  expect(later(undefined, older)).toBe(older);
  expect(later(older, newer)).toBe(newer);
  expect(later(newer, other), "as new: the answer that came last").toBe(other);
  expect(later(newer, older)).toEqual({ ...newer, disputed: older.disputed });
  expect(later(newer, state(3, 0))).toEqual(newer);
});

test("a device that is a minute fast has its entries placed a minute earlier", () => {
  const at = (one: Sent | undefined) => (one as { at: string }).at;
  const said = [{ ...entry(), at: "2026-03-01T09:01:00.000Z" } as Sent];
  expect(at(placed(said, -60)[0])).toBe("2026-03-01T09:00:00.000Z");
  expect(at(placed(said, 30)[0])).toBe("2026-03-01T09:01:30.000Z");
  expect(placed(said, 0)).toBe(said);
});
