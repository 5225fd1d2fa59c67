/** Sends the entries that wait on this device, whichever page of the application is open, and reports what became of
 * them. Decision: docs/decisions/0027-under-load.md */
import { ApiError, api, readyToWrite, type Schema, setCsrf, take } from "../api/client";
import { hearAnswers } from "../shared/network";
import { forget, keep, stick, unsent, type Waiting, waiting } from "./device";
import type { Sent } from "./fold";
import { afterFailure, pause_ms, type Waits } from "./retry";

export type Treatment = Schema["Treatment"];
/** What came of sending a visit's entries: the server's answer, the ids that wait no more, and why it stopped, if it did.
 * `refused`: a beginning that may not be, with nothing after it: it has been taken back. */
export type SendResult = { answer: Treatment | null; done: Set<string>; failure: unknown; refused: ApiError | null };
type Post = (visitId: string, events: Sent[]) => Promise<Treatment>;

const post: Post = async (visitId, events) => {
  const once = async () => {
    await readyToWrite();
    return take(
      api.POST("/api/visits/{visit_id}/events", {
        params: { path: { visit_id: visitId } },
        body: { events, sent_at: new Date().toISOString() },
      }),
    );
  };
  try {
    return await once();
  } catch (error) {
    if (!(error instanceof ApiError && error.status === 403)) throw error;
    setCsrf(""); // another page of this browser may have signed in since: its value is asked for, once
    return once();
  }
};

/** The server takes 500 entries and 256 KB at once; the longest entries are some kilobytes. */
const MOST_AT_ONCE = 100;

const isRefusal = (error: unknown): error is ApiError =>
  error instanceof ApiError && [404, 409, 413, 422].includes(error.status);

