/** What this device keeps: who is signed in on it, and, sealed, what has not reached the server and what is needed to go
 * on without it.
 *
 * The key comes with a sign-in and is the practitioner's own. While they are signed in it lies in the browser's database
 * as a key that no script can read out; signing out removes it and every snapshot. Entries that still wait stay, sealed,
 * until the same practitioner signs in again. Decision: docs/decisions/0014-what-stays-on-a-device.md
 */
import Dexie, { type EntityTable } from "dexie";
import type { Schema } from "../api/client";
import type { Sent } from "./fold";

export type Sealed = { iv: Uint8Array<ArrayBuffer>; data: ArrayBuffer };
export type Owner = { id: string; name: string };
type Me = Owner & { row: "me"; key: CryptoKey };
type Entry = { seq: number; id: string; visitId: string; who: Owner; sealed: Sealed; stuck?: string };
type Named = { name: string; sealed: Sealed };
type Kept = { visitId: string; sealed: Sealed };

export type Snapshot = {
  visitId: string;
  treatment: Schema["Treatment"];
  visit: Schema["VisitOut"];
  person: Schema["PersonOut"];
};
/** Entries that wait here: how many, of which visit, and who has to be signed in to send them. */
export type Waiting = { visitId: string; who: Owner; count: number; stuck: string | null; person: string | null };

class Device extends Dexie {
  me!: EntityTable<Me, "row">;
  entries!: EntityTable<Entry, "seq">;
  snapshots!: EntityTable<Kept, "visitId">;
  pantry!: EntityTable<Named, "name">;
  constructor() {
    super("acuthesis-device");
    this.version(1).stores({ me: "row", entries: "++seq, visitId, &id", snapshots: "visitId" });
    this.version(2).stores({ pantry: "name" });
  }
}

const device = new Device();
/** Earlier versions kept treatments readable, under another name. */
const OLD = "acuthesis-treatment";

let me: Me | null = null;
const ready: Promise<void> = (async () => {
  await Dexie.delete(OLD);
  me = (await device.me.get("me")) ?? null;
})();

/** Who is signed in on this device; null for nobody. */
export async function owner(): Promise<Owner | null> {
  await ready;
  return me && { id: me.id, name: me.name };
}

/** Somebody has signed in: from here on the device keeps what is theirs. */
export async function signedIn(who: Schema["Me"]): Promise<void> {
  await ready;
  if (me?.id === who.id) return;
  if (me !== null) await signedOut();
  const bytes = Uint8Array.from(atob(who.device_key), (letter) => letter.charCodeAt(0));
  const key = await crypto.subtle.importKey("raw", bytes, "AES-GCM", false, ["encrypt", "decrypt"]);
  me = { row: "me", id: who.id, name: who.name, key };
  await device.me.put(me);
  await settle();
}

/** Nobody is signed in any more: what waits is sealed, and everything readable goes. */
export async function signedOut(): Promise<void> {
  await ready;
  await settle();
  me = null;
  await device.transaction("rw", device.me, device.snapshots, device.pantry, async () => {
    await device.me.clear();
    await device.snapshots.clear();
    await device.pantry.clear();
  });
}

async function seal(value: unknown, key: CryptoKey): Promise<Sealed> {
  const iv = crypto.getRandomValues(new Uint8Array(12));
  const plain = new TextEncoder().encode(JSON.stringify(value));
  return { iv, data: await crypto.subtle.encrypt({ name: "AES-GCM", iv }, key, plain) };
}

async function unseal<T>(sealed: Sealed, key: CryptoKey): Promise<T> {
  const plain = await crypto.subtle.decrypt({ name: "AES-GCM", iv: sealed.iv }, key, sealed.data);
  return JSON.parse(new TextDecoder().decode(plain)) as T;
}

// The database and the sealing take their time; a reload in the same instant would lose the last key. So an entry goes
// first into local storage, which writes before the call returns, and from there, sealed, into the database.
const JOURNAL = "acuthesis-journal";
type Noted = { visitId: string; who: Owner; body: Sent };
const journal = (): Noted[] => JSON.parse(localStorage.getItem(JOURNAL) ?? "[]");
// Where the device has no room left, entries are held by the page alone, and that is told.
let held: Noted[] = [];
const onRoom = new Set<(enough: boolean) => void>();
const tellRoom = () => {
  for (const hear of onRoom) hear(held.length === 0);
};

/** Hear whether this device has room for what is said: false while entries live in this page alone. Returns how to stop. */
export function hearRoom(hear: (enough: boolean) => void): () => void {
  onRoom.add(hear);
  hear(held.length === 0);
  return () => void onRoom.delete(hear);
}

/** Keep an entry. When this returns, it outlives the page; where there is no room for it, as long as the page. */
export function keep(visitId: string, body: Sent): void {
  if (me === null) throw new Error("nobody is signed in on this device");
  const noted: Noted = { visitId, who: { id: me.id, name: me.name }, body };
  try {
    localStorage.setItem(JOURNAL, JSON.stringify([...journal(), noted]));
  } catch {
    held = [...held, noted];
    tellRoom();
  }
}

let settling: Promise<void> = Promise.resolve();

/** Move what the journal holds into the database, sealed, each entry once and in order. */
function settle(): Promise<void> {
  settling = settling.then(settleNow, settleNow);
  return settling;
}

