/** Pedals, presenters and spare keys: what they send is taken before the browser scrolls by it. */
import { useEffect, useRef } from "react";
import type { PedalAction } from "../../shared/device-prefs";

/** The name under which a key is learnt: its place on the board, or what it sends where it has none. */
export const pedalName = (event: KeyboardEvent): string => event.code || event.key;

/** A pedal that bounces was pressed once: it would answer two questions. */
const BOUNCES_MS = 350;

export function usePedal(pedal: Record<string, PedalAction>, act: (action: PedalAction) => void): void {
  const last = useRef({ name: "", at: Number.NEGATIVE_INFINITY });
  useEffect(() => {
    const hear = (event: KeyboardEvent) => {
      const name = pedalName(event);
      const action = pedal[name];
      if (!action) return;
      event.preventDefault();
      event.stopPropagation();
      const bounced = last.current.name === name && Date.now() - last.current.at < BOUNCES_MS;
      last.current = { name, at: Date.now() };
      if (!bounced && !event.repeat) act(action);
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
