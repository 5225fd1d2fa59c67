/** What happened at the table stays until the server has it, readable only for who was there. */
import "fake-indexeddb/auto";
import Dexie from "dexie";
import { beforeEach, expect, test, vi } from "vitest";
import type { Schema } from "../api/client";
import { keepsInMemory } from "../shared/browser.testing";
import type { Sent } from "./fold";

const storage = keepsInMemory();

type Box = typeof import("./device");
let box: Box;
let sender: typeof import("./sender");
let client: typeof import("../api/client");

/** A page that has just been opened: the modules anew, what the device keeps as it was. */
async function reload() {
  vi.resetModules();
  box = await import("./device");
  sender = await import("./sender");
  client = await import("../api/client");
}

beforeEach(async () => {
  storage.clear();
  await Dexie.delete("acuthesis-device");
  await reload();
});

const ODE = {
  id: "11111111-0000-4000-8000-000000000001",
  name: "Ode Marrable",
  device_key: btoa("k".repeat(32)),
  device_key_until: "2199-01-01T00:00:00Z",
};
const OTHER = {
  id: "11111111-0000-4000-8000-000000000002",
  name: "Somebody",
  device_key: btoa("z".repeat(32)),
  device_key_until: "2199-01-01T00:00:00Z",
};
const me = (who: typeof ODE) => who as unknown as Schema["Me"];
let count = 0;
const event = (kind: string, values: object = {}): Sent =>
  ({ kind, id: `e${++count}`, at: "2026-03-01T09:00:00Z", ...values }) as unknown as Sent;
const refusal = (status: number, message = "no") =>
  new client.ApiError(status, { code: "x", message, where: "", details: [] });
const answer = (events: Sent[], outcome = "kept") =>
  ({
    session: { event_count: 1 },
    disputed: [],
    clock_offset_s: 0,
    outcomes: events.map(({ id }) => ({ id, outcome, reason: outcome === "elsewhere" ? "used" : "" })),
  }) as unknown as Schema["Treatment"];
const ids = (events: Sent[]) => events.map((one) => one.id);
/** Everything that the device's database holds, as text. */
async function held(): Promise<string> {
  const raw = await new Dexie("acuthesis-device").open();
  const rows = await Promise.all(raw.tables.map((table) => table.toArray()));
  raw.close();
  const text = JSON.stringify(rows, (_, value) =>
    value instanceof ArrayBuffer || ArrayBuffer.isView(value) ? new TextDecoder().decode(value as ArrayBuffer) : value,
  );
  return text + [...storage.values()].join();
}

test("entries outlive the page, in order and once", async () => {
  await box.signedIn(me(ODE));
  const said = [event("pause"), event("resume"), event("soreness", { value: 7 })];
  for (const one of said) box.keep("v1", one);
  await reload(); // before anything was settled
  await box.signedIn(me(ODE));
  expect(ids(await box.unsent("v1"))).toEqual(ids(said));
  await reload();
  await box.signedIn(me(ODE));
  expect(ids(await box.unsent("v1"))).toEqual(ids(said));
});

test("the key lies in no storage: a reload without the server opens by the PIN alone, and after five wrong ones by none", async () => {
  await box.signedIn(me(ODE));
  await box.keepSnapshot({ visitId: "v1", person: { given_name: "Juniper" } } as never);
  box.keep("v1", event("soreness", { value: 7 }));
  await box.unsent("v1"); // sealed
  await reload();
  expect(await box.locks()).toEqual({ open: false, pin: false, passkey: false });
  expect(await box.snapshot("v1"), "without a PIN it opens with a sign-in only").toBeNull();
  expect(await box.openByPin("2486")).toBe(0);
  await box.signedIn(me(ODE));
  await box.protectByPin(me(ODE), "2486");
  await reload();
  const text = await held();
  for (const word of ["k".repeat(32), btoa("k".repeat(32)), "2486", "Juniper", "soreness"])
    expect(text).not.toContain(word);
  expect(await box.locks()).toEqual({ open: false, pin: true, passkey: false });
  expect(await box.openByPin("0000")).toBe(4);
  expect(await box.openByPin("2486")).toBeNull();
  expect((await box.snapshot("v1"))?.person.given_name).toBe("Juniper");
  expect(await box.unsent("v1")).toHaveLength(1);
  await box.lockDevice();
  expect(await box.snapshot("v1"), "a locked screen reads nothing").toBeNull();
  for (const left of [4, 3, 2, 1, 0]) expect(await box.openByPin("0000")).toBe(left);
  expect(await box.openByPin("2486"), "the right one comes too late").toBe(0);
  await box.signedIn(me(ODE));
  expect(await box.unsent("v1"), "a sign-in gives everything back").toHaveLength(1);
});

