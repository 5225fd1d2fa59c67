/** What this device keeps: who is signed in on it, and, sealed, what has not reached the server and what is needed to go
 * on without it.
 *
 * The key comes with a sign-in and is the practitioner's own. It lives in the memory of the page; in the browser's
 * database it is only under a PIN or a passkey, and only until the end of the practice's day. Signing out, or a session
 * that has ended, removes it and every snapshot. Entries that still wait stay, sealed, until the same practitioner signs
 * in again. Decisions: docs/decisions/0014-what-stays-on-a-device.md, 0028-a-lost-device.md
 */
import Dexie, { type EntityTable } from "dexie";
import type { Schema } from "../api/client";
import type { Sent } from "./fold";
import { unwrapByPasskey, unwrapByPin, type Wrap, wrapByPasskey, wrapByPin } from "./wrapping";

export type Sealed = { iv: Uint8Array<ArrayBuffer>; data: ArrayBuffer };
export type Owner = { id: string; name: string };
/** Who is signed in on this device: until when, and the key under a PIN or a passkey, if there is one. */
type Row = Owner & { row: "me"; until: number; wraps: Wrap[]; wrongPins: number };
type Me = Owner & { key: CryptoKey | null; until: number };
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
  me!: EntityTable<Row, "row">;
  entries!: EntityTable<Entry, "seq">;
  snapshots!: EntityTable<Kept, "visitId">;
  pantry!: EntityTable<Named, "name">;
  constructor() {
    super("acuthesis-device");
    this.version(1).stores({ me: "row", entries: "++seq, visitId, &id", snapshots: "visitId" });
    this.version(2).stores({ pantry: "name" });
    // Until then the key lay here as it was.
    this.version(3).upgrade((change) => change.table("me").clear());
  }
}

const device = new Device();
/** Earlier versions kept treatments readable, under another name. */
const OLD = "acuthesis-treatment";

let me: Me | null = null;
const ready: Promise<void> = (async () => {
  await Dexie.delete(OLD);
  const row = await device.me.get("me");
  if (row && row.until > Date.now()) me = { id: row.id, name: row.name, key: null, until: row.until };
  else if (row) await clear(); // its day is over
})();

/** Who is signed in on this device; null for nobody, or where their day is over. */
export async function owner(): Promise<Owner | null> {
  await ready;
  if (me && me.until <= Date.now()) await signedOut();
  return me && { id: me.id, name: me.name };
}

export const MOST_WRONG_PINS = 5;
/** What opens this device without the server. */
export type Locks = { open: boolean; pin: boolean; passkey: boolean };

/** Whether what the device keeps can be read now, and otherwise by what. */
export async function locks(): Promise<Locks> {
  await owner();
  const wraps = (await device.me.get("me"))?.wraps ?? [];
  const has = (kind: Wrap["kind"]) => wraps.some((wrap) => wrap.kind === kind);
  return { open: me !== null && me.key !== null, pin: has("pin"), passkey: has("passkey") };
}

const keyBytes = (who: Schema["Me"]) => Uint8Array.from(atob(who.device_key), (letter) => letter.charCodeAt(0));
const importKey = (bytes: Uint8Array<ArrayBuffer>) =>
  crypto.subtle.importKey("raw", bytes, "AES-GCM", false, ["encrypt", "decrypt"]);

/** Somebody has signed in: from here on the device keeps what is theirs. */
export async function signedIn(who: Schema["Me"]): Promise<void> {
  await ready;
  if (me !== null && me.id !== who.id) await signedOut();
  const until = Date.parse(who.device_key_until);
  const key = me?.key ?? (await importKey(keyBytes(who)));
  me = { id: who.id, name: who.name, key, until };
  const known = await device.me.get("me");
  await device.me.put({
    row: "me",
    id: who.id,
    name: who.name,
    until,
    wraps: known?.wraps ?? [],
    wrongPins: known?.wrongPins ?? 0,
  });
  await settle();
}

/** Put the key of whoever is signed in under a PIN on this device, in place of an earlier one; null removes it. */
export async function protectByPin(who: Schema["Me"], pin: string | null): Promise<void> {
  const wrap = pin === null ? null : await wrapByPin(keyBytes(who), pin);
  await device.me
    .where("row")
    .equals("me")
    .modify((row) => {
      row.wraps = [...row.wraps.filter((one) => one.kind !== "pin"), ...(wrap ? [wrap] : [])];
      row.wrongPins = 0;
    });
}

