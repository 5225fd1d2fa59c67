/** Keys: a handler a screen, silent while somebody types. */
import { useEffect, useRef } from "react";

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));

/** Call `handle` for key presses; return true from it to keep the browser from acting on the key too. */
export function useKeys(handle: (event: KeyboardEvent) => boolean | undefined) {
  const latest = useRef(handle);
  latest.current = handle;
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (typing(event.target) || event.ctrlKey || event.metaKey) return;
      if (latest.current(event)) event.preventDefault();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
}