test("the key is worthless after its day, also without the server; entries stay for their writer", async () => {
  await box.signedIn({ ...me(ODE), device_key_until: new Date(Date.now() + 60_000).toISOString() });
  await box.protectByPin(me(ODE), "2486");
  await box.keepSnapshot({ visitId: "v1", person: { given_name: "Juniper" } } as never);
  box.keep("v1", event("pause"));
  await box.unsent("v1");
  vi.setSystemTime(Date.now() + 61_000);
  expect(await box.owner(), "on a page that stayed open").toBeNull();
  await reload();
  expect(await box.owner()).toBeNull();
  expect(await box.openByPin("2486")).toBe(0);
  expect(await box.snapshot("v1")).toBeNull();
  vi.useRealTimers();
  await box.signedIn(me(ODE));
  expect(await box.unsent("v1")).toHaveLength(1);
});

test("a session that the server has ended takes the key and everything readable with it", async () => {
  const leaving = await import("./session");
  leaving.followSession();
  await box.signedIn(me(ODE));
  await box.protectByPin(me(ODE), "2486");
  await box.keepSnapshot({ visitId: "v1", person: { given_name: "Juniper" } } as never);
  box.keep("v1", event("pause"));
  const refused = Promise.resolve({
    error: { code: "signed_out", message: "Your session has ended.", where: "", details: [] },
    response: new Response(null, { status: 401 }),
  });
  await expect(client.take(refused)).rejects.toThrow("Your session has ended.");
  await vi.waitFor(async () => expect(await box.owner()).toBeNull());
  expect(await box.locks()).toEqual({ open: false, pin: false, passkey: false });
  expect(await box.snapshot("v1")).toBeNull();
  expect(await box.waiting()).toMatchObject([{ count: 1, who: { name: "Ode Marrable" } }]);
});

test("after signing out nothing readable stays; the same person's next sign-in gives it back", async () => {
  await box.signedIn(me(ODE));
  box.keep("v1", event("soreness", { value: 7, side: "left" }));
  await box.keepSnapshot({ visitId: "v1", person: { given_name: "Juniper" } } as never);
  expect((await box.snapshot("v1"))?.person.given_name).toBe("Juniper");
  box.keep("v1", event("reaction", { reaction: "tearful" }));
  await box.signedOut();
  const text = await held();
  for (const word of ["soreness", "tearful", "Juniper", "left"]) expect(text).not.toContain(word);
  await reload();
  expect(await box.owner()).toBeNull();
  expect(await box.unsent("v1")).toEqual([]);
  expect(await box.snapshot("v1")).toBeNull();
  expect(await box.waiting()).toMatchObject([{ count: 2, who: { name: "Ode Marrable" }, person: null }]);
  await box.signedIn(me(OTHER));
  expect(await box.unsent("v1")).toEqual([]);
  await box.signedIn(me(ODE));
  expect((await box.unsent("v1")).map((one) => one.kind)).toEqual(["soreness", "reaction"]);
});

test("what the server has is forgotten, what it disputes too, what is used elsewhere stays", async () => {
  await box.signedIn(me(ODE));
  const said = [event("pause"), event("resume"), event("later")];
  for (const one of said) box.keep("v1", one);
  const outcomes = ["kept", "disputed", "elsewhere"];
  const result = await sender.sendVisit("v1", async (_, events) => {
    const told = answer(events);
    for (const [rank, one] of told.outcomes.entries()) {
      one.outcome = outcomes[rank] as "kept";
      one.reason = "used";
    }
    return told;
  });
  expect(result.done).toEqual(new Set(ids(said)));
  expect(await box.unsent("v1")).toEqual([]);
  expect(await box.waiting()).toMatchObject([{ count: 1, stuck: "used" }]);
});

