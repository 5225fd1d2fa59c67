/** How long to wait before entries are sent again: longer after every failure, never in step with other devices. */
import { ApiError } from "../api/client";

export const FIRST_MS = 500;
export const LONGEST_MS = 60_000;
/** A page that nobody looks at sends less often. */
const HIDDEN_TIMES = 5;
/** A refusal that another try can only change after somebody has signed in. */
const NEEDS_SIGN_IN = [401, 403];

/** Why entries wait: the server does not answer or fails, or somebody has to sign in first. */
export type Waits = "server" | "sign-in";

/** What a failure means for sending again: for what to wait, and the least pause the server asked for. */
export function afterFailure(failure: unknown): { waits: Waits; atLeast_ms: number } {
  if (failure instanceof ApiError && NEEDS_SIGN_IN.includes(failure.status)) return { waits: "sign-in", atLeast_ms: 0 };
  return { waits: "server", atLeast_ms: failure instanceof ApiError ? failure.retryAfter_s * 1000 : 0 };
}

/** The pause after so many failures in a row (1 and more): doubled each time from half a second to a minute, of which a
 * random half is taken away, so that devices that failed together do not come back together. `chance`: 0 to 1. */
export function pause_ms(failures: number, chance: number, atLeast_ms = 0, hidden = false): number {
  const longest = Math.min(FIRST_MS * 2 ** (failures - 1), LONGEST_MS);
  const pause = Math.max(longest * (0.5 + chance / 2), atLeast_ms);
  return hidden ? Math.min(pause * HIDDEN_TIMES, LONGEST_MS * HIDDEN_TIMES) : pause;
}
