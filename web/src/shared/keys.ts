/** Keys: what each does on a screen, silent while somebody types or works a control that has keys of its own. */
import { type HotkeyItem, useHotkeys } from "@mantine/hooks";

/** What keys do, by their names ("g", "shift+U", "arrowUp", "mod+Z"; "Digit7" is the key itself, whatever is printed
 * on it). What is undefined does nothing now. */
export type Keys = Record<string, (() => void) | undefined>;

/** Controls that move by arrows, Space or letters themselves. */
const OWN_KEYS = "[role=slider], [role=listbox], [role=menu], [role=radiogroup], [role=dialog], [data-own-keys]";
const inControl = (target: EventTarget | null) => Boolean((target as Element | null)?.closest?.(OWN_KEYS));

/** On some keyboards a sign is typed with Shift, on others without: it counts both ways. */
const spelled = (name: string) => {
  if (name === "+") return ["[plus]", "shift+[plus]"];
  return /^[^a-z0-9 ]$/i.test(name) ? [name, `shift+${name}`] : [name];
};

/** The keys as the library binds them. A key that means something is kept from the browser. */
export const bindings = (keys: Keys): HotkeyItem[] =>
  Object.entries(keys).flatMap(([name, act]) =>
    act === undefined ? [] : spelled(name).map((key) => binding(key, act)),
  );

const binding = (key: string, act: () => void): HotkeyItem => [
  key,
  (event) => {
    if (inControl(event.target)) return;
    event.preventDefault();
    act();
  },
  { preventDefault: false, usePhysicalKeys: /Digit|Numpad/.test(key) },
];

/** Bind keys while the calling component is shown. */
export const useKeys = (keys: Keys) => useHotkeys(bindings(keys));
