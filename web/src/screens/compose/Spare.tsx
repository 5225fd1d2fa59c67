/** Booked minutes that the session does not take: why, and what to do with them. */
import { Button } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { appointmentsChanged } from "../../api/booking";
import { api, type Schema, take } from "../../api/client";
import css from "./ComposeScreen.module.css";
import type { Wish } from "./useScore";

const TOLD_FROM_S = 90;
const SPARE = /^\d+ minutes? to spare\. ?/;
/** Visits are booked in steps of so many minutes. */
const STEP_MIN = 5;
/** Work on a small part of the body, beside which an hour has room for another way of working. */
const SMALL = ["ear_points", "face_reflex", "rib_points"];

/** The notes of a score without the one that is said beside its buttons. */
export const otherNotes = (made: Schema["Score"]) => (made.notes ?? []).filter((note) => !SPARE.test(note));

/** The minutes that a visit needs for a score, in whole steps. */
export const enoughFor = (total_s: number) => Math.ceil(total_s / 60 / STEP_MIN) * STEP_MIN;

type Props = {
  personId: string;
  today: Schema["DayVisit"];
  made: Schema["Score"];
  wish: Wish;
  schools: Schema["SchoolPage"][];
  onCompose: (wish: Wish) => void;
};

export function Spare({ personId, today, made, wish, schools, onCompose }: Props) {
  const shorten = useShorten(personId, today.visit_id);
  const spare_s = made.minutes * 60 - made.total_s;
  if (spare_s < TOLD_FROM_S || made.alone) return null;
  const why = (made.notes ?? []).find((note) => SPARE.test(note))?.replace(SPARE, "") ?? "";
  const minutes = enoughFor(made.total_s);
  const other = SMALL.includes(made.school ?? "")
    ? schools.find(({ school }) => !school.alone && school.id !== made.school && !SMALL.includes(school.id))
    : undefined;
  return (
    <div className={css.spare} role="note">
      <p>
        {Math.round(spare_s / 60)} minutes to spare. {why}
      </p>
      {other && !wish.also.includes(other.school.id) && (
        <Button
          size="xs"
          variant="default"
          onClick={() => onCompose({ ...wish, also: [...wish.also, other.school.id] })}
        >
          Add {other.school.name.toLowerCase()}
        </Button>
      )}
      {minutes < today.minutes && (
        <Button
          size="xs"
          variant="default"
          loading={shorten.isPending}
          onClick={() => shorten.mutate(minutes, { onSuccess: () => onCompose({ ...wish, minutes }) })}
        >
          Shorten the visit to {minutes} minutes
        </Button>
      )}
    </div>
  );
}

function useShorten(personId: string, visit_id: string) {
  const queries = useQueryClient();
  const path = { visit_id };
  return useMutation({
    mutationFn: async (minutes: number) => {
      const { version } = await take(api.GET("/api/appointments/{visit_id}", { params: { path } }));
      const body = { version, minutes, no_place: false };
      return take(api.PATCH("/api/appointments/{visit_id}", { params: { path }, body }));
    },
    onError: (error) => notifications.show({ message: `The visit was not shortened. ${error.message}` }),
    onSettled: () => appointmentsChanged(queries, personId),
  });
}
