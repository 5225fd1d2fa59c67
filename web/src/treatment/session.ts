/** The browser's session: what happens on this device when somebody comes, and when they leave. Once it is over nothing
 * readable stays here, whether or not the server hears of it now. */
import { api, readyToWrite, setCsrf, take, whenRefused } from "../api/client";
import { whenEntered } from "../api/queries";
import { setTimeZone } from "../shared/words";
import { signedIn, signedOut } from "./device";
import { unlocked } from "./locked";
import { signedInAgain } from "./sender";

// Without the server the session's cookie cannot be ended yet: it is, before anybody comes in here again.
const LEAVING = "acuthesis-leaving";

export async function leave(): Promise<void> {
  localStorage.setItem(LEAVING, "1");
  await signedOut();
  unlocked();
  await endSession();
}

/** From here on this device follows the session: it becomes theirs who signs in (moments are told by their practice's
 * clock, what waits here is sent); and where the session ends elsewhere, or by itself, what is readable goes. */
export function followSession(): void {
  whenEntered(async (me) => {
    setTimeZone(me.time_zone);
    await signedIn(me);
    signedInAgain();
  });
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
