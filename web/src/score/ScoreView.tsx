/** The score: time to the right, a lane a side, a block a stop. It is read at a glance and edited by hand and by keys. */
import { type PointerEvent, useRef, useState } from "react";
import type { Schema } from "../api/client";
import { positionWords, shortId, sideWords } from "../shared/words";
import css from "./ScoreView.module.css";
import { type Block, blocksOf, doseWords, LANES, LEVELS, outline, type Stop } from "./shapes";

const WIDTH = 1200;
const LEFT = 66;
const TOP = 30;
const FLOOR = 24;

type Felt = Record<string, { first: number; last: number }>;
type Props = {
  score: Schema["Score"];
  /** Height of a lane in units of the drawing, which is 1200 wide. */
  lane?: number;
  budget_s?: number;
  chosen?: string | null;
  onChoose?: (key: string) => void;
  onMove?: (key: string, before: string | null) => void;
  onStretch?: (key: string, seconds: number) => void;
  /** Where a treatment is: seconds on the score, and what was felt. */
  playhead_s?: number;
  felt?: Felt;
  flags?: string[];
};
type Drag = { kind: "move" | "stretch"; key: string; x: number; at: number } | null;

export function ScoreView(props: Props) {
  const { score, lane = 78, budget_s, chosen, onChoose, onMove, onStretch, playhead_s, felt, flags = [] } = props;
  const svg = useRef<SVGSVGElement>(null);
  const [drag, setDrag] = useState<Drag>(null);
  const span = Math.max(score.total_s, budget_s ?? 0, 60) * 1.01;
  const scale = (WIDTH - LEFT - 10) / span;
  const height = TOP + lane * LANES.length + FLOOR;
  const x = (seconds: number) => LEFT + seconds * scale;
  const sounding = score.stops.filter((stop) => !stop.muted);

  const seconds = (event: PointerEvent) => {
    const box = svg.current?.getBoundingClientRect();
    return box ? (((event.clientX - box.left) / box.width) * WIDTH) / scale - LEFT / scale : 0;
  };
  const begin = (kind: "move" | "stretch", key: string) => (event: PointerEvent) => {
    if (event.button !== 0) return;
    onChoose?.(key);
    if (!onMove && !onStretch) return;
    event.stopPropagation();
    svg.current?.setPointerCapture(event.pointerId);
    const at = seconds(event);
    setDrag({ kind, key, x: at, at });
  };
  const move = (event: PointerEvent) => drag && setDrag({ ...drag, at: seconds(event) });
  const drop = () => {
    if (!drag) return;
    const stop = score.stops.find((one) => one.key === drag.key);
    const moved = drag.at - drag.x;
    if (stop && Math.abs(moved) * scale > 6) {
      if (drag.kind === "stretch") onStretch?.(drag.key, Math.max(stop.duration_s + moved, 1));
      else onMove?.(drag.key, dropBefore(sounding, drag));
    }
    setDrag(null);
  };
  const gap = drag?.kind === "move" ? dropBefore(sounding, drag) : undefined;
  const gapAt =
    gap === undefined ? null : gap === null ? score.total_s : (sounding.find((s) => s.key === gap)?.start_s ?? 0);

  return (
    <svg
      ref={svg}
      className={css.score}
      viewBox={`0 0 ${WIDTH} ${height}`}
      onPointerMove={move}
      onPointerUp={drop}
      onPointerCancel={() => setDrag(null)}
      role="toolbar"
      aria-label={`Score of ${sounding.length} stops, ${Math.round(score.total_s / 60)} minutes`}
    >
      <Ground span={span} scale={scale} height={height} lane={lane} budget_s={budget_s} />
      <Turns stops={sounding} x={x} height={height} />
      {sounding.map((stop) => (
        // biome-ignore lint/a11y/useSemanticElements: a block of the drawing cannot be a button element
        <g
          key={stop.key}
          className={css.stop}
          data-chosen={stop.key === chosen || undefined}
          data-now={playhead_s !== undefined && within(stop, playhead_s) ? true : undefined}
          data-dragged={drag?.key === stop.key || undefined}
          data-key={stop.key}
          role="button"
          tabIndex={stop.key === chosen || (!chosen && stop === sounding[0]) ? 0 : -1}
          aria-pressed={stop.key === chosen}
          aria-label={`${stop.kind === "point" || stop.kind === "area" ? `${shortId(stop.id)}, ` : ""}${stop.name}, ${sideWords[stop.side]}, ${doseWords(stop.dose)}, level ${stop.level}`}
          onFocus={() => onChoose?.(stop.key)}
          transform={
            drag?.key === stop.key && drag.kind === "move" ? `translate(${(drag.at - drag.x) * scale} 0)` : undefined
          }
        >
          {blocksOf(stop).map((block) => (
            <BlockShape
              key={block.half}
              block={block}
              tall={lane}
              x={x(block.start_s)}
              width={
                block.duration_s * scale +
                (drag?.key === stop.key && drag.kind === "stretch"
                  ? ((drag.at - drag.x) * scale) / (block.half ? 2 : 1)
                  : 0)
              }
              felt={felt?.[stop.key]}
              flag={flags.includes(stop.key)}
              onPress={begin("move", stop.key)}
              onEdge={onStretch && begin("stretch", stop.key)}
            />
          ))}
        </g>
      ))}
      <Names stops={sounding.filter((stop) => stop.key !== drag?.key)} x={x} scale={scale} lane={lane} />
      {gapAt !== null && (
        <line className={css.gap} x1={x(gapAt) - 3} x2={x(gapAt) - 3} y1={TOP - 8} y2={height - FLOOR} />
      )}
      {playhead_s !== undefined && (
        <line className={css.playhead} x1={x(playhead_s)} x2={x(playhead_s)} y1={4} y2={height - FLOOR + 6} />
      )}
    </svg>
  );
}

