/** One time line for everything: ratings with their band, phases, sessions, episodes, medicines, practice, sleep, notes. */
import { useElementSize } from "@mantine/hooks";
import { useGesture } from "@use-gesture/react";
import { useMemo, useRef, useState } from "react";
import { CartesianGrid, ComposedChart, Line, Scatter, useXAxisScale, useYAxisScale, XAxis, YAxis } from "recharts";
import type { Schema } from "../../api/client";
import { useMe } from "../../api/queries";
import { momentOf, wallClock } from "../../shared/days";
import { useKeys } from "../../shared/keys";
import { dateOf, dayOf } from "../../shared/words";
import css from "./CourseChart.module.css";
import { LANE_PX, Lanes, lanesOf } from "./Lanes";
import { DAY_MS, held, momentOfDay, moved, type Span, ticks, zoomed } from "./span";

type Complaint = Schema["ComplaintCourse"];
const RATINGS_PX = 230;
const AXIS_PX = 26;
const LEFT_PX = 92;
const MARGIN = { top: 22, right: 16, left: 0 };
const STEP = 0.6;
const SPANS: [string, number | null][] = [
  ["Day", 1],
  ["Week", 7],
  ["Month", 31],
  ["Year", 366],
  ["All", null],
];

type Props = {
  course: Schema["PersonCourse"];
  complaint: Complaint;
  chosenVisit: string | undefined;
  onVisit: (id: string) => void;
};

