/** A film of soreness: the figure with its sore places, a slider through the visits, right beside left. */
import { Button, Slider } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";
import type { Schema } from "../../api/client";
import { figureQuery } from "../../api/queries";
import type { Triple } from "../../body/view";
import { Empty, SoreRing, Waiting } from "../../shared/parts";
import { dateOf, dayOf, shortId } from "../../shared/words";
import css from "./FollowScreen.module.css";

const BodyView = lazy(() => import("../../body/BodyView"));
type Sore = Schema["Tenderness"];

export function SoreFilm({ course }: { course: Schema["PersonCourse"] }) {
  const days = [...new Set(course.tenderness.map((row) => row.on))].sort();
  const [at, setAt] = useState(days.length - 1);
  const [onBody, setOnBody] = useState(false);
  const day = days[Math.min(at, days.length - 1)];
  if (day === undefined) {
    return (
      <section className={css.sore} aria-label="Sore places">
        <h2>Sore places</h2>
        <Empty>No soreness rated yet. During a session, keys 0 to 9 record it.</Empty>
      </section>
    );
  }
  const rows = course.tenderness.filter((row) => row.on === day);
  return (
    <section className={css.sore} aria-label="Sore places">
      <header>
        <h2>Sore places</h2>
        <Button size="compact-sm" variant="default" aria-pressed={onBody} onClick={() => setOnBody(!onBody)}>
          {onBody ? "As a list" : "On the body"}
        </Button>
      </header>
      <div className={css.film}>
        <span>
          {dateOf(day)}, visit {days.indexOf(day) + 1} of {days.length}
        </span>
        {days.length > 1 && (
          <Slider
            className={css.slider ?? ""}
            min={0}
            max={days.length - 1}
            value={at}
            onChange={setAt}
            label={(n) => dayOf(days[n] ?? day)}
            marks={days.map((_, n) => ({ value: n }))}
            thumbLabel="Visit"
          />
        )}
      </div>
      {onBody ? <SoreBody personId={course.person_id} rows={rows} /> : <SoreTable course={course} day={day} />}
    </section>
  );
}

/** Each place with right beside left on this day, and how it goes over the visits. */
function SoreTable({ course, day }: { course: Schema["PersonCourse"]; day: string }) {
  const ids = [...new Set(course.places.map((one) => one.id))];
  const felt = (id: string, side: string) =>
    course.tenderness.find((row) => row.on === day && row.id === id && row.side === side);
  return (
    <table>
      <thead>
        <tr>
          <th scope="col">Place</th>
          <th scope="col">Right</th>
          <th scope="col">Left</th>
          <th scope="col">Over the visits</th>
        </tr>
      </thead>
      <tbody>
        {ids.map((id) => {
          const own = course.places.filter((one) => one.id === id);
          const whole = felt(id, "both") ?? felt(id, "midline");
          return (
            <tr key={id}>
              <th scope="row">
                {shortId(id)} <small>{own[0]?.name}</small>
              </th>
              {whole ? (
                <td colSpan={2}>
                  <Rated row={whole} />
                </td>
              ) : (
                <>
                  <td>
                    <Rated row={felt(id, "right")} />
                  </td>
                  <td>
                    <Rated row={felt(id, "left")} />
                  </td>
                </>
              )}
              <td>
                <span className={css.small}>
                  {own.map((one) => (own.length > 1 ? `${one.side}: ${one.words}` : one.words)).join("; ")}
                </span>
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function Rated({ row }: { row: Sore | undefined }) {
  if (!row) return <span className={css.none}>–</span>;
  return (
    <span className={css.rings}>
      <SoreRing value={row.first} size={30} /> → <SoreRing value={row.last} size={30} />
    </span>
  );
}

function SoreBody({ personId, rows }: { personId: string; rows: Sore[] }) {
  const figure = useQuery(figureQuery(personId));
  if (!figure.data) return <Waiting for="Fitting the figure" />;
  const { places } = figure.data;
  const rings = rows.flatMap((row) =>
    places
      .filter((one) => one.id === row.id && (row.side === "both" || row.side === "midline" || one.side === row.side))
      .map((one) => ({
        position_cm: one.position_cm as Triple,
        normal: one.normal as Triple,
        first: row.first,
        last: row.last,
        text: shortId(row.id),
      })),
  );
  return (
    <div className={css.body}>
      <Suspense fallback={<Waiting for="Loading the body" />}>
        <BodyView personId={personId} figure={figure.data} marks={false} rings={rings} />
      </Suspense>
    </div>
  );
}
