/** What the blocks of a score stand on: lanes, minutes, the end of the slot, and bar lines where somebody turns. */
import { positionWords } from "../shared/words";
import css from "./ScoreView.module.css";
import { LANES, type Lane, type Stop } from "./shapes";
import type { Layout } from "./useScoreDrag";

export const FLOOR = 24;
const LANE_NAMES: Record<Lane, string> = { right: "right", midline: "middle", left: "left" };

/** Where a second of the score stands in the drawing. */
export const xOf = (layout: Layout) => (seconds: number) => layout.left + (seconds - layout.from_s) * layout.scale;

type Props = { layout: Layout; to_s: number; budget_s: number | undefined };

export function Ground({ layout, to_s, budget_s }: Props) {
  const { left, top, lane: tall, width, height } = layout;
  const x = xOf(layout);
  return (
    <g className={css.ground}>
      {LANES.map((lane, row) => (
        <g key={lane}>
          <line x1={left} x2={width - 6} y1={top + (row + 1) * tall} y2={top + (row + 1) * tall} />
          <text x={2} y={top + (row + 0.62) * tall}>
            {LANE_NAMES[lane]}
          </text>
        </g>
      ))}
      {minutesBetween(layout.from_s, to_s).map((minute) => (
        <g key={minute}>
          <line className={css.minute} x1={x(minute * 60)} x2={x(minute * 60)} y1={top} y2={height - FLOOR} />
          <text className={css.figures} x={x(minute * 60) + 2} y={height - 6}>
            {minute}
          </text>
        </g>
      ))}
      {budget_s && budget_s <= to_s && (
        <g>
          <line className={css.budget} x1={x(budget_s)} x2={x(budget_s)} y1={top - 6} y2={height - FLOOR + 4} />
          <text className={css.budgetText} x={x(budget_s) - 4} y={top - 10} textAnchor="end">
            {Math.round(budget_s / 60)} min
          </text>
        </g>
      )}
    </g>
  );
}

/** The minutes that get a line: as many as can be read. */
function minutesBetween(from_s: number, to_s: number): number[] {
  const span = to_s - from_s;
  const every = span > 2400 ? 10 : span > 900 ? 5 : 1;
  const first = Math.ceil(from_s / 60 / every) * every;
  const count = Math.max(0, Math.floor((to_s / 60 - first) / every) + 1);
  return Array.from({ length: count }, (_, i) => first + i * every);
}

type TurnsProps = { layout: Layout; stops: Stop[]; shown: Stop[] };

/** Changes of position are bar lines. */
export function Turns({ layout, stops, shown }: TurnsProps) {
  const { left, top, height } = layout;
  const x = xOf(layout);
  return (
    <g className={css.turns}>
      {shown.map((stop) => {
        const before = stops[stops.indexOf(stop) - 1];
        const turned = before !== undefined && before.position !== stop.position;
        if (before && !turned && stop !== shown[0]) return null;
        const at = Math.max(x(stop.start_s) - (turned ? 4 : 0), left);
        return (
          <g key={stop.key}>
            {turned && <line x1={at} x2={at} y1={top - 14} y2={height - FLOOR} />}
            <text x={at + 4} y={top - 16}>
              {positionWords[stop.position]}
            </text>
          </g>
        );
      })}
    </g>
  );
}
