/** What happened here and has not reached the server yet: kept in the browser's own database, sent in the background. */
import Dexie, { type EntityTable } from "dexie";
import { ApiError, api, readyToWrite, type Schema, take } from "../../api/client";

export type Session = Schema["Session"];
export type Event = Schema["Events"]["events"][number];
type Kept = { id: string; visitId: string; seq?: number; body: Event };
type Snapshot = { visitId: string; session: Session; visit: Schema["VisitOut"]; person: Schema["PersonOut"] };

class Outbox extends Dexie {
  events!: EntityTable<Kept & { seq: number }, "seq">;
  snapshots!: EntityTable<Snapshot, "visitId">;
  constructor() {
    super("acuthesis-treatment");
    this.version(1).stores({ events: "++seq, visitId, &id", snapshots: "visitId" });
  }
}

const outbox = new Outbox();

// The database writes in its own time; a reload in the same instant would lose the last key. So an event goes first
// into local storage, which writes before the call returns, and from there into the database.
const journalKey = (visitId: string) => `acuthesis-treatment-${visitId}`;
const journal = (visitId: string): Event[] => JSON.parse(localStorage.getItem(journalKey(visitId)) ?? "[]");

/** Keep an event. When this returns, it outlives the page. */
export const keep = (visitId: string, body: Event) =>
  localStorage.setItem(journalKey(visitId), JSON.stringify([...journal(visitId), body]));

/** Move what the journal holds into the database, each event once. */
async function settle(visitId: string): Promise<void> {
  const events = journal(visitId);
  if (events.length === 0) return;
  await outbox.transaction("rw", outbox.events, async () => {
    for (const body of events) {
      if ((await outbox.events.where({ id: body.id }).count()) > 0) continue;
      await outbox.events.add({ id: body.id, visitId, body } as Kept & { seq: number });
    }
  });
  const settled = new Set(events.map((event) => event.id));
  const rest = journal(visitId).filter((event) => !settled.has(event.id));
  if (rest.length > 0) localStorage.setItem(journalKey(visitId), JSON.stringify(rest));
  else localStorage.removeItem(journalKey(visitId));
}

/** The events that have not reached the server, in the order in which they happened. */
export const waiting = async (visitId: string): Promise<Event[]> => {
  await settle(visitId);
  return (await outbox.events.where({ visitId }).sortBy("seq")).map((row) => row.body);
};

export const snapshot = (visitId: string) => outbox.snapshots.get(visitId);
export const keepSnapshot = (row: Snapshot) => outbox.snapshots.put(row);
const forget = (events: Event[]) =>
  outbox.events
    .where("id")
    .anyOf(events.map((event) => event.id))
    .delete();

const post = (visitId: string, events: Event[]) =>
  take(api.POST("/api/visits/{visit_id}/events", { params: { path: { visit_id: visitId } }, body: { events } }));

/** What came of sending: the server's state after the last event it took, the events that wait no more, and why it
 * stopped, if it did. */
export type Sent = { state: Session | null; done: Set<string>; failure: unknown };

const refusal = (error: unknown) => error instanceof ApiError && [404, 409, 422].includes(error.status);

/** Send what waits, all at once; where that is refused, one by one: an event that the server can never take is told and
 * dropped, so that it does not hold up the others. */
export async function send(visitId: string, refused: (message: string) => void): Promise<Sent> {
  const sent: Sent = { state: null, done: new Set(), failure: null };
  const finish = async (events: Event[]) => {
    await forget(events);
    for (const event of events) sent.done.add(event.id);
  };
  try {
    const events = await waiting(visitId);
    if (events.length === 0) return sent;
    await readyToWrite();
    try {
      sent.state = await post(visitId, events);
      await finish(events);
      return sent;
    } catch (error) {
      if (!refusal(error)) throw error;
    }
    for (const event of events) {
      try {
        sent.state = await post(visitId, [event]);
      } catch (error) {
        if (!refusal(error)) throw error;
        refused(error instanceof Error ? error.message : "");
      }
      await finish([event]);
    }
  } catch (error) {
    sent.failure = error;
  }
  return sent;
}
