/** The person's end of a treatment: joined by a code, then a look every second or two, and what is said. The key lives
 * in this tab alone and goes with it.
 */
import { useCallback, useEffect, useRef, useState } from "react";
import { ApiError, api, type Schema, take } from "../api/client";

type Moment = Schema["LiveMoment"];
type Says = Omit<Schema["ToldHere"], "id">;
const KEY = "acuthesis-say";
const LOOK_MS = 1500;

const bearer = (key: string) => ({ headers: { Authorization: `Bearer ${key}` } });
const messageOf = (failure: unknown) =>
  failure instanceof ApiError && !failure.away ? failure.message : "No connection. Trying again.";

export function useSay() {
  const [key, setKey] = useState(() => sessionStorage.getItem(KEY));
  const [seen, setSeen] = useState<{ moment: Moment; at: number } | null>(null);
  const [failure, setFailure] = useState("");
  const [told, setTold] = useState("");

  const forget = useCallback((why: string) => {
    sessionStorage.removeItem(KEY);
    setKey(null);
    setSeen(null);
    setTold("");
    setFailure(why);
  }, []);
  const failed = useCallback(
    (failure: unknown) =>
      failure instanceof ApiError && failure.status === 401 ? forget(failure.message) : setFailure(messageOf(failure)),
    [forget],
  );
  const saw = useCallback((moment: Moment) => {
    setFailure("");
    setSeen({ moment, at: performance.now() });
  }, []);

  const join = useCallback(async (code: string) => {
    try {
      const { key: own } = await take(api.POST("/api/say/join", { body: { code } }));
      sessionStorage.setItem(KEY, own);
      setFailure("");
      setKey(own);
    } catch (failure) {
      setFailure(messageOf(failure));
    }
  }, []);

  // A code that was photographed stands in the address: it works once, and is not left there.
  const arrived = useRef(false);
  useEffect(() => {
    const code = location.hash.slice(1);
    if (arrived.current || !code) return;
    arrived.current = true;
    history.replaceState(null, "", location.pathname);
    void join(code);
  }, [join]);

  const looking = useRef<AbortController | null>(null);
  const saying = useRef(false);
  const over = seen?.moment.status === "over";
  useEffect(() => {
    if (!key || over) return;
    const look = async () => {
      if (saying.current) return;
      const asked = new AbortController();
      looking.current = asked;
      const done = take(api.GET("/api/say", { ...bearer(key), signal: asked.signal }));
      await done.then(
        (moment) => asked.signal.aborted || saw(moment),
        (failure) => asked.signal.aborted || failed(failure),
      );
    };
    void look();
    const timer = setInterval(() => void look(), LOOK_MS);
    return () => {
      clearInterval(timer);
      looking.current?.abort();
    };
  }, [key, over, saw, failed]);

  const say = async (what: Says, words: string) => {
    if (!key) return;
    // What ends the treatment ends this screen: a look on its way would be refused, and hide that it is over.
    saying.current = true;
    looking.current?.abort();
    setTold(words);
    const body = { id: crypto.randomUUID(), ...what };
    try {
      saw(await take(api.POST("/api/say", { ...bearer(key), body })));
    } catch (failure) {
      setTold("");
      failed(failure);
    } finally {
      saying.current = false;
    }
  };
  return { joined: key !== null, seen, failure, told, join, say };
}
