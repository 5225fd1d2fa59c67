/** The lanes below the ratings, one a kind: sessions, episodes, medicines, practice at home, sleep, notes. */
import { useXAxisScale, useYAxisScale } from "recharts";
import type { Schema } from "../../api/client";
import { clock, dateOf, shortId } from "../../shared/words";
import css from "./CourseChart.module.css";
import { DAY_MS, type Span } from "./span";

export const LANE_PX = 28;
const AXIS_PX = 26;
const LEAST_PX = 3;

type Bit = {
  id: string;
  from: number;
  to?: number;
  /** How tall it stands, from 0 to 1. */
  size: number;
  told: string;
  mark: "session" | "missed" | "bar" | "note" | "other";
  visit?: string;
};
export type Lane = { name: string; bits: Bit[] };

const day = (iso: string) => Date.parse(`${iso}T00:00:00Z`);
const endOfDay = (iso: string) => day(iso) + DAY_MS;

/** The lanes that have something in them; sessions always. */
export function lanesOf(course: Schema["PersonCourse"], complaint: Schema["ComplaintCourse"]): Lane[] {
  const mine = course.log.filter((one) => one.complaint_id === null || one.complaint_id === complaint.id);
  const of = (kind: Schema["EntryOut"]["kind"]) => mine.filter((one) => one.kind === kind);
  const most = (entries: Schema["EntryOut"][]) => Math.max(...entries.map((one) => one.amount ?? 0), 1);
  const lanes: Lane[] = [
    {
      name: "sessions",
      bits: course.visits.filter((one) => one.held || one.attendance !== "expected").map(sessionBit),
    },
    { name: "episodes", bits: complaint.bars.map(episodeBit) },
    { name: "medicines", bits: of("medicine").map((one) => amountBit(one, most(of("medicine")), medicineWords(one))) },
    { name: "at home", bits: of("practice").map((one) => amountBit(one, most(of("practice")), practiceWords(one))) },
    {
      name: "sleep",
      bits: of("sleep").map((one) => amountBit(one, 10, `${dateOf(one.on_day)}: slept ${one.amount} hours`)),
    },
    { name: "notes", bits: of("event").map(noteBit) },
  ];
  return lanes.filter((lane) => lane.bits.length > 0 || lane.name === "sessions");
}

const sessionBit = (one: Schema["VisitOnCourse"]): Bit => ({
  id: one.id,
  from: Date.parse(one.starts_at),
  size: 1,
  mark: one.held ? "session" : "missed",
  visit: one.id,
  told: one.held
    ? `${dateOf(one.starts_at)}, ${clock(one.starts_at)}: session, ${one.pressed} points`
    : `${dateOf(one.starts_at)}: ${one.attendance === "cancelled" ? "cancelled" : "did not come"}`,
});

const episodeBit = (one: Schema["Bar"]): Bit => ({
  id: one.id,
  from: Date.parse(one.started_at),
  to: one.ended_at ? Date.parse(one.ended_at) : undefined,
  size: (one.strength ?? 5) / 10,
  mark: "bar",
  told: [
    `${dateOf(one.started_at)}, ${clock(one.started_at)}`,
    one.strength === null ? "" : `strength ${one.strength}`,
    one.trigger,
    one.helped && `helped: ${one.helped}`,
  ]
    .filter(Boolean)
    .join(", "),
});

const amountBit = (one: Schema["EntryOut"], most: number, told: string): Bit => ({
  id: one.id,
  from: day(one.on_day),
  to: endOfDay(one.until ?? one.on_day),
  size: Math.max((one.amount ?? most) / most, 0.15),
  mark: "bar",
  told,
});
const medicineWords = (one: Schema["EntryOut"]) =>
  `${dateOf(one.on_day)}${one.until ? ` to ${dateOf(one.until)}` : ""}: ${one.words}${one.amount === null ? "" : `, ${one.amount} times`}`;
const practiceWords = (one: Schema["EntryOut"]) =>
  [
    `${dateOf(one.on_day)}: pressed at home`,
    one.amount === null ? "" : `${one.amount} min`,
    one.pressed.map(shortId).join(", "),
    one.words,
  ]
    .filter(Boolean)
    .join(", ");

const noteBit = (one: Schema["EntryOut"]): Bit => ({
  id: one.id,
  from: day(one.on_day),
  size: 1,
  mark: one.other_care ? "other" : "note",
  told: `${dateOf(one.on_day)}: ${one.words}`,
});

type Props = { lanes: Lane[]; span: Span; chosen: string | undefined; onVisit: (id: string) => void };

