/** In which languages names of points are shown. */
import type { Schema } from "../api/client";

export type NameLanguage = Schema["Me"]["name_languages"][number];

export const languages: [NameLanguage, string][] = [
  ["english", "English"],
  ["romanised", "Romanised, with tones"],
  ["characters", "Characters"],
];
