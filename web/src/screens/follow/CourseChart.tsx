/** Ratings over time: before joined by a line, after as open rings hung below, home as small ticks. */
import { CartesianGrid, ComposedChart, Legend, Line, ReferenceLine, Scatter, XAxis, YAxis } from "recharts";
import type { Schema } from "../../api/client";
import { dayOf } from "../../shared/words";
import css from "./FollowScreen.module.css";

const WIDTH = 640;
const HEIGHT = 200;
const DAY_MS = 86_400_000;
const MARGIN = { top: 6, right: 26, bottom: 0, left: -26 };

type Rating = Schema["RatingOut"];
type Mark = { at: number; value: number };
const markOf = (rating: Rating): Mark => ({ at: Date.parse(rating.rated_at), value: rating.value });

export function CourseChart({ ratings, name }: { ratings: Rating[]; name: string }) {
  if (ratings.length === 0) return null;
  const of = (moment: Rating["moment"]) => ratings.filter((rating) => rating.moment === moment);
  const before = of("before").map(markOf);
  // An answer after stands under the one before it, of the same visit.
  const pairs = of("before").flatMap((rating) => {
    const after = of("after").find((one) => one.visit_id === rating.visit_id);
    return after ? [{ at: Date.parse(rating.rated_at), from: rating.value, value: after.value }] : [];
  });
  const times = ratings.map((rating) => Date.parse(rating.rated_at));
  const [first, last] = [Math.min(...times), Math.max(...times)];
  return (
    <div className={css.chart} role="img" aria-label={`Ratings of ${name} over time`}>
      <ComposedChart width={WIDTH} height={HEIGHT} margin={MARGIN} accessibilityLayer={false} style={FLUID}>
        <CartesianGrid vertical={false} className={css.grid} />
        <XAxis
          type="number"
          dataKey="at"
          domain={[first, Math.max(last, first + DAY_MS)]}
          ticks={before.map((mark) => mark.at)}
          interval="equidistantPreserveStart"
          tickFormatter={(at: number) => dayOf(new Date(at).toISOString())}
          padding={{ left: 10, right: 10 }}
          axisLine={false}
          tickLine={false}
        />
        <YAxis type="number" domain={[0, 10]} ticks={[0, 2, 4, 6, 8, 10]} axisLine={false} tickLine={false} />
        {pairs.map(({ at, from, value }) => (
          <ReferenceLine
            key={at}
            segment={[
              { x: at, y: from },
              { x: at, y: value },
            ]}
            className={css.drop ?? ""}
          />
        ))}
        <Line
          name="before"
          data={before}
          dataKey="value"
          type="linear"
          legendType="circle"
          dot={{ r: 5.5, className: css.before ?? "" }}
          activeDot={false}
          className={css.line ?? ""}
          stroke="var(--ink)"
          isAnimationActive={false}
        />
        <Scatter
          name="after"
          data={pairs}
          dataKey="value"
          shape={({ cx, cy }: Dot) => <circle className={css.after} cx={cx} cy={cy} r={5} />}
          isAnimationActive={false}
        />
        <Scatter
          name="from home"
          data={of("home").map(markOf)}
          dataKey="value"
          shape={({ cx = 0, cy = 0 }: Dot) => <line className={css.home} x1={cx - 5} x2={cx + 5} y1={cy} y2={cy} />}
          isAnimationActive={false}
        />
        <Legend verticalAlign="top" align="right" content={Key} />
      </ComposedChart>
    </div>
  );
}

type Dot = { cx?: number; cy?: number };
/** The drawing keeps its proportions and takes the width that there is. */
const FLUID = { width: "100%", height: "auto", maxWidth: WIDTH };

/** What the three marks mean. */
const MARKS = {
  before: <circle className={css.before} cx="6" cy="6" r="5" />,
  after: <circle className={css.after} cx="6" cy="6" r="5" />,
  "from home": <line className={css.home} x1="1" x2="11" y1="6" y2="6" />,
};

const Key = () => (
  <ul className={css.legend}>
    {Object.entries(MARKS).map(([name, mark]) => (
      <li key={name}>
        <svg width="12" height="12" aria-hidden>
          {mark}
        </svg>
        {name}
      </li>
    ))}
  </ul>
);
