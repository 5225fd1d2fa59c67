/** Leaving: what is readable goes at once, and the session ends as soon as the server hears of it, before anybody comes. */
import "fake-indexeddb/auto";
import Dexie from "dexie";
import { beforeEach, expect, test, vi } from "vitest";
import type { Schema } from "../api/client";
import { keepsInMemory, standsOnAPage } from "../shared/browser.testing";

const storage = keepsInMemory();
standsOnAPage();

const me = {
  id: "11111111-0000-4000-8000-000000000001",
  name: "Ode Marrable",
  device_key: btoa("k".repeat(32)),
  device_key_until: "2199-01-01T00:00:00Z",
} as unknown as Schema["Me"];

let device: typeof import("./device");
let leaving: typeof import("./session");
let heard: string[];
/** How the server answers a sign-out; null: it is away. */
let server: number | null;

beforeEach(async () => {
  storage.clear();
  heard = [];
  server = 204;
  await Dexie.delete("acuthesis-device");
  vi.resetModules();
  vi.stubGlobal("fetch", async ({ url }: Request) => {
    if (server === null) throw new TypeError("Failed to fetch");
    heard.push(new URL(url).pathname);
    if (url.endsWith("/api/me")) return Response.json({ csrf: "value" });
    return new Response(null, { status: server });
  });
  device = await import("./device");
  leaving = await import("./session");
  await device.signedIn(me);
  await device.keepSnapshot({ visitId: "v", person: { given_name: "Juniper" } } as never);
  device.keep("v", { id: "e", kind: "pause", at: "2026-11-27T10:00:00Z" } as never);
});

test("with the server there, the session is over, and what waits stays sealed on the device", async () => {
  await leaving.leave();
  expect(heard).toEqual(["/api/me", "/api/sign-out"]);
  expect(await leaving.endSession(), "there is nothing left to end").toBe(false);
  expect(await device.snapshot("v")).toBeNull();
  expect(await device.waiting()).toMatchObject([{ visitId: "v", count: 1, person: null }]);
  expect([...storage.values()].join()).not.toMatch(/pause|Juniper/);
});

test("with the server away, everything readable goes all the same, and the session ends when it is back", async () => {
  server = null;
  await leaving.leave();
  expect(await device.snapshot("v")).toBeNull();
  expect(await leaving.endSession(), "still to be ended").toBe(true);
  expect(heard).toEqual([]);
  server = 204;
  expect(await leaving.endSession()).toBe(true);
  expect(heard).toContain("/api/sign-out");
  expect(await leaving.endSession()).toBe(false);
});

test("a session that had run out is no session to be ended again and again", async () => {
  server = 401;
  await leaving.leave();
  expect(await leaving.endSession()).toBe(false);
});

test("who signs in after it is not signed out by the one who left", async () => {
  server = null;
  await leaving.leave();
  server = 204;
  leaving.arrived();
  expect(await leaving.endSession()).toBe(false);
  expect(heard).toEqual([]);
});
