/** Sends what waits on this device, from any page of the application, and tells whoever listens what became of it. */
import { ApiError, api, readyToWrite, type Schema, take } from "../api/client";
import { forget, keep, stick, unsent, type Waiting, waiting } from "./device";
import type { Sent } from "./fold";

export type Treatment = Schema["Treatment"];
/** What came of sending a visit's entries: the server's answer, the ids that wait no more, and why it stopped, if it did.
 * `refused`: a beginning that may not be, with nothing after it: it has been taken back. */
export type SendResult = { answer: Treatment | null; done: Set<string>; failure: unknown; refused: ApiError | null };
type Post = (visitId: string, events: Sent[]) => Promise<Treatment>;

const post: Post = async (visitId, events) => {
  await readyToWrite();
  return take(
    api.POST("/api/visits/{visit_id}/events", {
      params: { path: { visit_id: visitId } },
      body: { events, sent_at: new Date().toISOString() },
    }),
  );
};

const isRefusal = (error: unknown): error is ApiError =>
  error instanceof ApiError && [404, 409, 413, 422].includes(error.status);

/** Send a visit's entries in their order. Nothing is dropped: what cannot be sent stays, with the reason. */
export async function sendVisit(visitId: string, through: Post = post): Promise<SendResult> {
  const result: SendResult = { answer: null, done: new Set(), failure: null, refused: null };
  const events = await unsent(visitId);
  if (events.length === 0) return result;
  try {
    await send(visitId, events, through, result);
  } catch (error) {
    if (isRefusal(error) && error.status === 404) {
      await stick(
        events.map((event) => event.id),
        error.message,
      );
      for (const event of events) result.done.add(event.id);
    }
    result.failure = error;
  }
  return result;
}

async function send(visitId: string, events: Sent[], through: Post, result: SendResult): Promise<void> {
  const [first, ...rest] = events;
  if (!first) return;
  try {
    await took(await through(visitId, events), result);
  } catch (error) {
    if (!isRefusal(error) || error.status === 404) throw error;
    if (rest.length > 0) {
      // One of them cannot be read by the server: it stays here, and does not hold up the others.
      for (const event of events) await send(visitId, [event], through, result);
    } else if (first.kind === "begin") {
      await forget([first.id]); // nothing has happened yet, so there is nothing to keep
      result.done.add(first.id);
      result.refused = error;
    } else {
      await stick([first.id], error.message);
      result.done.add(first.id);
      result.failure = error;
    }
  }
}

async function took(answer: Treatment, result: SendResult): Promise<void> {
  result.answer = answer;
  const elsewhere = answer.outcomes.filter((one) => one.outcome === "elsewhere");
  for (const one of elsewhere) await stick([one.id], one.reason);
  const kept = answer.outcomes.filter((one) => one.outcome !== "elsewhere").map((one) => one.id);
  await forget(kept);
  for (const one of answer.outcomes) result.done.add(one.id);
}

// --- the background: one sender a page, and one page at a time

const RETRY_MS = 2000;
type Listener = (visitId: string, result: SendResult) => void;
const listeners = new Set<Listener>();
const onWaiting = new Set<(rows: Waiting[]) => void>();
let timer: ReturnType<typeof setTimeout> | undefined;
let running: Promise<void> | null = null;

/** Hear what becomes of entries. Returns how to stop. */
export function listen(listener: Listener): () => void {
  listeners.add(listener);
  return () => void listeners.delete(listener);
}

/** Hear how much waits, now and whenever it changes. Returns how to stop. */
export function hearWaiting(hear: (rows: Waiting[]) => void): () => void {
  onWaiting.add(hear);
  void waiting().then(hear);
  return () => void onWaiting.delete(hear);
}

/** Something happened at the table: kept here first, then sent. */
export function say(visitId: string, event: Sent): void {
  keep(visitId, event);
  void flush();
}

/** Send all that waits, of every visit; what cannot go now is tried again by itself. */
export function flush(): Promise<void> {
  running ??= exclusively(sendAll).finally(() => {
    running = null;
  });
  return running;
}

/** Two windows on one device take turns. */
async function exclusively(work: () => Promise<void>): Promise<void> {
  if (!("locks" in navigator)) return work();
  await navigator.locks.request("acuthesis-sender", work);
}

async function sendAll(): Promise<void> {
  clearTimeout(timer);
  let again = false;
  for (const { visitId, stuck } of await waiting()) {
    if (stuck !== null && (await unsent(visitId)).length === 0) continue;
    const result = await sendVisit(visitId);
    again ||= result.failure instanceof ApiError && result.failure.away;
    for (const listener of listeners) listener(visitId, result);
  }
  const left = await waiting();
  for (const hear of onWaiting) hear(left);
  // What came in while sending goes at once; where the server is away, in a moment.
  const fresh = !again && (await anyUnsent(left));
  if (again || fresh) timer = setTimeout(() => void flush(), fresh ? 0 : RETRY_MS);
}

async function anyUnsent(rows: Waiting[]): Promise<boolean> {
  for (const { visitId, stuck } of rows) if (stuck === null && (await unsent(visitId)).length > 0) return true;
  return false;
}

/** Begin to send, on this page and for as long as it is open. */
export function startSending(): void {
  window.addEventListener("online", () => void flush());
  document.addEventListener("visibilitychange", () => document.visibilityState === "visible" && void flush());
  void flush();
}