export function Lanes({ lanes, span, chosen, onVisit }: Props) {
  const x = useXAxisScale();
  const y = useYAxisScale();
  if (!x || !y) return null;
  const top = Number(y(0)) + AXIS_PX;
  const [left, right] = [Number(x(span.from)), Number(x(span.to))];
  const px = (at: number) => (at === Number.NEGATIVE_INFINITY ? left : Math.min(Math.max(Number(x(at)), left), right));
  return (
    <g>
      {lanes.map((lane, rank) => {
        const foot = top + (rank + 1) * LANE_PX - 5;
        const seen = lane.bits.filter((bit) => (bit.to ?? bit.from) >= span.from && bit.from <= span.to);
        return (
          <g key={lane.name}>
            <text className={css.lane} x={left - 10} y={foot - 4} textAnchor="end">
              {lane.name}
            </text>
            <line className={css.foot} x1={left} x2={right} y1={foot} y2={foot} />
            {seen.map((bit) => (
              <BitMark
                key={bit.id}
                bit={bit}
                px={px}
                foot={foot}
                chosen={bit.visit !== undefined && bit.visit === chosen}
                onVisit={onVisit}
              />
            ))}
            {lane.name === "notes" && <NoteWords bits={seen} px={px} foot={foot} right={right} />}
          </g>
        );
      })}
    </g>
  );
}

function BitMark({
  bit,
  px,
  foot,
  chosen,
  onVisit,
}: {
  bit: Bit;
  px: (at: number) => number;
  foot: number;
  chosen: boolean;
  onVisit: (id: string) => void;
}) {
  const from = px(bit.from);
  const middle = foot - LANE_PX / 2 + 3;
  if (bit.visit !== undefined && bit.mark === "session") {
    const visit = bit.visit;
    return (
      // biome-ignore lint/a11y/useSemanticElements: a mark inside a drawing
      <g
        role="button"
        tabIndex={0}
        aria-label={bit.told}
        className={css.session}
        data-chosen={chosen || undefined}
        onClick={() => onVisit(visit)}
        onKeyDown={(event) => {
          if (event.key === "Enter" || event.key === " ") onVisit(visit);
        }}
      >
        <title>{bit.told}</title>
        <rect className={css.touch} x={from - 12} y={foot - LANE_PX + 2} width={24} height={LANE_PX} />
        <path d={`M${from},${middle - 8} l7,8 l-7,8 l-7,-8 Z`} />
      </g>
    );
  }
  if (bit.mark === "missed") {
    return (
      <path className={css.missed} d={`M${from - 5},${middle - 5} l10,10 m0,-10 l-10,10`}>
        <title>{bit.told}</title>
      </path>
    );
  }
  if (bit.mark === "note" || bit.mark === "other") {
    return (
      <path
        className={css.note}
        data-other={bit.mark === "other" || undefined}
        d={`M${from},${foot} v-${LANE_PX - 8} l8,5 l-8,5`}
      >
        <title>{bit.told}</title>
      </path>
    );
  }
  const height = (LANE_PX - 8) * bit.size;
  return (
    <rect
      className={css.bit}
      x={from}
      y={foot - height}
      width={Math.max(px(bit.to ?? bit.from) - from, LEAST_PX)}
      height={height}
    >
      <title>{bit.told}</title>
    </rect>
  );
}

const LETTER_PX = 7;
const FEWEST_LETTERS = 5;
const FLAG_PX = 12;

/** The words of notes: after the flag where there is room before the next, else before it where there is. */
function NoteWords({
  bits,
  px,
  foot,
  right,
}: {
  bits: Bit[];
  px: (at: number) => number;
  foot: number;
  right: number;
}) {
  const inOrder = [...bits].sort((a, b) => a.from - b.from);
  let taken = px(Number.NEGATIVE_INFINITY);
  return inOrder.map((bit, rank) => {
    const [flag, next] = [px(bit.from), inOrder[rank + 1]];
    const words = bit.told.slice(bit.told.indexOf(": ") + 2);
    const after = (next ? px(next.from) : right) - flag - FLAG_PX;
    const before = flag - 4 - taken;
    const isAfter = after >= Math.min(words.length, 16) * LETTER_PX || after >= before;
    const fits = Math.floor((isAfter ? after : before) / LETTER_PX);
    const shown = words.length > fits ? `${words.slice(0, fits - 1)}…` : words;
    taken = flag + FLAG_PX + (isAfter ? shown.length * LETTER_PX : 0);
    return fits < FEWEST_LETTERS ? null : (
      <text
        key={bit.id}
        className={css.words}
        x={isAfter ? flag + FLAG_PX : flag - 4}
        y={foot - 5}
        textAnchor={isAfter ? "start" : "end"}
      >
        {shown}
      </text>
    );
  });
}
