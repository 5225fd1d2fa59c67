/** The live stream of a treatment: it says that something may be new, and whether it can be relied on at the moment. */

// The server ends a stream after 25 s and is asked again half a second later: one that has not opened anew by then hangs.
const LASTS_MS = 30_000;
const AGAIN_MS = 3_000; // for the next one to open after one has ended
const REFUSED_MS = 8_000; // until another is tried, where the browser gives up by itself

type Follow = { moved: () => void; opened: () => void; stands: (does: boolean) => void };

/** Follow a visit's treatment. Returns how to end it. */
export function followStream(visitId: string, { moved, opened, stands }: Follow): () => void {
  let stream: EventSource;
  let falls: ReturnType<typeof setTimeout> | undefined;
  let again: ReturnType<typeof setTimeout> | undefined;
  const standsFor = (ms: number) => {
    clearTimeout(falls);
    falls = setTimeout(() => {
      stands(false);
      if (stream.readyState === EventSource.OPEN) open(); // it hangs: the browser would never notice
    }, ms);
  };
  const open = () => {
    clearTimeout(again);
    stream?.close();
    stream = new EventSource(`/api/visits/${visitId}/treatment/live`);
    standsFor(AGAIN_MS);
    stream.onopen = () => {
      stands(true);
      standsFor(LASTS_MS);
      opened();
    };
    stream.onmessage = moved;
    stream.onerror = () => {
      standsFor(AGAIN_MS);
      if (stream.readyState === EventSource.CLOSED) again = setTimeout(open, REFUSED_MS);
    };
  };
  open();
  return () => {
    clearTimeout(falls);
    clearTimeout(again);
    stream.close();
  };
}