/** The same by a passkey. Returns whether the passkey gives what that needs. */
export async function protectByPasskey(who: Schema["Me"], credentialId: Uint8Array<ArrayBuffer>): Promise<boolean> {
  const wrap = await wrapByPasskey(keyBytes(who), credentialId);
  if (wrap === null) return false;
  await device.me
    .where("row")
    .equals("me")
    .modify((row) => {
      row.wraps = [...row.wraps.filter((one) => one.kind !== "passkey"), wrap];
    });
  return true;
}

/** Open what the device keeps by its PIN. Returns how many tries are left where it was wrong; null where it is open. */
export async function openByPin(pin: string): Promise<number | null> {
  const row = await device.me.get("me");
  const wrap = row?.wraps.find((one) => one.kind === "pin");
  if (!row || !wrap) return 0;
  // Counted before it is tried: a page that is closed meanwhile does not save a try.
  const left = MOST_WRONG_PINS - row.wrongPins - 1;
  await device.me.update("me", { wrongPins: row.wrongPins + 1 });
  const bytes = await unwrapByPin(wrap, pin);
  if (bytes) return openWith(bytes);
  if (left <= 0) await device.me.update("me", { wraps: row.wraps.filter((one) => one.kind !== "pin"), wrongPins: 0 });
  return Math.max(left, 0);
}

/** Open it by its passkey. Returns whether it is open. */
export async function openByPasskey(): Promise<boolean> {
  const wrap = (await device.me.get("me"))?.wraps.find((one) => one.kind === "passkey");
  const bytes = wrap && (await unwrapByPasskey(wrap));
  return bytes ? (await openWith(bytes)) === null : false;
}

async function openWith(bytes: Uint8Array<ArrayBuffer>): Promise<null> {
  if (me) me = { ...me, key: await importKey(bytes) };
  await device.me.update("me", { wrongPins: 0 });
  await settle();
  return null;
}

/** The screen is locked: what waits is sealed, and the key goes from memory. */
export async function lockDevice(): Promise<void> {
  await ready;
  await settle();
  if (me) me = { ...me, key: null };
}

/** Nobody is signed in any more: what waits is sealed, and everything readable goes. */
export async function signedOut(): Promise<void> {
  await ready;
  await settle();
  me = null;
  await clear();
}

async function clear(): Promise<void> {
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
  if (me === null) throw new Error("no one is signed in on this device");
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
  const key = mine?.key;
  const noted = [...journal(), ...held].filter((one) => one.who.id === mine?.id);
  if (!key || noted.length === 0) return;
  const sealed = await Promise.all(noted.map((one) => seal(one.body, key)));
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
  const key = mine?.key;
  if (!mine || !key) return [];
  // Read before the database: an entry that moves there meanwhile is seen twice rather than overtaken by a later one.
  const noted = unmoved(visitId, mine.id);
  const rows = await device.entries.where({ visitId }).sortBy("seq");
  const open = rows.filter((row) => row.who.id === mine.id && row.stuck === undefined);
  const kept = await Promise.all(open.map((row) => unseal<Sent>(row.sealed, key)));
  const there = new Set(rows.map((row) => row.id));
  return [...kept, ...noted.filter((one) => !there.has(one.id))];
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
  const noted = [...journal(), ...held];
  const rows = await device.entries.orderBy("seq").toArray();
  const there = new Set(rows.map((row) => row.id));
  for (const row of rows) {
    const key = `${row.visitId} ${row.who.id}`;
    const known = found.get(key) ?? { visitId: row.visitId, who: row.who, count: 0, stuck: null, person: null };
    found.set(key, { ...known, count: known.count + 1, stuck: row.stuck ?? known.stuck });
  }
  for (const one of noted.filter(({ body }) => !there.has(body.id))) {
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
  return me?.key && kept ? unseal<Snapshot>(kept.sealed, me.key).catch(() => null) : null;
}

export async function keepSnapshot(row: Snapshot): Promise<void> {
  await ready;
  const mine = me;
  if (!mine?.key) return;
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
  if (!mine?.key) return;
  const sealed = await seal(value, mine.key);
  if (me?.id === mine.id) await device.pantry.put({ name, sealed });
}

/** What is kept by a name; null where nothing is, or where nobody, or somebody else, is signed in. */
export async function fromDevice<T>(name: string): Promise<T | null> {
  await ready;
  const kept = await device.pantry.get(name);
  return me?.key && kept ? unseal<T>(kept.sealed, me.key).catch(() => null) : null;
}

/** What is no longer wanted goes. */
export async function dropFromDevice(unwanted: (name: string) => boolean): Promise<void> {
  await ready;
  const names = await device.pantry.toCollection().primaryKeys();
  await device.pantry.bulkDelete(names.filter(unwanted));
}
