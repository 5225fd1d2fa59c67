/** The dim room: the practitioner's choice, or automatic for a person marked light-sensitive. */
import { useMantineColorScheme } from "@mantine/core";
import { useEffect } from "react";

/** Toggle between light and dim. */
export function useDim() {
  const { colorScheme, setColorScheme } = useMantineColorScheme();
  return {
    dim: colorScheme === "dark",
    toggle: () => setColorScheme(colorScheme === "dark" ? "light" : "dark"),
  };
}

/** Begin as a practitioner wants it by default, once they are known; the hand may switch at any time. */
export function useDimByDefault(theme: "auto" | "light" | "dim" | undefined) {
  const { setColorScheme } = useMantineColorScheme();
  // biome-ignore lint/correctness/useExhaustiveDependencies: only the default itself decides, and only when it is new
  useEffect(() => {
    if (theme === "dim") setColorScheme("dark");
    else if (theme === "light") setColorScheme("light");
  }, [theme]);
}

/** Go dim while a person who cannot bear light is on the screen, and back afterwards. */
export function useDimFor(sensitive: boolean | undefined) {
  const { colorScheme, setColorScheme } = useMantineColorScheme();
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a change of person may switch; the hand may switch back
  useEffect(() => {
    if (!sensitive || colorScheme === "dark") return;
    setColorScheme("dark");
    return () => setColorScheme("light");
  }, [sensitive]);
}
