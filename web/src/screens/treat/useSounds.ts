/** What is heard of a stop: its start, the change of side, the last five seconds, its end; each once. */
import { useEffect, useRef } from "react";
import type { Schema } from "../../api/client";
import { sound } from "../../shared/sound";

export function useSounds(stop: Schema["Stop"] | undefined, elapsed: number, running: boolean) {
  const last = useRef({ key: "", at: 0 });
  useEffect(() => {
    if (!stop || !running) return;
    const before = last.current.key === stop.key ? last.current.at : -1;
    const passed = (mark: number) => before < mark && elapsed >= mark;
    if (passed(0)) sound.start();
    else if (passed(stop.duration_s / 2)) stop.side === "both" && !stop.dose.together ? sound.side() : sound.half();
    else if (passed(stop.duration_s)) sound.done();
    else for (let n = 1; n <= 5; n++) if (passed(stop.duration_s - n)) sound.tick();
    last.current = { key: stop.key, at: elapsed };
  }, [stop, elapsed, running]);
}
