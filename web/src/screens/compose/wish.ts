/** What is composed for, as the practitioner sets it; and the same thing with one thing otherwise. */
import type { Schema } from "../../api/client";
import type { Wish } from "./useScore";

type Position = Wish["positions_excluded"][number];

export const firstWish = (complaints: Schema["ComplaintOut"][], minutes: number, school: string): Wish => ({
  complaint_ids: complaints.map((complaint) => complaint.id),
  minutes,
  school,
  also: [],
  setting: "practice",
  positions_excluded: [],
  avoid: [],
  prefer: [],
  pinned: [],
  ear_map: "standard",
  foot_chart: "standard",
  seed: 0,
});

/** The school a practitioner begins with: the first of theirs, in the order of the catalogue. */
export const beginsWith = (own: readonly string[], schools: readonly Schema["SchoolPage"][]): string =>
  (own.length > 0 ? ownFirst(own, schools)[0]?.school.id : undefined) ?? "channel_acupressure";

/** Schools with the practitioner's own before the others. */
export const ownFirst = (own: readonly string[], schools: readonly Schema["SchoolPage"][]) => [
  ...schools.filter((one) => own.includes(one.school.id)),
  ...schools.filter((one) => !own.includes(one.school.id)),
];

export const toggled = <T>(list: T[], one: T): T[] =>
  list.includes(one) ? list.filter((other) => other !== one) : [...list, one];

/** A question a practitioner asks of a score: the words, and the wish with that one thing otherwise. */
export type Variation = { words: string; wish: Wish };

export function variations(wish: Wish, schools: Schema["SchoolPage"][]): Variation[] {
  const without = (position: Position, words: string): Variation[] =>
    wish.positions_excluded.includes(position)
      ? []
      : [{ words, wish: { ...wish, positions_excluded: [...wish.positions_excluded, position] } }];
  const other = schools.filter((one) => one.school.id !== wish.school && !one.school.alone);
  return [
    ...(wish.minutes > 14 ? [{ words: "10 minutes less", wish: { ...wish, minutes: wish.minutes - 10 } }] : []),
    { words: "10 minutes more", wish: { ...wish, minutes: wish.minutes + 10 } },
    ...without("prone", "not face down"),
    ...without("supine", "not face up"),
    ...(wish.setting === "practice"
      ? [{ words: "self-care only", wish: { ...wish, setting: "self_care" as const } }]
      : []),
    ...other.map((one) => ({ words: one.school.name, wish: { ...wish, school: one.school.id } })),
  ];
}
