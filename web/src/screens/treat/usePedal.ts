/** Pedals, presenters and spare keys: what they send is taken before the browser scrolls by it. */
import { useEffect } from "react";
import type { PedalAction } from "../../shared/device-prefs";

/** The name under which a key is learnt: its place on the board, or what it sends where it has none. */
export const pedalName = (event: KeyboardEvent): string => event.code || event.key;

export function usePedal(pedal: Record<string, PedalAction>, act: (action: PedalAction) => void): void {
  useEffect(() => {
    const hear = (event: KeyboardEvent) => {
      const action = pedal[pedalName(event)];
      if (!action || event.repeat) return;
      event.preventDefault();
      event.stopPropagation();
      act(action);
    };
    window.addEventListener("keydown", hear, true);
    return () => window.removeEventListener("keydown", hear, true);
  });
}

const CHOICES = "[data-choices] button:not(:disabled)";
const choices = (): HTMLButtonElement[] => [...document.querySelectorAll<HTMLButtonElement>(CHOICES)];

/** Where something is to be chosen, a pedal walks through it and takes it. Returns whether there was. */
export function chooseByPedal(action: PedalAction): boolean {
  const all = choices();
  if (all.length === 0 || (action !== "next" && action !== "hold")) return false;
  const at = all.indexOf(document.activeElement as HTMLButtonElement);
  if (action === "next") all[(at + 1) % all.length]?.focus();
  else (all[at] ?? all[0])?.click();
  return true;
}