export function CourseChart({ course, complaint, chosenVisit, onVisit }: Props) {
  const { data: me } = useMe();
  const zone = me?.time_zone ?? "UTC";
  const all = useMemo(() => whole(course, complaint), [course, complaint]);
  const [wanted, setSpan] = useState<Span | null>(null);
  const span = held(wanted ?? all, all);
  const { ref, width } = useElementSize();
  const plot = useRef<HTMLElement>(null);
  const lanes = lanesOf(course, complaint);
  const at = (x: number) => {
    const box = plot.current?.getBoundingClientRect();
    const share = box ? (x - box.left - LEFT_PX) / (box.width - LEFT_PX - MARGIN.right) : 0.5;
    return span.from + Math.min(Math.max(share, 0), 1) * (span.to - span.from);
  };
  useGesture(
    {
      onDrag: ({ delta: [dx] }) => {
        const box = plot.current?.getBoundingClientRect();
        if (box && dx) setSpan(moved(span, all, -dx / (box.width - LEFT_PX)));
      },
      onWheel: ({ event, delta: [dx, dy] }) => {
        event.preventDefault();
        setSpan(
          Math.abs(dx) > Math.abs(dy)
            ? moved(span, all, dx / 600)
            : zoomed(span, all, dy > 0 ? 1.15 : 0.87, at(event.clientX)),
        );
      },
      onPinch: ({ delta: [scale], origin: [x] }) => setSpan(zoomed(span, all, 1 - scale, at(x))),
    },
    { target: plot, eventOptions: { passive: false }, drag: { filterTaps: true, axis: "x" } },
  );
  useKeys({
    "+": () => setSpan(zoomed(span, all, STEP)),
    "-": () => setSpan(zoomed(span, all, 1 / STEP)),
    arrowLeft: () => setSpan(moved(span, all, -0.4)),
    arrowRight: () => setSpan(moved(span, all, 0.4)),
  });
  const midnight = (moment: number) =>
    Date.parse(momentOf(`${wallClock(new Date(moment).toISOString(), zone).slice(0, 10)} 00:00`, zone));
  // The core counts days by the practice's clock: its day is the wall's day there.
  const local = (day: number) => Date.parse(momentOf(new Date(momentOfDay(day)).toISOString().slice(0, 16), zone));
  const band = complaint.analysis.band.map((point) => ({ at: local(point.day), ...point.level }));
  const of = (moment: Schema["RatingPoint"]["moment"]) =>
    complaint.ratings
      .filter((one) => one.moment === moment)
      .map((one) => ({ at: Date.parse(one.at), value: one.value }));
  const first = course.visits.find((visit) => visit.held)?.starts_at;
  return (
    <section className={css.chart} aria-label={`Timeline of ${course.given_name}`}>
      <div className={css.bar}>
        <Legend />
        <div className={css.zoom} role="toolbar" aria-label="Time span shown">
          {SPANS.map(([name, days]) => (
            <button
              key={name}
              type="button"
              onClick={() => setSpan(days === null ? null : held({ from: span.to - days * DAY_MS, to: span.to }, all))}
            >
              {name}
            </button>
          ))}
          <button type="button" aria-label="Zoom in" onClick={() => setSpan(zoomed(span, all, STEP))}>
            <kbd>+</kbd>
          </button>
          <button type="button" aria-label="Zoom out" onClick={() => setSpan(zoomed(span, all, 1 / STEP))}>
            <kbd>−</kbd>
          </button>
        </div>
      </div>
      <div ref={ref}>
        <figure ref={plot} className={css.plot} aria-label={`Ratings of ${complaint.name} and what else happened`}>
          {width > 0 && (
            <ComposedChart
              width={width}
              height={MARGIN.top + RATINGS_PX + AXIS_PX + lanes.length * LANE_PX + 6}
              margin={{ ...MARGIN, bottom: lanes.length * LANE_PX + 6 }}
              accessibilityLayer={false}
            >
              <CartesianGrid vertical={false} stroke="var(--line)" />
              <XAxis
                type="number"
                dataKey="at"
                domain={[span.from, span.to]}
                allowDataOverflow
                height={AXIS_PX}
                ticks={ticks(span, Math.max(Math.floor(width / 110), 3), midnight)}
                interval={0}
                tickFormatter={(moment: number) => {
                  const iso = new Date(moment).toISOString();
                  return span.to - span.from > 400 * DAY_MS ? dateOf(iso) : dayOf(iso);
                }}
                tickLine={false}
              />
              <YAxis
                type="number"
                domain={[0, 10]}
                ticks={[0, 2, 4, 6, 8, 10]}
                width={LEFT_PX}
                axisLine={false}
                tickLine={false}
              />
              <Ground
                band={band}
                began={first ? Date.parse(first) : null}
                turn={complaint.analysis.turn}
                local={local}
              />
              <Line
                data={band}
                dataKey="middle"
                type="monotone"
                dot={false}
                activeDot={false}
                className={css.level ?? ""}
                isAnimationActive={false}
              />
              <Scatter data={of("home")} dataKey="value" shape={HomeMark} isAnimationActive={false} />
              <Scatter data={of("after")} dataKey="value" shape={AfterMark} isAnimationActive={false} />
              <Scatter data={of("before")} dataKey="value" shape={BeforeMark} isAnimationActive={false} />
              <Lanes lanes={lanes} span={span} chosen={chosenVisit} onVisit={onVisit} />
            </ComposedChart>
          )}
        </figure>
      </div>
    </section>
  );
}

/** From the first thing that is known to the last, with a little room. */
function whole(course: Schema["PersonCourse"], complaint: Complaint): Span {
  const times = [
    ...complaint.ratings.map((one) => Date.parse(one.at)),
    ...course.visits.map((one) => Date.parse(one.starts_at)).filter((one) => one <= Date.now() + DAY_MS),
    ...complaint.bars.map((one) => Date.parse(one.started_at)),
    ...course.log.map((one) => Date.parse(one.on_day)),
  ];
  if (times.length === 0) return { from: Date.now() - 30 * DAY_MS, to: Date.now() };
  const [first, last] = [Math.min(...times), Math.max(...times)];
  const room = Math.max((last - first) * 0.03, DAY_MS);
  return { from: first - room, to: last + room };
}

type BandAt = { at: number; middle: number; low: number; high: number };

