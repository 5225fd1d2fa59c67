/** In which languages names of points are shown. */
import type { Schema } from "../api/client";
import { useMe } from "../api/queries";

export type NameLanguage = Schema["Me"]["name_languages"][number];

export const languages: [NameLanguage, string][] = [
  ["english", "English"],
  ["romanised", "Romanised, with tones"],
  ["characters", "Characters"],
];

/** Whether whoever is signed in wants to see names of a kind. */
export function useShownNames(): (language: NameLanguage) => boolean {
  const wanted = useMe().data?.name_languages;
  return (language) => wanted === undefined || wanted.includes(language);
}
