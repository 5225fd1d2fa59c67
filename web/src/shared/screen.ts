/** The screen of the device while treating: it stays on, and stands as it was set. Where a browser cannot, nothing is
 * lost but that. */
import { useEffect } from "react";
import type { Turned } from "./device-prefs";

/** Keep the screen on. A browser takes the lock back when the page is hidden, so it is asked for again. */
export function useAwake(on: boolean): void {
  useEffect(() => {
    if (!on || !("wakeLock" in navigator)) return;
    let lock: WakeLockSentinel | null = null;
    let over = false;
    const ask = async () => {
      if (document.visibilityState !== "visible" || over) return;
      lock = await navigator.wakeLock.request("screen").catch(() => null);
      if (over) void lock?.release();
    };
    void ask();
    document.addEventListener("visibilitychange", ask);
    return () => {
      over = true;
      document.removeEventListener("visibilitychange", ask);
      void lock?.release();
    };
  }, [on]);
}

type Lockable = ScreenOrientation & { lock?: (to: "landscape" | "portrait") => Promise<void> };

/** Fill the whole screen, turned as the device is set. Only a touch may ask for this. */
export async function fillScreen(turned: Turned): Promise<void> {
  try {
    await document.documentElement.requestFullscreen();
    if (turned !== "as held") await (screen.orientation as Lockable).lock?.(turned);
  } catch {
    // Not every browser does; the treatment looks the same without.
  }
}
