/** Whether the screen is locked. The server decides; where it is away, this device locks itself and tells it later. */
import { api, setCsrf, take, whenRefused } from "../api/client";
import { lockDevice } from "./device";

/** The screen was locked while the server was away: it hears of it before anything is read again. */
const OWED = "acuthesis-lock-owed";

let locked = localStorage.getItem(OWED) !== null;
const hears = new Set<() => void>();

function tell(now: boolean): void {
  locked = now;
  for (const hear of hears) hear();
}
// Whichever request hears of it first, also one that was made before anything is drawn.
whenRefused({ covered: () => tell(true) });

export const isLocked = () => locked;
export function hearLocked(hear: () => void): () => void {
  hears.add(hear);
  return () => void hears.delete(hear);
}

/** Lock the screen: at once here, and on the server as soon as it hears of it. */
export async function lockScreen(): Promise<void> {
  tell(true);
  localStorage.setItem(OWED, "1");
  await lockDevice();
  await tellOwedLock().catch(() => undefined); // with the server away it is told later
}

/** Tell the server of a lock that it has not heard of yet. */
export async function tellOwedLock(): Promise<void> {
  if (localStorage.getItem(OWED) === null) return;
  setCsrf((await take(api.GET("/api/session"))).csrf);
  await take(api.POST("/api/cover"));
  localStorage.removeItem(OWED);
  tell(true);
}

/** It has been unlocked, by the server or by the PIN of this device; or somebody has signed in or out. */
export function unlocked(): void {
  localStorage.removeItem(OWED);
  tell(false);
}
