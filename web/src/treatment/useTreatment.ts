/** The treatment of a visit: the server's state, what waits here, and saying what happens. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { ApiError, api, BACKGROUND, type Schema, take } from "../api/client";
import { enter, refresh } from "../api/queries";
import { newId } from "../shared/words";
import { keepSnapshot, owner, type Snapshot, snapshot, unsent } from "./device";
import { preview, type Sent } from "./fold";
import { later, placed } from "./merge";
import { flush, listen, say as sayIt, type Treatment, tryNow } from "./sender";
import { followStream } from "./stream";

const LOOK_MS = 8000; // how often a treatment that is under way is looked at, while no stream says that it moved
// Who says it is whoever holds this device, by one touch, unless it is said otherwise.
type WithoutStamp<T> = T extends unknown ? Omit<T, "id" | "at" | "by" | "hands"> & { hands?: number } : never;
export type Said = WithoutStamp<Sent>;
type Loaded = Omit<Snapshot, "visitId">;

const SIGNED_OUT = { code: "signed_out", message: "Sign in to continue where you left off.", where: "", details: [] };

async function load(visitId: string): Promise<Loaded> {
  const path = { params: { path: { visit_id: visitId } } };
  try {
    await enter(await take(api.GET("/api/me")));
    const [visit, treatment] = await Promise.all([
      take(api.GET("/api/visits/{visit_id}", path)),
      take(api.GET("/api/visits/{visit_id}/treatment", path)),
    ]);
    const person = await take(api.GET("/api/people/{person_id}", { params: { path: { person_id: visit.person_id } } }));
    // What was brought to hand is the same score, laid out as it would begin: should the network go, it goes on from that.
    const kept = await snapshot(visitId);
    const same = kept !== null && kept.visit.version === visit.version;
    return { treatment, visit: same ? { ...visit, score: kept.visit.score } : visit, person };
  } catch (error) {
    if (!(error instanceof ApiError && error.away)) throw error;
    // Without the server, only for who is signed in on this device.
    const kept = await snapshot(visitId);
    if (kept) return kept;
    throw (await owner()) ? error : new ApiError(401, SIGNED_OUT);
  }
}

/** The treatment, if anything in it is new since the last look; null if not, or if the server is away. */
async function news(visitId: string, tag: { current: string }): Promise<Treatment | null> {
  try {
    const answer = await fetch(`/api/visits/${visitId}/treatment`, {
      headers: { ...BACKGROUND.headers, ...(tag.current ? { "If-None-Match": tag.current } : {}) },
      cache: "no-store",
    });
    if (answer.status !== 200) return null;
    tag.current = answer.headers.get("ETag") ?? "";
    return (await answer.json()) as Treatment;
  } catch {
    return null;
  }
}

const howFar = (status: string | undefined) =>
  status === "stopped" || status === "finished" ? "over" : status === "not_begun" ? status : "open";

export function useTreatment(visitId: string) {
  const queries = useQueryClient();
  const [mine, setMine] = useState<Sent[]>([]);
  const [ended, setEnded] = useState<ApiError | null>(null);
  const [away, setAway] = useState(false);
  const [refused, setRefused] = useState<ApiError | null>(null);
  const [offset_s, setOffset] = useState(0);
  // What an answer said while the state was still being loaded.
  const answered = useRef<Treatment | undefined>(undefined);
  const queryKey = useMemo(() => ["treat", visitId], [visitId]);

  const query = useQuery({
    queryKey,
    queryFn: async (): Promise<Loaded> => {
      setEnded(null);
      const read = await load(visitId);
      setMine(await unsent(visitId));
      const known = queries.getQueryData<Loaded>(queryKey)?.treatment ?? answered.current;
      return { ...read, treatment: later(known, read.treatment) };
    },
    // Whoever opens a treatment sees what the server knows now; from then on the stream and the answers say what is new.
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
    retry: false,
  });
  const loaded = query.data ?? null;
  const { isFetching, refetch } = query;
  const knows = useCallback(
    (treatment: Treatment) =>
      queries.setQueryData<Loaded>(queryKey, (now) => now && { ...now, treatment: later(now.treatment, treatment) }),
    [queries, queryKey],
  );
  const open = useCallback(() => void refetch(), [refetch]);

  useEffect(() => {
    if (!isFetching) void flush();
  }, [isFetching]);

  useEffect(
    () =>
      listen((id, { answer, done, failure, refused: told }) => {
        if (id !== visitId) return;
        // In one step: an entry is either still waiting here or in the server's state, never in neither.
        if (answer) {
          answered.current = later(answered.current, answer);
          knows(answer);
          setOffset(answer.clock_offset_s ?? 0);
        }
        setMine((now) => now.filter((event) => !done.has(event.id)));
        setAway(failure instanceof ApiError && failure.away);
        if (told) setRefused(told);
        if (failure instanceof ApiError && failure.status === 401) setEnded(failure);
      }),
    [visitId, knows],
  );

  // How far the server knows the treatment to be decides what comes next, on the day and for the person.
  const personId = loaded?.person.id;
  const known = howFar(loaded?.treatment.session.status);
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked for anew whenever that changes
  useEffect(() => {
    if (!personId) return;
    void refresh(queries, ["day"]);
    void refresh(queries, ["person", personId, "today"]);
  }, [queries, personId, known]);

  const { session, disputed } = useMemo(() => {
    if (!loaded) return { session: null, disputed: new Set<string>() };
    return preview(loaded.treatment.session, placed(mine, offset_s), loaded.visit.score ?? null);
  }, [loaded, mine, offset_s]);

  useEffect(() => {
    if (loaded) void keepSnapshot({ visitId, ...loaded });
  }, [visitId, loaded]);

  const underWay = session !== null && ["ready", "running", "paused"].includes(session.status);
  const [streams, setStreams] = useState(false);
  const tag = useRef("");
  const look = useCallback(async () => {
    if (queries.isFetching({ queryKey }) > 0 || (await unsent(visitId)).length > 0) return;
    const read = await news(visitId, tag);
    if (read) knows(read);
  }, [queries, queryKey, visitId, knows]);

  // Another device speaks: its word is here at once where the stream stands, and a little later where it does not.
  useEffect(() => {
    if (!underWay) return;
    tag.current = "";
    const opened = () => {
      tryNow();
      void look();
    };
    return followStream(visitId, { moved: () => void look(), opened, stands: setStreams });
  }, [visitId, underWay, look]);
  useEffect(() => {
    if (!underWay || streams) return;
    const timer = setInterval(() => void look(), LOOK_MS);
    return () => clearInterval(timer);
  }, [underWay, streams, look]);

  /** Something happened: it is kept here first, then sent. */
  const say = useCallback(
    (said: Said) => {
      const event = { ...said, id: newId(), at: new Date().toISOString() } as Sent;
      setRefused(null);
      setMine((now) => [...now, event]);
      sayIt(visitId, event);
    },
    [visitId],
  );
  const settle = useCallback(
    async (event_id: string, how: Schema["Settle"]["how"], note: string) => {
      const treatment = await take(
        api.POST("/api/visits/{visit_id}/disputed/{event_id}", {
          params: { path: { visit_id: visitId, event_id } },
          body: { how, note },
        }),
      );
      knows(treatment);
    },
    [visitId, knows],
  );
  return {
    session,
    visit: loaded?.visit,
    person: loaded?.person,
    disputed: loaded?.treatment.disputed ?? [],
    notApplied: disputed.size,
    say,
    settle,
    refused,
    error: ended ?? query.error,
    open,
    away,
    unsent: mine.length,
    offset_s,
  };
}