/** Send a visit's entries in their order. Nothing is dropped: what cannot be sent stays, with the reason. */
export async function sendVisit(visitId: string, through: Post = post): Promise<SendResult> {
  const result: SendResult = { answer: null, done: new Set(), failure: null, refused: null };
  const events = await unsent(visitId);
  try {
    for (let at = 0; at < events.length; at += MOST_AT_ONCE)
      await send(visitId, events.slice(at, at + MOST_AT_ONCE), through, result);
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

// --- the background: one page of a browser sends for all of them

type Listener = (visitId: string, result: SendResult) => void;
/** What other pages are told: something was entered, entries were sent, or somebody signed in. */
type Word = { kind: "entered" | "signed-in" } | { kind: "sent"; visitId: string; result: Carried };
/** A result as it travels between pages: errors lose their class on the way. */
type Carried = Omit<SendResult, "failure" | "refused"> & { failure: Told | null; refused: Told | null };
type Told = { status: number; problem: ApiError["problem"]; retryAfter_s: number };

const listeners = new Set<Listener>();
const onWaiting = new Set<(rows: Waiting[], waits: Waits | null) => void>();
const told = (error: unknown): Told | null =>
  error instanceof ApiError ? { status: error.status, problem: error.problem, retryAfter_s: error.retryAfter_s } : null;
const heard = (one: Told | null) => one && new ApiError(one.status, one.problem, one.retryAfter_s);

const pages = typeof BroadcastChannel === "undefined" ? null : new BroadcastChannel("acuthesis-outbox");
const tellPages = (word: Word) => pages?.postMessage(word);

let timer: ReturnType<typeof setTimeout> | undefined;
let running: Promise<void> | null = null;
/** Something came in, or somebody asked, since the entries were last looked through. */
let again = false;
let failures = 0;
let waits: Waits | null = null;
/** Whether the last try got no answer at all. */
let unreachable = false;
/** Whether this page sends: until pages have agreed on one, and where they cannot (no locks), each sends for itself. */
let sends = true;

/** Hear what becomes of entries. Returns how to stop. */
export function listen(listener: Listener): () => void {
  listeners.add(listener);
  return () => void listeners.delete(listener);
}

/** Hear what waits and for what, now and whenever it changes. Returns how to stop. */
export function hearWaiting(hear: (rows: Waiting[], waits: Waits | null) => void): () => void {
  onWaiting.add(hear);
  void waiting().then((rows) => hear(rows, waits));
  return () => void onWaiting.delete(hear);
}

/** Something happened at the table: saved here first, then sent. While the server is being waited for, it waits too. */
export function say(visitId: string, event: Sent): void {
  keep(visitId, event);
  if (!sends) tellPages({ kind: "entered" });
  else if (waits === null) void flush();
  else void tellWaiting();
}

/** Send everything that waits, of every visit, now: whatever pause there was is over. */
export function flush(): Promise<void> {
  again = true;
  running ??= sendUntilDone();
  return running;
}

/** Somebody has signed in: what waited for that is sent. */
export function signedInAgain(): void {
  tellPages({ kind: "signed-in" });
  if (sends) void flush();
}

/** Sends until nothing has come in meanwhile: neither while entries are on their way, nor while it is told what waits.
 * `again` is looked at and `running` given up in one step, so that no entry falls between the two. */
async function sendUntilDone(): Promise<void> {
  try {
    while (again) {
      again = false;
      await sendOnce();
      if (!again) await tellWaiting();
    }
  } finally {
    running = null;
  }
}

/** Send everything once; after a failure that time may mend, the next try is set. */
async function sendOnce(): Promise<void> {
  clearTimeout(timer);
  const failure = await sendAll();
  if (failure === null) {
    failures = 0;
    waits = null;
    unreachable = false;
    return;
  }
  failures += 1;
  const { waits: what, atLeast_ms } = afterFailure(failure);
  waits = what;
  unreachable = failure instanceof ApiError && failure.status === 0;
  again = false; // what came in during the try waits with the rest
  if (what === "server") {
    const hidden = typeof document !== "undefined" && document.visibilityState === "hidden";
    timer = setTimeout(() => void flush(), pause_ms(failures, Math.random(), atLeast_ms, hidden));
  }
}

/** Send each visit's entries once. Returns the failure that another try may mend, or null. */
async function sendAll(): Promise<unknown> {
  for (const { visitId, stuck } of await waiting()) {
    if (stuck !== null && (await unsent(visitId)).length === 0) continue;
    const result = await sendVisit(visitId);
    for (const listener of listeners) listener(visitId, result);
    tellPages({
      kind: "sent",
      visitId,
      result: { ...result, failure: told(result.failure), refused: told(result.refused) },
    });
    // A server that fails for one visit fails for the next one as well: it is given a pause.
    if (result.failure !== null && !isRefusal(result.failure)) return result.failure;
  }
  return null;
}

async function tellWaiting(): Promise<void> {
  const rows = await waiting();
  for (const hear of onWaiting) hear(rows, waits);
}

function hearPages({ data: word }: MessageEvent<Word>): void {
  if (word.kind === "sent") {
    const result = { ...word.result, failure: heard(word.result.failure), refused: heard(word.result.refused) };
    for (const listener of listeners) listener(word.visitId, result);
    void tellWaiting();
  } else if (sends && (word.kind === "signed-in" || waits === null)) void flush();
}

/** The server has answered somebody: where it gave no answer before, what waits need not wait for the end of its pause.
 * Where it answered and failed, its other answers say nothing. */
export function tryNow(): void {
  if (sends && unreachable && running === null) void flush();
}

/** Begin to send, on this page and for as long as it is open. Of several pages the one that was looked at last sends. */
export function startSending(): void {
  sends = !("locks" in navigator);
  pages?.addEventListener("message", hearPages);
  // Where somebody has to sign in first, neither the network nor a look at the page changes anything.
  const look = () => void (sends && waits !== "sign-in" && flush());
  window.addEventListener("online", look);
  hearAnswers(tryNow);
  document.addEventListener("visibilitychange", () => {
    if (document.visibilityState !== "visible") return;
    if (sends) look();
    else takeOver("steal");
  });
  if (sends) void flush();
  else takeOver(document.visibilityState === "visible" ? "steal" : "queue");
}

/** Become the page that sends: at once, in place of whichever does now, or when that one is closed. */
function takeOver(how: "steal" | "queue"): void {
  const held = () => {
    sends = true;
    void flush();
    return new Promise<void>(() => undefined); // for as long as the page is open
  };
  navigator.locks.request("acuthesis-outbox", { steal: how === "steal" }, held).catch(() => {
    sends = false; // another page has taken over
    clearTimeout(timer);
    takeOver("queue");
  });
}
