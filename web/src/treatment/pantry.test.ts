/** Answers kept for when the server is away: as they came, by their address, sealed, and gone with a sign-out. */
import "fake-indexeddb/auto";
import Dexie from "dexie";
import { beforeEach, expect, test, vi } from "vitest";
import type { Schema } from "../api/client";
import { keepsInMemory, standsOnAPage } from "../shared/browser.testing";

const storage = keepsInMemory();
standsOnAPage();

let device: typeof import("./device");
let pantry: typeof import("./pantry");
let client: typeof import("../api/client");

beforeEach(async () => {
  storage.clear();
  await Dexie.delete("acuthesis-device");
  vi.resetModules();
  device = await import("./device");
  pantry = await import("./pantry");
  client = await import("../api/client");
  client.whenAway(pantry.fromPantry);
});

const ME = {
  id: "11111111-0000-4000-8000-000000000001",
  name: "Ode Marrable",
  device_key: btoa("k".repeat(32)),
  device_key_until: "2199-01-01T00:00:00Z",
};
const me = ME as unknown as Schema["Me"];
const FIGURE = "/api/people/p1/figure?pose=standing&side=left";
/** What the server answers from here on; null: it is away. */
const answers = (what: ((address: string) => Response) | null) =>
  vi.stubGlobal("fetch", async (asked: string | Request) => {
    if (what === null) throw new TypeError("Failed to fetch");
    return what(typeof asked === "string" ? asked : asked.url);
  });
const reach = (address: string, method = "GET") =>
  client.reach(new Request(`http://practice.example${address}`, { method }));

test("what was stocked is given as it came while the server is away, whatever the order of what is asked", async () => {
  await device.signedIn(me);
  answers(() => Response.json({ height_cm: 168 }));
  await pantry.stock(FIGURE);
  answers(
    () => new Response(new Uint8Array([0, 255, 128, 7]), { headers: { "Content-Type": "application/octet-stream" } }),
  );
  await pantry.stock("/api/people/p1/figure/skin?pose=standing");
  await pantry.put("/api/people/p1/places/SP6?side=left", { id: "SP6" });
  answers(null);
  expect(await (await reach(FIGURE)).json()).toEqual({ height_cm: 168 });
  expect(await (await reach("/api/people/p1/figure?side=left&pose=standing")).json()).toEqual({ height_cm: 168 });
  const skin = await (await reach("/api/people/p1/figure/skin?pose=standing")).arrayBuffer();
  expect([...new Uint8Array(skin)]).toEqual([0, 255, 128, 7]);
  expect(await (await reach("/api/people/p1/places/SP6?side=left")).json()).toEqual({ id: "SP6" });
});

test("while the server answers, what it says counts; a refusal is an answer", async () => {
  await device.signedIn(me);
  await pantry.put(FIGURE, { height_cm: 168 });
  answers(() => Response.json({ height_cm: 170 }));
  expect(await (await reach(FIGURE)).json()).toEqual({ height_cm: 170 });
  answers(() => Response.json({ code: "not_found" }, { status: 404 }));
  expect((await reach(FIGURE)).status).toBe(404);
});

test("nothing is made up: other addresses, and whatever is written, fail as they did", async () => {
  await device.signedIn(me);
  await pantry.put(FIGURE, { height_cm: 168 });
  answers(null);
  await expect(reach("/api/people/p2/figure?pose=standing")).rejects.toThrow("Failed to fetch");
  await expect(reach(FIGURE, "POST")).rejects.toThrow("Failed to fetch");
  answers(() => Response.json({}, { status: 503 }));
  await expect(pantry.stock("/api/day")).rejects.toThrow("503");
  answers(null);
  await expect(reach("/api/day")).rejects.toThrow("Failed to fetch");
});

test("it is sealed, kept for nobody else, dropped when it is not wanted, and gone with a sign-out", async () => {
  await device.signedIn(me);
  await pantry.put(FIGURE, { given_name: "Juniper" });
  await pantry.put("/api/people/p2/figure", { given_name: "Rowan" });
  const raw = await new Dexie("acuthesis-device").open();
  const rows = (await raw.table("pantry").toArray()) as { sealed: { data: ArrayBuffer } }[];
  raw.close();
  const read = rows.map((row) => new TextDecoder().decode(row.sealed.data)).join();
  expect(rows).toHaveLength(2);
  expect(read).not.toMatch(/Juniper|Rowan/);
  await device.dropFromDevice((name) => name.includes("p2"));
  answers(null);
  await expect(reach("/api/people/p2/figure")).rejects.toThrow();
  expect(await (await reach(FIGURE)).json()).toEqual({ given_name: "Juniper" });
  await device.signedOut();
  await expect(reach(FIGURE)).rejects.toThrow();
  await device.signedIn(me);
  await expect(reach(FIGURE)).rejects.toThrow();
});
