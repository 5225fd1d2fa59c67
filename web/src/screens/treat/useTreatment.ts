/** The treatment of a visit: server state, what waits here, and saying what happens. */
import { notifications } from "@mantine/notifications";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { ApiError, api, type Schema, setCsrf, take } from "../../api/client";
import { newId } from "../../shared/words";
import { type Event, keep, keepSnapshot, type Session, send, snapshot, waiting } from "./outbox";
import { preview } from "./preview";

const RETRY_MS = 2000;
type WithoutStamp<T> = T extends unknown ? Omit<T, "id" | "at"> : never;
export type Said = WithoutStamp<Event>;
type Loaded = { session: Session; visit: Schema["VisitOut"]; person: Schema["PersonOut"] };

async function load(visitId: string): Promise<Loaded> {
  const path = { params: { path: { visit_id: visitId } } };
  try {
    const me = await take(api.GET("/api/me"));
    setCsrf(me.csrf);
    const [visit, session] = await Promise.all([
      take(api.GET("/api/visits/{visit_id}", path)),
      take(api.GET("/api/visits/{visit_id}/treatment", path)),
    ]);
    const person = await take(api.GET("/api/people/{person_id}", { params: { path: { person_id: visit.person_id } } }));
    await keepSnapshot({ visitId, session, visit, person });
    return { session, visit, person };
  } catch (error) {
    const kept = await snapshot(visitId);
    if (kept && error instanceof ApiError && error.away) return kept;
    throw error;
  }
}

/** The state after more events: an answer that comes late must not undo a newer one. */
const later = (now: Session | undefined, next: Session) =>
  now && (now.event_count ?? 0) > (next.event_count ?? 0) ? now : next;

export function useTreatment(visitId: string) {
  const [loaded, setLoaded] = useState<Loaded | null>(null);
  const [unsent, setUnsent] = useState<Event[]>([]);
  const [error, setError] = useState<unknown>(null);
  const [away, setAway] = useState(false);
  const sending = useRef(false);
  // Nothing is sent while the state is being loaded: what was asked for before an event came in would be shown after it.
  const loading = useRef(false);

  const flush = useCallback(async () => {
    if (sending.current || loading.current) return;
    sending.current = true;
    const { state, done, failure } = await send(visitId, (message) => notifications.show({ message }));
    sending.current = false;
    // In one step: an event is either still waiting here or in the server's state, never in neither.
    if (state) setLoaded((now) => now && { ...now, session: later(now.session, state) });
    setUnsent((now) => now.filter((event) => !done.has(event.id)));
    setAway(failure instanceof ApiError && failure.away);
    if (failure instanceof ApiError && failure.status === 401) setError(failure);
  }, [visitId]);

  const open = useCallback(async () => {
    loading.current = true;
    try {
      setError(null);
      setUnsent(await waiting(visitId));
      const read = await load(visitId);
      setLoaded((now) => ({ ...read, session: later(now?.session, read.session) }));
    } catch (failure) {
      setError(failure);
    } finally {
      loading.current = false;
    }
    await flush();
  }, [visitId, flush]);

  useEffect(() => {
    void open();
  }, [open]);

  useEffect(() => {
    if (unsent.length === 0) return;
    const timer = setInterval(() => void flush(), RETRY_MS);
    return () => clearInterval(timer);
  }, [unsent.length, flush]);

  const session = useMemo(() => (loaded ? preview(loaded.session, unsent) : null), [loaded, unsent]);
  useEffect(() => {
    if (loaded && session) void keepSnapshot({ visitId, ...loaded });
  }, [visitId, loaded, session]);

  /** Something happened: it is kept here first, then sent. */
  const say = useCallback(
    (said: Said) => {
      const event = { ...said, id: newId(), at: new Date().toISOString() } as Event;
      keep(visitId, event);
      setUnsent((now) => [...now, event]);
      void flush();
    },
    [visitId, flush],
  );
  return { session, visit: loaded?.visit, person: loaded?.person, say, error, open, away, unsent: unsent.length };
}