/** What lies behind the ratings: the baseline's ground, the band of the level, a turning point with its days. */
function Ground({
  band,
  began,
  turn,
  local,
}: {
  band: BandAt[];
  began: number | null;
  turn: Schema["TurningPoint"] | null;
  local: (day: number) => number;
}) {
  const x = useXAxisScale();
  const y = useYAxisScale();
  if (!x || !y) return null;
  const px = (at: number) => Number(x(at));
  const py = (value: number) => Number(y(value));
  const [left, top, bottom] = [LEFT_PX, py(10), py(0)];
  const upper = band.map((one) => `${px(one.at)},${py(one.high)}`);
  const lower = [...band].reverse().map((one) => `${px(one.at)},${py(one.low)}`);
  const edge = began === null ? null : px(began);
  const turned = turn && { from: px(local(dayNumber(turn.earliest))), to: px(local(dayNumber(turn.latest) + 1)) };
  return (
    <g>
      <clipPath id="course-plot">
        <rect x={left} y={0} width="100%" height={bottom + 400} />
      </clipPath>
      <g clipPath="url(#course-plot)">
        {edge !== null && edge > left && (
          <>
            <rect className={css.baseline} x={left} y={top} width={edge - left} height={bottom - top} />
            <line className={css.began} x1={edge} x2={edge} y1={top - 4} y2={bottom} />
            {edge - left > 60 && (
              <text className={css.phase} x={edge - 6} y={top - 8} textAnchor="end">
                before
              </text>
            )}
            <text className={css.phase} x={edge + 6} y={top - 8}>
              since the first session
            </text>
          </>
        )}
        {band.length > 1 && <polygon className={css.band} points={[...upper, ...lower].join(" ")} />}
        {turned && (
          <rect
            className={css.turn}
            x={turned.from}
            y={top}
            width={Math.max(turned.to - turned.from, 2)}
            height={bottom - top}
          >
            <title>The change probably came between these days (90%)</title>
          </rect>
        )}
      </g>
    </g>
  );
}

/** The core's count of a day. */
const dayNumber = (day: string) => Date.parse(`${day}T00:00:00Z`) / DAY_MS + 719_163;

type Mark = { cx?: number; cy?: number };
const inPlot = (cx: number | undefined): cx is number => cx !== undefined && cx >= LEFT_PX - 1;
const BeforeMark = ({ cx, cy = 0 }: Mark) =>
  inPlot(cx) ? <circle className={css.before} cx={cx} cy={cy} r={5} /> : <g />;
const AfterMark = ({ cx, cy = 0 }: Mark) =>
  inPlot(cx) ? <circle className={css.after} cx={cx} cy={cy} r={4.5} /> : <g />;
const HomeMark = ({ cx, cy = 0 }: Mark) =>
  inPlot(cx) ? (
    <path className={css.home} d={`M${cx - 4.5},${cy + 3.5} L${cx},${cy - 4.5} L${cx + 4.5},${cy + 3.5} Z`} />
  ) : (
    <g />
  );

const Legend = () => (
  <ul className={css.legend}>
    <li>
      <svg width="14" height="14" aria-hidden>
        <circle className={css.before} cx="7" cy="7" r="5" />
      </svg>
      before a session
    </li>
    <li>
      <svg width="14" height="14" aria-hidden>
        <circle className={css.after} cx="7" cy="7" r="4.5" />
      </svg>
      after a session
    </li>
    <li>
      <svg width="14" height="14" aria-hidden>
        <path className={css.home} d="M2.5,11 L7,2.5 L11.5,11 Z" />
      </svg>
      from home
    </li>
    <li>
      <svg width="22" height="14" aria-hidden>
        <rect className={css.band} width="22" height="14" />
        <line className={css.level} x1="0" x2="22" y1="7" y2="7" />
      </svg>
      level (95% interval)
    </li>
  </ul>
);
