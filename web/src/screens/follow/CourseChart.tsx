/** Ratings over time: before joined by a line, after as open rings hung below, home as small ticks. */
import type { Schema } from "../../api/client";
import { dayOf } from "../../shared/words";
import css from "./FollowScreen.module.css";

const WIDTH = 640;
const HEIGHT = 190;
const LEFT = 30;
const TOP = 10;
const FLOOR = 26;

export function CourseChart({ ratings, name }: { ratings: Schema["RatingOut"][]; name: string }) {
  if (ratings.length === 0) return null;
  const times = ratings.map((rating) => Date.parse(rating.rated_at));
  const first = Math.min(...times);
  const span = Math.max(Math.max(...times) - first, 86_400_000);
  const x = (iso: string) => LEFT + 8 + ((Date.parse(iso) - first) / span) * (WIDTH - LEFT - 24);
  const y = (value: number) => TOP + (1 - value / 10) * (HEIGHT - TOP - FLOOR);
  const before = ratings.filter((rating) => rating.moment === "before");
  const pairs = before.flatMap((rating) => {
    const after = ratings.find((one) => one.moment === "after" && one.visit_id === rating.visit_id);
    return after ? [{ rating, after }] : [];
  });
  const marks = before.filter(
    (_, index) =>
      index === 0 || index === before.length - 1 || before.length < 6 || (index % 3 === 0 && index < before.length - 2),
  );
  return (
    <svg
      className={css.chart}
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={`Ratings of ${name} over time`}
    >
      {[0, 2, 4, 6, 8, 10].map((value) => (
        <g key={value}>
          <line className={css.grid} x1={LEFT} x2={WIDTH - 8} y1={y(value)} y2={y(value)} />
          <text x={LEFT - 6} y={y(value) + 4} textAnchor="end">
            {value}
          </text>
        </g>
      ))}
      {marks.map((rating) => (
        <text key={rating.id} x={Math.min(x(rating.rated_at), WIDTH - 24)} y={HEIGHT - 6} textAnchor="middle">
          {dayOf(rating.rated_at)}
        </text>
      ))}
      {pairs.map(({ rating, after }) => (
        <g key={rating.id}>
          <line
            className={css.drop}
            x1={x(rating.rated_at)}
            x2={x(rating.rated_at)}
            y1={y(rating.value)}
            y2={y(after.value)}
          />
          <circle className={css.after} cx={x(rating.rated_at)} cy={y(after.value)} r="5" />
        </g>
      ))}
      <polyline
        className={css.line}
        points={before.map((rating) => `${x(rating.rated_at)},${y(rating.value)}`).join(" ")}
      />
      {before.map((rating) => (
        <circle key={rating.id} className={css.before} cx={x(rating.rated_at)} cy={y(rating.value)} r="5.5" />
      ))}
      {ratings
        .filter((rating) => rating.moment === "home")
        .map((rating) => (
          <line
            key={rating.id}
            className={css.home}
            x1={x(rating.rated_at) - 5}
            x2={x(rating.rated_at) + 5}
            y1={y(rating.value)}
            y2={y(rating.value)}
          />
        ))}
      <g className={css.legend} transform={`translate(${WIDTH - 216} ${TOP + 4})`}>
        <circle className={css.before} cx="0" cy="0" r="5" />
        <text x="9" y="4">
          before
        </text>
        <circle className={css.after} cx="70" cy="0" r="5" />
        <text x="79" y="4">
          after
        </text>
        <line className={css.home} x1="128" x2="138" y1="0" y2="0" />
        <text x="143" y="4">
          from home
        </text>
      </g>
    </svg>
  );
}
