/** Whether what is shown comes from the server, or from what this device had kept of it. */
import { useSyncExternalStore } from "react";

let away = false;
const hears = new Set<() => void>();

/** Said by whoever asks the server. */
export function tellAway(now: boolean): void {
  if (now === away) return;
  away = now;
  for (const hear of hears) hear();
}

const answered = new Set<() => void>();

/** Hear of every answer that came from the server. */
export function hearAnswers(hear: () => void): void {
  answered.add(hear);
}

/** The server has answered. */
export function tellAnswered(): void {
  tellAway(false);
  for (const hear of answered) hear();
}

const subscribe = (hear: () => void) => {
  hears.add(hear);
  return () => void hears.delete(hear);
};

export const useAway = (): boolean => useSyncExternalStore(subscribe, () => away);
