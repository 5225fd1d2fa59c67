/** What the person's own device keeps: its key, what it was shown last, and what waits to be sent. Nothing that was told
 * stays once it has reached the practice; everything goes when the diary ends.
 */
import Dexie, { type EntityTable } from "dexie";
import { ApiError, api, type Schema, take } from "../api/client";

export type Shown = Schema["DiaryShown"];
export type Told = Schema["ToldFromHome"]["told"][number];
export type Home = {
  row: "home";
  key: string;
  code: string | null;
  shown: Shown | null;
  /** An episode that was begun here and goes on. */
  episode: { id: string; complaintId: string; since: string } | null;
  /** The medicine that was entered last, offered again. */
  medicine?: string;
};
type Waits = { seq: number; id: string; told: Told; after: number };
type Refused = { id: string; told: Told; why: string };
type Drawing = { id: string; svg: string };

/** So long something can still be undone: it is sent after that. */
export const UNDO_MS = 6000;

class Device extends Dexie {
  home!: EntityTable<Home, "row">;
  waits!: EntityTable<Waits, "seq">;
  refused!: EntityTable<Refused, "id">;
  drawings!: EntityTable<Drawing, "id">;
  constructor() {
    super("acuthesis-diary");
    this.version(1).stores({ home: "row", waits: "++seq, &id", refused: "id", drawings: "id" });
  }
}

export const device = new Device();
const bearer = (key: string) => ({ headers: { Authorization: `Bearer ${key}` } });

/** The practice that a code names; none where it is no code. */
const practiceOf = (code: string) => /^([0-9a-f]{32})\.[A-Za-z0-9_-]{16,}$/.exec(code)?.[1];

function newKey(practice: string): string {
  const bytes = crypto.getRandomValues(new Uint8Array(32));
  const letters = btoa(String.fromCharCode(...bytes));
  return `${practice}.${letters.replaceAll("+", "-").replaceAll("/", "_").replaceAll("=", "")}`;
}

/** Take a code from the address: this device makes its own key, and keeps it before anything is sent. */
export async function arrive(code: string): Promise<void> {
  const practice = practiceOf(code);
  if (!practice) throw new ApiError(404, WRONG_LINK);
  const known = await device.home.get("home");
  if (known?.code === code) return;
  await forgetAll();
  await device.home.put({ row: "home", key: newKey(practice), code, shown: null, episode: null });
}

/** What is asked, from the practice if it answers, or as it was shown last. Throws ApiError where there is no diary. */
export async function look(): Promise<Home | null> {
  const home = await device.home.get("home");
  if (!home) return null;
  try {
    if (home.code) {
      await take(api.POST("/api/diary/open", { body: { code: home.code, key: home.key } }));
      await device.home.update("home", { code: null });
    }
    const shown = await take(api.GET("/api/diary", bearer(home.key)));
    await device.home.update("home", { shown });
    void draw(home.key, shown);
  } catch (error) {
    if (error instanceof ApiError && error.status === 401) {
      await forgetAll();
      throw error;
    }
    // Away: what was shown last is good enough; a diary that was never opened has nothing to show yet.
    if (!home.shown) throw error;
  }
  return (await device.home.get("home")) ?? null;
}

/** Keep the drawings of the plan, so that the set can be pressed without a network. */
async function draw(key: string, shown: Shown): Promise<void> {
  const ids = new Set((shown.plan?.sets ?? []).flatMap((set) => set.points.map((place) => place.id)));
  const known = new Set(await device.drawings.toCollection().primaryKeys());
  await device.drawings.bulkDelete([...known].filter((id) => !ids.has(id)));
  for (const id of ids) {
    if (known.has(id)) continue;
    const answer = await fetch(`/api/diary/places/${encodeURIComponent(id)}.svg`, bearer(key)).catch(() => null);
    if (answer?.ok) await device.drawings.put({ id, svg: await answer.text() });
  }
}

/** Keep something that was told. It waits here until it has been sent, and for a moment it can be undone. */
export async function keep(told: Told, undoMs = UNDO_MS): Promise<void> {
  await device.waits.add({ id: told.id, told, after: Date.now() + undoMs } as Waits);
}

/** Undo what has not been sent yet. Returns whether it could be. */
export async function undo(id: string): Promise<boolean> {
  return (await device.waits.where({ id }).delete()) > 0;
}

let sending: Promise<void> = Promise.resolve();

/** Send what waits, in order. What the practice cannot use is kept with its reason, and shown. */
export function send(): Promise<void> {
  sending = sending.then(sendNow, sendNow);
  return sending;
}

async function sendNow(): Promise<void> {
  const home = await device.home.get("home");
  if (!home || home.code) return;
  const rows = (await device.waits.orderBy("seq").toArray()).filter((row) => row.after <= Date.now()).slice(0, 200);
  if (rows.length === 0) return;
  const body = { sent_at: new Date().toISOString(), told: rows.map((row) => row.told) };
  const became = await take(api.POST("/api/diary/told", { ...bearer(home.key), body }));
  const why = new Map(became.filter((one) => !one.kept).map((one) => [one.id, one.why ?? ""]));
  await device.transaction("rw", device.waits, device.refused, async () => {
    for (const row of rows) if (why.has(row.id)) await device.refused.put({ ...row, why: why.get(row.id) ?? "" });
    await device.waits.bulkDelete(rows.map((row) => row.seq));
  });
}

/** The practice has ended it, or somebody else's begins: nothing stays on this device. */
export async function forgetAll(): Promise<void> {
  await device.transaction("rw", device.home, device.waits, device.refused, device.drawings, async () => {
    await device.home.clear();
    await device.waits.clear();
    await device.refused.clear();
    await device.drawings.clear();
  });
}

/** Reminders for the person's own calendar, as a file to open. */
export async function reminders(): Promise<void> {
  const home = await device.home.get("home");
  if (!home) return;
  const answer = await fetch("/api/diary/reminders.ics", bearer(home.key));
  if (!answer.ok) throw new ApiError(answer.status, (await answer.json()) as Schema["Problem"]);
  const link = document.createElement("a");
  link.href = URL.createObjectURL(await answer.blob());
  link.download = "reminders.ics";
  link.click();
  URL.revokeObjectURL(link.href);
}

const WRONG_LINK: Schema["Problem"] = {
  code: "diary_ended",
  message: "This link is incomplete. Open it again from the message, or scan the QR code again.",
  where: "",
  details: [],
};