async function settleNow(): Promise<void> {
  const mine = me;
  const noted = [...journal(), ...held].filter((one) => one.who.id === mine?.id);
  if (!mine || noted.length === 0) return;
  const sealed = await Promise.all(noted.map((one) => seal(one.body, mine.key)));
  try {
    await device.transaction("rw", device.entries, async () => {
      for (const [rank, { visitId, who, body }] of noted.entries()) {
        const one = sealed[rank];
        if (!one || (await device.entries.where({ id: body.id }).count()) > 0) continue;
        await device.entries.add({ id: body.id, visitId, who, sealed: one } as Entry);
      }
    });
  } catch (full) {
    if (!isFull(full)) throw full;
    return; // they stay where they are, and go from there
  }
  const moved = new Set(noted.map((one) => one.body.id));
  letGo(moved);
}

const isFull = (error: unknown) => /quota/i.test(`${(error as Error)?.name} ${(error as Error)?.message}`);

/** These are in the database, or with the server: the journal and the page keep them no longer. */
function letGo(ids: Set<string>): void {
  const rest = journal().filter((one) => !ids.has(one.body.id));
  if (rest.length > 0) localStorage.setItem(JOURNAL, JSON.stringify(rest));
  else localStorage.removeItem(JOURNAL);
  const before = held.length;
  held = held.filter((one) => !ids.has(one.body.id));
  if (held.length !== before) tellRoom();
}

/** Entries of a visit that can be sent, in the order in which they happened; only those of who is signed in. */
export async function unsent(visitId: string): Promise<Sent[]> {
  await ready;
  await settle();
  const mine = me;
  if (!mine) return [];
  const rows = await device.entries.where({ visitId }).sortBy("seq");
  const open = rows.filter((row) => row.who.id === mine.id && row.stuck === undefined);
  const kept = await Promise.all(open.map((row) => unseal<Sent>(row.sealed, mine.key)));
  const there = new Set(kept.map((one) => one.id));
  return [...kept, ...unmoved(visitId, mine.id).filter((one) => !there.has(one.id))];
}

/** What has no place in the database yet: in the journal, or held by the page. */
const unmoved = (visitId: string, who: string): Sent[] =>
  [...journal(), ...held].filter((one) => one.visitId === visitId && one.who.id === who).map((one) => one.body);

/** These have reached the server, or are of no more use. */
export const forget = async (ids: Iterable<string>): Promise<void> => {
  const all = new Set(ids);
  await device.entries
    .where("id")
    .anyOf([...all])
    .delete();
  if (held.length > 0 || journal().length > 0) letGo(all);
};

/** These cannot be sent, for a reason that is told; they stay. */
export const stick = async (ids: Iterable<string>, reason: string): Promise<void> => {
  await device.entries
    .where("id")
    .anyOf([...ids])
    .modify({ stuck: reason });
};

/** Entries that could not be sent are tried again, after somebody asked for it. */
export const retry = async (visitId: string): Promise<void> => {
  await device.entries.where({ visitId }).modify((entry) => {
    delete entry.stuck;
  });
};

/** Everything that waits on this device, by visit, whoever it is of. */
export async function waiting(): Promise<Waiting[]> {
  await ready;
  await settle();
  const found = new Map<string, Waiting>();
  for (const row of await device.entries.orderBy("seq").toArray()) {
    const key = `${row.visitId} ${row.who.id}`;
    const known = found.get(key) ?? { visitId: row.visitId, who: row.who, count: 0, stuck: null, person: null };
    found.set(key, { ...known, count: known.count + 1, stuck: row.stuck ?? known.stuck });
  }
  for (const one of [...journal(), ...held]) {
    const key = `${one.visitId} ${one.who.id}`;
    const known = found.get(key) ?? { visitId: one.visitId, who: one.who, count: 0, stuck: null, person: null };
    found.set(key, { ...known, count: known.count + 1 });
  }
  for (const one of found.values()) one.person = (await snapshot(one.visitId))?.person.given_name ?? null;
  return [...found.values()];
}

/** What is needed to go on with a visit while the server is away; null where nobody, or somebody else, is signed in. */
export async function snapshot(visitId: string): Promise<Snapshot | null> {
  await ready;
  const kept = await device.snapshots.get(visitId);
  return me && kept ? unseal<Snapshot>(kept.sealed, me.key).catch(() => null) : null;
}

export async function keepSnapshot(row: Snapshot): Promise<void> {
  await ready;
  const mine = me;
  if (!mine) return;
  const sealed = await seal(row, mine.key);
  if (me?.id === mine.id) await device.snapshots.put({ visitId: row.visitId, sealed });
}

/** Visits that are not wanted any more go, but for those of which something still waits to be sent. */
export async function dropSnapshots(unwanted: (visitId: string) => boolean): Promise<void> {
  const waits = new Set((await waiting()).map((one) => one.visitId));
  const kept = await device.snapshots.toCollection().primaryKeys();
  await device.snapshots.bulkDelete(kept.filter((id) => unwanted(id) && !waits.has(id)));
}

/** Keep something by a name, sealed, as long as somebody stays signed in. */
export async function keepOnDevice(name: string, value: unknown): Promise<void> {
  await ready;
  const mine = me;
  if (!mine) return;
  const sealed = await seal(value, mine.key);
  if (me?.id === mine.id) await device.pantry.put({ name, sealed });
}

/** What is kept by a name; null where nothing is, or where nobody, or somebody else, is signed in. */
export async function fromDevice<T>(name: string): Promise<T | null> {
  await ready;
  const kept = await device.pantry.get(name);
  return me && kept ? unseal<T>(kept.sealed, me.key).catch(() => null) : null;
}

/** What is no longer wanted goes. */
export async function dropFromDevice(unwanted: (name: string) => boolean): Promise<void> {
  await ready;
  const names = await device.pantry.toCollection().primaryKeys();
  await device.pantry.bulkDelete(names.filter(unwanted));
}
