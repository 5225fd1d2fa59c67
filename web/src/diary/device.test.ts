/** What a phone keeps of a diary: its own key, what waits, and nothing of it once it has arrived or the diary has ended. */
import "fake-indexeddb/auto";
import Dexie from "dexie";
import { beforeEach, expect, test, vi } from "vitest";
import { keepsInMemory } from "../shared/browser.testing";
import type { Told } from "./device";

const storage = keepsInMemory();

const PRACTICE = "0123456789abcdef0123456789abcdef";
const CODE = `${PRACTICE}.abcdefghijklmnopqrstuvwx`;
const SHOWN = { given_name: "Noor", plan: null, complaints: [] };
type Answer = { status: number; data?: unknown };
type Asked = { path: string; body?: { key?: string; code?: string; told?: Told[] }; key?: string };
const asked: Asked[] = [];
let server: (one: Asked) => Answer;

vi.mock("../api/client", async (real) => {
  const client = await real<typeof import("../api/client")>();
  const call = async (path: string, given?: { body?: Asked["body"]; headers?: { Authorization: string } }) => {
    const one = { path, body: given?.body, key: given?.headers?.Authorization.replace("Bearer ", "") };
    asked.push(one);
    const { status, data } = server(one);
    if (status === 0) throw new TypeError("offline");
    return {
      data,
      error: { message: "no", code: "x" },
      response: { ok: status < 300, status, url: path, headers: new Headers() },
    };
  };
  return { ...client, api: { GET: call, POST: call } };
});

let box: typeof import("./device");

/** A page that has just been opened: the modules anew, what the phone keeps as it was. */
async function reload() {
  vi.resetModules();
  box = await import("./device");
}

const good = ({ path, body }: Asked): Answer => {
  if (path === "/api/diary/open") return { status: 204 };
  if (path === "/api/diary") return { status: 200, data: SHOWN };
  return { status: 200, data: body?.told?.map(({ id }) => ({ id, kept: true, why: "" })) };
};
const away = (): Answer => ({ status: 0 });
const note = (id: string) => ({ kind: "note", id, at: "2026-03-01T09:00:00Z", words: id }) as Told;
const sent = () => asked.filter((one) => one.path === "/api/diary/told").flatMap((one) => one.body?.told ?? []);

beforeEach(async () => {
  (box as typeof box | undefined)?.device.close();
  await Dexie.delete("acuthesis-diary");
  asked.length = 0;
  server = good;
  await reload();
});

async function opened() {
  await box.arrive(CODE);
  await box.look();
}

test("a code is used once, with a key that the phone made itself", async () => {
  await opened();
  const [open, shown] = asked;
  expect(open?.body?.code).toBe(CODE);
  expect(open?.body?.key).toMatch(new RegExp(`^${PRACTICE}\\.[A-Za-z0-9_-]{43}$`));
  expect(shown?.key).toBe(open?.body?.key);
  await reload();
  await box.look();
  expect(asked.filter((one) => one.path === "/api/diary/open")).toHaveLength(1);
  expect(JSON.stringify(await box.device.home.toArray())).not.toContain(CODE);
});

test("where the answer to a code is lost, the same key is sent again", async () => {
  server = away;
  await box.arrive(CODE);
  await expect(box.look()).rejects.toThrow();
  await reload();
  server = good;
  await box.arrive(CODE);
  await box.look();
  const keys = asked.filter((one) => one.path === "/api/diary/open").map((one) => one.body?.key);
  expect(keys).toHaveLength(2);
  expect(new Set(keys).size).toBe(1);
});

test.each(["", "nonsense", `${PRACTICE}.short`, "https://elsewhere.example"])("%o is no link", async (code) => {
  await expect(box.arrive(code)).rejects.toThrow("incomplete");
  expect(await box.device.home.count()).toBe(0);
});

test("what is told waits until it can no longer be undone, in order, and goes once it has arrived", async () => {
  await opened();
  await box.keep(note("a"), 0);
  await box.keep(note("b"), 0);
  await box.keep(note("c"), 60_000);
  await box.send();
  expect(sent().map((one) => one.id)).toEqual(["a", "b"]);
  expect((await box.device.waits.toArray()).map((one) => one.id)).toEqual(["c"]);
  expect(await box.undo("c")).toBe(true);
  expect(await box.undo("a")).toBe(false);
  await box.send();
  expect(sent()).toHaveLength(2);
});

test("without a network it stays, over a reload, and is sent once", async () => {
  await opened();
  server = away;
  await box.keep(note("a"), 0);
  await expect(box.send()).rejects.toThrow();
  await reload();
  expect((await box.look())?.shown?.given_name).toBe("Noor");
  server = good;
  await Promise.all([box.send(), box.send()]);
  asked.splice(0, asked.findIndex((one) => one.path === "/api/diary/told") + 1);
  expect(sent()).toHaveLength(1);
  expect(await box.device.waits.count()).toBe(0);
});

test("what cannot be kept is told, with its reason, and holds up nothing", async () => {
  await opened();
  server = ({ body }) => ({
    status: 200,
    data: body?.told?.map(({ id }) => ({ id, kept: id !== "bad", why: id === "bad" ? "still to come" : "" })),
  });
  await box.keep(note("bad"), 0);
  await box.keep(note("good"), 0);
  await box.send();
  expect((await box.device.refused.toArray()).map(({ id, why }) => [id, why])).toEqual([["bad", "still to come"]]);
  expect(await box.device.waits.count()).toBe(0);
});

test("a diary that has ended leaves nothing on the phone", async () => {
  await opened();
  await box.keep(note("a"), 60_000);
  await box.device.drawings.put({ id: "GB20", svg: "<svg/>" });
  await box.device.home.update("home", { medicine: "ibuprofen" });
  server = () => ({ status: 401 });
  await expect(box.look()).rejects.toThrow();
  for (const table of box.device.tables) expect(await table.count()).toBe(0);
  expect([...storage.values()], "nor in the storage beside the database").toEqual([]);
  expect(await box.look()).toBeNull();
});

test("another person's link takes the place of the first, and nothing of theirs is sent for them", async () => {
  await opened();
  await box.keep(note("a"), 60_000);
  const other = `${PRACTICE}.zyxwvutsrqponmlkjihgfedc`;
  await box.arrive(other);
  await box.look();
  expect(await box.device.waits.count()).toBe(0);
  expect(asked.at(-1)?.key).not.toBe(asked[1]?.key);
});
