/** The score: time to the right, a lane a side, a block a stop. It is read at a glance and edited by hand and by keys. */
import { useId, useRef } from "react";
import type { Schema } from "../api/client";
import { type Felt, Ghost, Names, type Seen, StopBlocks } from "./Blocks";
import { FLOOR, Ground, Turns, xOf } from "./Ground";
import css from "./ScoreView.module.css";
import { LANES, type Stop, type Window } from "./shapes";
import { type Drag, type Edit, type Layout, useScoreDrag } from "./useScoreDrag";

const WIDTH = 1200;
const LEFT = 66;
const TOP = 30;

type Props = {
  score: Schema["Score"];
  /** Height of a lane in units of the drawing, which is 1200 wide. */
  lane?: number;
  budget_s?: number;
  /** The stretch of time that is shown; all of it where there is none. */
  window?: Window | undefined;
  chosen?: string | null;
  onChoose?: (key: string) => void;
  /** What can be done by hand; without it the score is only read. */
  edit?: Edit;
  /** Where a treatment is: seconds on the score, and what was felt. */
  playhead_s?: number;
  felt?: Record<string, Felt>;
  seen?: Record<string, Seen[]>;
  flags?: string[];
};

export function ScoreView(props: Props) {
  const { score, lane = 78, budget_s, window, chosen, onChoose, edit, playhead_s, felt, seen, flags = [] } = props;
  const svg = useRef<SVGSVGElement>(null);
  const clip = useId();
  const all: Window = { from_s: 0, to_s: Math.max(score.total_s, budget_s ?? 0, 60) * 1.01 };
  const { from_s, to_s } = window ?? all;
  const layout: Layout = {
    width: WIDTH,
    height: TOP + lane * LANES.length + FLOOR,
    left: LEFT,
    top: TOP,
    lane,
    from_s,
    scale: (WIDTH - LEFT - 10) / (to_s - from_s),
  };
  const { height } = layout;
  const x = xOf(layout);
  const sounding = score.stops.filter((stop) => !stop.muted);
  const shown = sounding.filter((stop) => stop.start_s + stop.duration_s > from_s && stop.start_s < to_s);
  const { drag, handle, landing } = useScoreDrag({ svg, layout, stops: sounding, edit, onChoose });

  return (
    <svg
      ref={svg}
      className={css.score}
      viewBox={`0 0 ${WIDTH} ${height}`}
      role="toolbar"
      aria-label={`Score of ${sounding.length} stops, ${Math.round(score.total_s / 60)} minutes`}
    >
      <Ground layout={layout} to_s={to_s} budget_s={budget_s} />
      <Turns layout={layout} stops={sounding} shown={shown} />
      <clipPath id={clip}>
        <rect x={LEFT - 1} y={0} width={WIDTH - LEFT} height={height} />
      </clipPath>
      <g clipPath={window ? `url(#${clip})` : undefined}>
        {shown.map((stop) => (
          <StopBlocks
            key={stop.key}
            layout={layout}
            stop={stop}
            standing={{
              chosen: stop.key === chosen,
              playing: playhead_s !== undefined && within(stop, playhead_s),
              lifted: landing !== null && drag?.stop.key === stop.key,
              tabbed: stop.key === chosen || (!chosen && stop === shown[0]),
              flagged: flags.includes(stop.key),
              felt: felt?.[stop.key],
              seen: seen?.[stop.key] ?? [],
            }}
            drag={drag}
            handle={handle}
            editable={edit !== undefined}
            onFocus={() => onChoose?.(stop.key)}
          />
        ))}
        <Names layout={layout} stops={shown} />
      </g>
      {drag && landing && <Ghost layout={layout} drag={drag} side={landing.side} />}
      {drag && <Ceiling drag={drag} x={x(drag.stop.start_s)} />}
      {landing?.before !== undefined && (
        <Gap at={x(startOf(landing.before, sounding) ?? score.total_s)} height={height} />
      )}
      {playhead_s !== undefined && (
        <line className={css.playhead} x1={x(playhead_s)} x2={x(playhead_s)} y1={4} y2={height - FLOOR + 6} />
      )}
    </svg>
  );
}

const within = (stop: Stop, at_s: number) => at_s >= stop.start_s && at_s < stop.start_s + stop.duration_s;
const startOf = (key: string | null, stops: Stop[]) => stops.find((stop) => stop.key === key)?.start_s;

/** Why a block goes no higher, said while a hand pulls at it. */
function Ceiling({ drag, x }: { drag: Drag; x: number }) {
  if (drag.kind !== "raise" || drag.level <= drag.stop.ceiling) return null;
  return (
    <text className={css.ceilingWords} x={Math.min(x, WIDTH - 420)} y={TOP - 6}>
      At most {drag.stop.ceiling}: {drag.stop.ceiling_reasons[0]}
    </text>
  );
}

/** Where a block that is moved will come to stand. */
const Gap = ({ at, height }: { at: number; height: number }) => (
  <line className={css.gap} x1={at - 3} x2={at - 3} y1={TOP - 8} y2={height - FLOOR} />
);