const within = (stop: Stop, at: number) => at >= stop.start_s && at < stop.start_s + stop.duration_s;

/** The stop before which a dragged one would land; null for the end. */
function dropBefore(stops: Stop[], drag: { key: string; at: number }): string | null {
  const others = stops.filter((stop) => stop.key !== drag.key);
  return others.find((stop) => stop.start_s + stop.duration_s / 2 > drag.at)?.key ?? null;
}

type GroundProps = { span: number; scale: number; height: number; lane: number; budget_s: number | undefined };

function Ground({ span, scale, height, lane: tall, budget_s }: GroundProps) {
  const every = span > 2400 ? 10 : span > 900 ? 5 : 1;
  const minutes = Array.from({ length: Math.floor(span / 60 / every) + 1 }, (_, i) => i * every);
  return (
    <g className={css.ground}>
      {LANES.map((lane, row) => (
        <g key={lane}>
          <line x1={LEFT} x2={WIDTH - 6} y1={TOP + (row + 1) * tall} y2={TOP + (row + 1) * tall} />
          <text x={2} y={TOP + (row + 0.62) * tall}>
            {lane === "midline" ? "middle" : lane}
          </text>
        </g>
      ))}
      {minutes.map((minute) => (
        <g key={minute}>
          <line
            className={css.minute}
            x1={LEFT + minute * 60 * scale}
            x2={LEFT + minute * 60 * scale}
            y1={TOP}
            y2={height - FLOOR}
          />
          <text className={css.figures} x={LEFT + minute * 60 * scale + 2} y={height - 6}>
            {minute}
          </text>
        </g>
      ))}
      {budget_s && (
        <g>
          <line
            className={css.budget}
            x1={LEFT + budget_s * scale}
            x2={LEFT + budget_s * scale}
            y1={TOP - 6}
            y2={height - FLOOR + 4}
          />
          <text className={css.budgetText} x={LEFT + budget_s * scale - 4} y={TOP - 10} textAnchor="end">
            {Math.round(budget_s / 60)} min
          </text>
        </g>
      )}
    </g>
  );
}

/** Changes of position are bar lines. */
function Turns({ stops, x, height }: { stops: Stop[]; x: (s: number) => number; height: number }) {
  return (
    <g className={css.turns}>
      {stops.map((stop, index) => {
        const before = stops[index - 1];
        if (before && before.position === stop.position) return null;
        const at = x(stop.start_s) - (before ? 4 : 0);
        return (
          <g key={stop.key}>
            {before && <line x1={at} x2={at} y1={TOP - 14} y2={height - FLOOR} />}
            <text x={at + 4} y={TOP - 16}>
              {positionWords[stop.position]}
            </text>
          </g>
        );
      })}
    </g>
  );
}

/** Names above the blocks: a layer of its own, as each block says its name to a screen reader already. */
function Names({ stops, x, scale, lane }: { stops: Stop[]; x: (s: number) => number; scale: number; lane: number }) {
  return (
    <g aria-hidden>
      {stops.flatMap((stop) =>
        blocksOf(stop).map((block) => {
          const width = block.duration_s * scale;
          const y = TOP + (LANES.indexOf(block.lane) + 1) * lane - blockHeight(lane, stop.level) - 4;
          const place = `translate(${x(block.start_s) + Math.min(width / 2 + 4, 14)} ${y})`;
          return (
            <text
              key={`${stop.key}-${block.half}`}
              className={css.name}
              transform={`${place} rotate(${width > 70 ? 0 : -52})`}
            >
              {stop.kind === "breathe" || stop.kind === "close" ? stop.kind : shortId(stop.id)}
            </text>
          );
        }),
      )}
    </g>
  );
}

/** Height of a block at a level: pressure is height. */
const blockHeight = (lane: number, level: number) => (lane * 0.66 * level) / LEVELS + 3;

type ShapeProps = {
  block: Block;
  tall: number;
  x: number;
  width: number;
  felt: { first: number; last: number } | undefined;
  flag: boolean;
  onPress: (event: PointerEvent) => void;
  onEdge: ((event: PointerEvent) => void) | undefined;
};

function BlockShape({ block, tall: lane_height, x, width, felt, flag, onPress, onEdge }: ShapeProps) {
  const { stop, lane } = block;
  const base = TOP + (LANES.indexOf(lane) + 1) * lane_height;
  const tall = blockHeight(lane_height, stop.level);
  const ceiling = blockHeight(lane_height, stop.ceiling);
  return (
    <g transform={`translate(${x} ${base})`}>
      <rect
        className={css.hit}
        x={0}
        y={-lane_height + 6}
        width={Math.max(width, 10)}
        height={lane_height - 6}
        onPointerDown={onPress}
      />
      <line className={css.ceiling} x1={0} x2={width} y1={-ceiling} y2={-ceiling} />
      <path className={stop.kind === "close" ? css.fade : css.block} d={outline(stop.dose, width, tall)} />
      {flag && <path className={css.flag} d={`M${width / 2} ${-tall - 2}v-16l9 5l-9 5`} />}
      {felt && (
        <text className={css.felt} x={1} y={13}>
          {felt.first === felt.last ? felt.first : `${felt.first}→${felt.last}`}
        </text>
      )}
      {onEdge && (
        <rect
          className={css.edge}
          x={Math.max(width - 5, 2)}
          y={-tall}
          width={8}
          height={tall}
          onPointerDown={onEdge}
        />
      )}
    </g>
  );
}