test("an unknown visit is told, and its entries stay on the device", async () => {
  await box.signedIn(me(ODE));
  box.keep("gone", event("pause"));
  await sender.sendVisit("gone", () => Promise.reject(refusal(404, "There is no such visit in this practice.")));
  expect(await box.waiting()).toMatchObject([{ count: 1, stuck: "There is no such visit in this practice." }]);
  await box.retry("gone");
  expect(await box.unsent("gone")).toHaveLength(1);
});

test("with the server away everything waits", async () => {
  await box.signedIn(me(ODE));
  box.keep("v1", event("begin", { version: 3 }));
  box.keep("v1", event("pause"));
  for (const status of [0, 503, 500, 401]) {
    const { failure } = await sender.sendVisit("v1", () => Promise.reject(refusal(status)));
    expect(failure).toBeInstanceOf(client.ApiError);
    expect(await box.unsent("v1")).toHaveLength(2);
  }
});

test("a beginning that is refused alone is taken back; with what happened after it, all is sent together", async () => {
  await box.signedIn(me(ODE));
  box.keep("v1", event("begin", { version: 3 }));
  const alone = await sender.sendVisit("v1", () => Promise.reject(refusal(422, "Chest pain.")));
  expect(alone.refused?.message).toBe("Chest pain.");
  expect(await box.waiting()).toEqual([]);
  const said = [
    event("begin", { version: 3 }),
    event("start_stop", { key: "GB21-1" }),
    event("soreness", { value: 7 }),
  ];
  for (const one of said) box.keep("v1", one);
  const sent: string[][] = [];
  await sender.sendVisit("v1", async (_, events) => {
    sent.push(ids(events));
    return answer(events, "disputed");
  });
  expect(sent).toEqual([ids(said)]);
  expect(await box.waiting()).toEqual([]);
});

test("an entry that the server cannot read does not hold up the others", async () => {
  await box.signedIn(me(ODE));
  const said = [event("pause"), event("soreness", { value: 99 }), event("resume")];
  for (const one of said) box.keep("v1", one);
  const got: string[] = [];
  await sender.sendVisit("v1", async (_, events) => {
    if (events.some((one) => one.kind === "soreness")) throw refusal(422, "value: at most 10");
    got.push(...ids(events));
    return answer(events);
  });
  expect(got).toEqual([said[0]?.id, said[2]?.id]);
  expect(await box.waiting()).toMatchObject([{ count: 1, stuck: "value: at most 10" }]);
});

test("without room on the device entries are held by the page, told, sent, and let go", async () => {
  await box.signedIn(me(ODE));
  const rooms: boolean[] = [];
  box.hearRoom((enough) => rooms.push(enough));
  const full = vi.spyOn(localStorage, "setItem").mockImplementation(() => {
    throw new DOMException("no room", "QuotaExceededError");
  });
  const said = [event("pause"), event("soreness", { value: 6 })];
  for (const one of said) box.keep("v1", one);
  expect(rooms).toEqual([true, false, false]);
  expect(ids(await box.unsent("v1"))).toEqual(ids(said));
  full.mockRestore();
  const result = await sender.sendVisit("v1", async (_, events) => answer(events));
  expect([...result.done]).toEqual(ids(said));
  expect(await box.unsent("v1")).toEqual([]);
  expect(rooms.at(-1)).toBe(true);
});

test("no entry is overtaken by a later one while both are being saved", async () => {
  await box.signedIn(me(ODE));
  const said: string[] = [];
  const seen: Promise<string[]>[] = [];
  for (let round = 0; round < 40; round += 1) {
    seen.push(box.unsent("v1").then(ids));
    for (let turn = 0; turn < round % 8; turn += 1) await new Promise((done) => setTimeout(done));
    const entry = event("note");
    said.push(entry.id);
    box.keep("v1", entry);
    if (round % 2) void box.waiting();
  }
  for (const [round, looked] of seen.entries()) {
    const found = await looked;
    expect(found, `look ${round}`).toEqual(said.slice(0, found.length));
    expect(found.length, `look ${round}`).toBeGreaterThanOrEqual(round);
  }
});
