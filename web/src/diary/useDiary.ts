/** The diary of this device, as it changes: what is shown, what waits, what was told last. */
import { liveQuery } from "dexie";
import { useEffect, useState } from "react";
import { ApiError } from "../api/client";
import { arrive, device, type Home, keep, look, send, type Told, UNDO_MS, undo } from "./device";

const EVERY_MS = 15_000;
/** Each member of the union keeps its own kind. */
type Without<T, K extends PropertyKey> = T extends unknown ? Omit<T, K> : never;
export type Saying = Without<Told, "id" | "at"> & { id?: string; at?: string };
export type Last = { id: string; words: string; undone?: () => void };

export type Diary = {
  home: Home | null;
  failure: ApiError | null;
  waiting: number;
  refused: { id: string; why: string }[];
  away: boolean;
  last: Last | null;
  /** Keep something, and say so in `words` for as long as it can be undone. Returns its id. */
  say: (what: Saying, words: string, undone?: () => void) => string;
  undo: () => void;
  episode: (begun: Home["episode"]) => void;
  /** Offer this medicine again next time. */
  remember: (medicine: string) => void;
  dismiss: (id: string) => void;
};

export function useDiary(): Diary {
  const [home, setHome] = useState<Home | null>(null);
  const [failure, setFailure] = useState<ApiError | null>(null);
  const [waiting, setWaiting] = useState(0);
  const [refused, setRefused] = useState<Diary["refused"]>([]);
  const [away, setAway] = useState(false);
  const [last, setLast] = useState<Last | null>(null);

  useEffect(() => {
    const shown = liveQuery(() =>
      Promise.all([device.home.get("home"), device.waits.count(), device.refused.toArray()]),
    ).subscribe(([now, count, rows]) => {
      setHome(now ?? null);
      setWaiting(count);
      setRefused(rows);
    });
    return () => shown.unsubscribe();
  }, []);

  useEffect(() => {
    const ended = (error: unknown) => {
      if (error instanceof ApiError && !error.away) setFailure(error);
      else setAway(true);
    };
    const load = async () => {
      const code = location.hash.slice(1);
      if (code) {
        await arrive(code);
        history.replaceState(null, "", location.pathname);
      }
      if ((await look()) === null) setFailure(new ApiError(404, NONE));
      setAway(false);
    };
    const flush = () =>
      send().then(
        () => setAway(!navigator.onLine),
        (error) => (error instanceof ApiError && error.status === 401 ? load().catch(ended) : ended(error)),
      );
    void load().catch(ended).then(flush);
    const again = () => void load().catch(ended).then(flush);
    const timer = setInterval(() => void flush(), EVERY_MS);
    window.addEventListener("online", again);
    document.addEventListener("visibilitychange", again);
    return () => {
      clearInterval(timer);
      window.removeEventListener("online", again);
      document.removeEventListener("visibilitychange", again);
    };
  }, []);

  useEffect(() => {
    if (!last) return;
    const timer = setTimeout(() => {
      setLast(null);
      void send().catch(() => setAway(true));
    }, UNDO_MS);
    return () => clearTimeout(timer);
  }, [last]);

  return {
    home,
    failure,
    waiting,
    refused,
    away,
    last,
    say: (what, words, undone) => {
      const told = { id: crypto.randomUUID(), at: new Date().toISOString(), ...what } as Told;
      void keep(told);
      setLast({ id: told.id, words, undone });
      return told.id;
    },
    undo: () => {
      if (last) void undo(last.id).then((done) => done && last.undone?.());
      setLast(null);
    },
    episode: (begun) => void device.home.update("home", { episode: begun }),
    remember: (medicine) => void device.home.update("home", { medicine }),
    dismiss: (id) => void device.refused.delete(id),
  };
}

const NONE = {
  code: "diary_ended",
  message: "There is no diary on this device. Open the link that your practitioner gave you.",
  where: "",
  details: [],
};
