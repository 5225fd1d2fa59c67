/** What is due and has no visit of its own: a planned visit to book, an answer to a letter, measures, screening. */
import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { dueQuery } from "../../api/booking";
import { useMay } from "../../api/practice";
import type { Wanted } from "../../shared/booking/Booking";
import { dayOf, isoDay } from "../../shared/words";
import css from "./DayScreen.module.css";

const STATION = {
  planned_visit: "/people/$personId",
  letter: "/people/$personId/file",
  measure: "/people/$personId/measures",
  screening: "/people/$personId/story",
} as const;

export function DueList({ onBook }: { onBook: (wanted: Wanted) => void }) {
  const due = useQuery(dueQuery);
  const books = useMay("book");
  if (!due.data?.length) return null;
  const today = isoDay(new Date());
  return (
    <section className={css.dueList} aria-label="Due">
      <h2>Due tasks</h2>
      <ul>
        {due.data.map((one) => (
          <li key={`${one.kind}${one.person_id}${one.on}${one.planned_id}`}>
            <span className={css.dueOn} data-late={one.on < today || undefined}>
              {dayOf(one.on)}
            </span>
            <Link className={css.dueWho} to={STATION[one.kind]} params={{ personId: one.person_id }}>
              <b>{one.given_name}</b> {one.family_name}
            </Link>
            <span>{one.words}</span>
            {one.kind === "planned_visit" && books && (
              <Button
                size="compact-sm"
                variant="default"
                onClick={() =>
                  onBook({
                    personId: one.person_id,
                    plannedId: one.planned_id ?? undefined,
                    minutes: one.minutes ?? undefined,
                  })
                }
              >
                Book
              </Button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
