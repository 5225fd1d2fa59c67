/** Leaving: nothing readable stays on this device, whether or not the server hears of it now. */
import { api, readyToWrite, setCsrf, take, whenRefused } from "../api/client";
import { unlocked } from "../shared/locked";
import { signedOut } from "./device";

// Without the server the session's cookie cannot be ended yet: it is, before anybody comes in here again.
const LEAVING = "acuthesis-leaving";

export async function leave(): Promise<void> {
  localStorage.setItem(LEAVING, "1");
  await signedOut();
  unlocked();
  await endSession();
}

/** The session has ended elsewhere, or by itself: what is readable goes from this device as with signing out. */
export function endWithSession(): void {
  whenRefused({
    ended: () => {
      setCsrf("");
      void signedOut();
    },
  });
}

/** End a session that was left while the server was away. Returns whether there was one. */
export async function endSession(): Promise<boolean> {
  if (localStorage.getItem(LEAVING) === null) return false;
  try {
    await readyToWrite();
    await take(api.POST("/api/sign-out"));
  } catch (error) {
    if ((error as { away?: boolean }).away) return true;
  }
  localStorage.removeItem(LEAVING);
  return true;
}

/** Somebody signs in: an earlier leaving is over with that. */
export function arrived(): void {
  localStorage.removeItem(LEAVING);
  unlocked();
}
