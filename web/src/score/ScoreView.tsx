/** The score: time to the right, a lane a side, a block a stop. It is read at a glance and edited by hand and by keys. */
import { type PointerEvent, useId, useRef, useState } from "react";
import type { Schema } from "../api/client";
import { positionWords, shortId, sideWords } from "../shared/words";
import css from "./ScoreView.module.css";
import {
  type Block,
  blockHeight,
  blockName,
  blocksOf,
  isPressed,
  LANES,
  type Lane,
  levelAt,
  outline,
  type Stop,
  type Window,
} from "./shapes";

const WIDTH = 1200;
const LEFT = 66;
const TOP = 30;
const FLOOR = 24;
/** From here on a pointer drags; below, it only touches. */
const STILL_PX = 6;

type Felt = Record<string, { first: number; last: number }>;
type Props = {
  score: Schema["Score"];
  /** Height of a lane in units of the drawing, which is 1200 wide. */
  lane?: number;
  budget_s?: number;
  /** The stretch of time that is shown; all of it where there is none. */
  window?: Window | undefined;
  chosen?: string | null;
  onChoose?: (key: string) => void;
  onMove?: (key: string, before: string | null) => void;
  onStretch?: (key: string, seconds: number) => void;
  onRaise?: (key: string, level: number) => void;
  onSide?: (key: string, lane: Lane) => void;
  /** Where a treatment is: seconds on the score, and what was felt. */
  playhead_s?: number;
  felt?: Felt;
  flags?: string[];
};

/** What a pointer is doing. `x`, `y`: where it began; `at`: the second it is over; `lane`: the lane it is over. */
type Drag = { kind: "move" | "stretch" | "raise"; key: string; x: number; at: number; level: number; lane: Lane };

export function ScoreView(props: Props) {
  const { score, lane = 78, budget_s, window, chosen, onChoose, playhead_s, felt, flags = [] } = props;
  const svg = useRef<SVGSVGElement>(null);
  const clip = useId();
  const [drag, setDrag] = useState<Drag | null>(null);
  const all = Math.max(score.total_s, budget_s ?? 0, 60) * 1.01;
  const { from_s, to_s } = window ?? { from_s: 0, to_s: all };
  const scale = (WIDTH - LEFT - 10) / (to_s - from_s);
  const height = TOP + lane * LANES.length + FLOOR;
  const x = (seconds: number) => LEFT + (seconds - from_s) * scale;
  const sounding = score.stops.filter((stop) => !stop.muted);
  const shown = sounding.filter((stop) => stop.start_s + stop.duration_s > from_s && stop.start_s < to_s);
  const dragged = sounding.find((stop) => stop.key === drag?.key);

  /** What is under a pointer. A level is read in the lane a drag began in, however far up the pointer goes. */
  const where = (event: PointerEvent, began?: Lane) => {
    const box = svg.current?.getBoundingClientRect();
    if (!box) return { at: 0, lane: "midline" as Lane, level: 1 };
    const px = ((event.clientX - box.left) / box.width) * WIDTH;
    const py = ((event.clientY - box.top) / box.height) * height - TOP;
    const row = Math.max(0, Math.min(LANES.length - 1, Math.floor(py / lane)));
    return {
      at: (px - LEFT) / scale + from_s,
      lane: LANES[row] ?? "midline",
      level: levelAt(lane, ((began ? LANES.indexOf(began) : row) + 1) * lane - py),
    };
  };
  const begin = (kind: Drag["kind"], key: string) => (event: PointerEvent) => {
    if (event.button !== 0) return;
    onChoose?.(key);
    if (!props.onMove && !props.onStretch) return;
    event.stopPropagation();
    svg.current?.setPointerCapture(event.pointerId);
    const here = where(event);
    setDrag({ kind, key, x: here.at, ...here });
  };
  const move = (event: PointerEvent) => {
    if (!drag) return;
    const raising = drag.kind === "raise" ? { lane: drag.lane } : {};
    setDrag({ ...drag, ...where(event, raising.lane), ...raising });
  };
  const drop = () => {
    if (drag && dragged) finish(drag, dragged);
    setDrag(null);
  };
  const finish = (done: Drag, stop: Stop) => {
    const moved = done.at - done.x;
    const far = Math.abs(moved) * scale > STILL_PX;
    if (done.kind === "raise") {
      const level = Math.min(done.level, stop.ceiling);
      if (level !== stop.level) props.onRaise?.(stop.key, level);
    } else if (done.kind === "stretch") {
      if (far) props.onStretch?.(stop.key, Math.max(stop.duration_s + moved, 1));
    } else if (otherLane(stop, done.lane)) props.onSide?.(stop.key, done.lane);
    else if (far) props.onMove?.(stop.key, dropBefore(sounding, done));
  };
  const moving = drag?.kind === "move" && dragged && Math.abs(drag.at - drag.x) * scale > STILL_PX;
  const aside = drag?.kind === "move" && dragged && otherLane(dragged, drag.lane);
  const gap = moving && !aside ? dropBefore(sounding, drag) : undefined;
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
      <Ground from_s={from_s} to_s={to_s} scale={scale} height={height} lane={lane} budget_s={budget_s} />
      <Turns stops={sounding} shown={shown} x={x} height={height} />
      <clipPath id={clip}>
        <rect x={LEFT - 1} y={0} width={WIDTH - LEFT} height={height} />
      </clipPath>
      <g clipPath={window ? `url(#${clip})` : undefined}>
        {shown.map((stop) => (
          // biome-ignore lint/a11y/useSemanticElements: a block of the drawing cannot be a button element
          <g
            key={stop.key}
            className={css.stop}
            data-chosen={stop.key === chosen || undefined}
            data-now={playhead_s !== undefined && within(stop, playhead_s) ? true : undefined}
            data-dragged={(drag?.key === stop.key && (moving || aside)) || undefined}
            data-warned={(stop.warnings ?? []).length > 0 || undefined}
            data-key={stop.key}
            data-kind={stop.kind}
            role="button"
            tabIndex={stop.key === chosen || (!chosen && stop === shown[0]) ? 0 : -1}
            aria-pressed={stop.key === chosen}
            aria-label={`${isPressed(stop) ? `${shortId(stop.id)}, ` : ""}${stop.name}, ${sideWords[stop.side]}, ${stop.dose_words}, level ${stop.level}`}
            onFocus={() => onChoose?.(stop.key)}
          >
            {blocksOf(stop).map((block) => (
              <BlockShape
                key={block.half}
                block={block}
                tall={lane}
                x={x(block.start_s)}
                level={
                  drag?.kind === "raise" && drag.key === stop.key ? Math.min(drag.level, stop.ceiling) : stop.level
                }
                width={
                  block.duration_s * scale +
                  (drag?.key === stop.key && drag.kind === "stretch"
                    ? ((drag.at - drag.x) * scale) / (block.half && !stop.dose.together ? 2 : 1)
                    : 0)
                }
                felt={felt?.[stop.key]}
                flag={flags.includes(stop.key)}
                onPress={begin("move", stop.key)}
                onEdge={props.onStretch && begin("stretch", stop.key)}
                onTop={props.onRaise && isPressed(stop) ? begin("raise", stop.key) : undefined}
              />
            ))}
          </g>
        ))}
        <Names stops={shown} x={x} scale={scale} lane={lane} />
      </g>
      {(moving || aside) && dragged && (
        <Ghost
          stop={dragged}
          lane={aside ? drag.lane : undefined}
          x={x(dragged.start_s) + (drag.at - drag.x) * scale}
          scale={scale}
          tall={lane}
        />
      )}
      {drag?.kind === "raise" && dragged && drag.level > dragged.ceiling && (
        <text className={css.ceilingWords} x={Math.min(x(dragged.start_s), WIDTH - 420)} y={TOP - 6}>
          At most {dragged.ceiling}: {dragged.ceiling_reasons[0]}
        </text>
      )}
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

/** Whether a lane is another side for a stop that has sides. */
const otherLane = (stop: Stop, lane: Lane) =>
  isPressed(stop) && stop.side !== "midline" && (stop.side === "both" ? lane === "midline" : lane !== stop.side);

/** The stop before which a dragged one would land; null for the end. */
function dropBefore(stops: Stop[], drag: { key: string; at: number }): string | null {
  const others = stops.filter((stop) => stop.key !== drag.key);
  return others.find((stop) => stop.start_s + stop.duration_s / 2 > drag.at)?.key ?? null;
}

/** What moves, as it would look where the hand is; the block itself stays until it is let go. */
function Ghost({
  stop,
  lane,
  x,
  scale,
  tall,
}: {
  stop: Stop;
  lane: Lane | undefined;
  x: number;
  scale: number;
  tall: number;
}) {
  // A stop of one side that is dropped on the middle lane is worked on both.
  const lanes: Lane[] =
    lane === undefined ? blocksOf(stop).map((block) => block.lane) : lane === "midline" ? ["right", "left"] : [lane];
  return (
    <g className={css.ghost} aria-hidden>
      {lanes.map((one) => (
        <path
          key={one}
          transform={`translate(${x} ${TOP + (LANES.indexOf(one) + 1) * tall})`}
          d={outline(
            stop.dose,
            (stop.duration_s / (stop.side === "both" && !stop.dose.together ? 2 : 1)) * scale,
            blockHeight(tall, stop.level),
          )}
        />
      ))}
    </g>
  );
}

type GroundProps = {
  from_s: number;
  to_s: number;
  scale: number;
  height: number;
  lane: number;
  budget_s: number | undefined;
};

function Ground({ from_s, to_s, scale, height, lane: tall, budget_s }: GroundProps) {
  const span = to_s - from_s;
  const every = span > 2400 ? 10 : span > 900 ? 5 : 1;
  const first = Math.ceil(from_s / 60 / every) * every;
  const minutes = Array.from(
    { length: Math.max(0, Math.floor((to_s / 60 - first) / every) + 1) },
    (_, i) => first + i * every,
  );
  const x = (seconds: number) => LEFT + (seconds - from_s) * scale;
  const names: Record<Lane, string> = { right: "right", midline: "middle", left: "left" };
  return (
    <g className={css.ground}>
      {LANES.map((lane, row) => (
        <g key={lane}>
          <line x1={LEFT} x2={WIDTH - 6} y1={TOP + (row + 1) * tall} y2={TOP + (row + 1) * tall} />
          <text x={2} y={TOP + (row + 0.62) * tall}>
            {names[lane]}
          </text>
        </g>
      ))}
      {minutes.map((minute) => (
        <g key={minute}>
          <line className={css.minute} x1={x(minute * 60)} x2={x(minute * 60)} y1={TOP} y2={height - FLOOR} />
          <text className={css.figures} x={x(minute * 60) + 2} y={height - 6}>
            {minute}
          </text>
        </g>
      ))}
      {budget_s && budget_s <= to_s && (
        <g>
          <line className={css.budget} x1={x(budget_s)} x2={x(budget_s)} y1={TOP - 6} y2={height - FLOOR + 4} />
          <text className={css.budgetText} x={x(budget_s) - 4} y={TOP - 10} textAnchor="end">
            {Math.round(budget_s / 60)} min
          </text>
        </g>
      )}
    </g>
  );
}

type TurnsProps = { stops: Stop[]; shown: Stop[]; x: (s: number) => number; height: number };

/** Changes of position are bar lines. */
function Turns({ stops, shown, x, height }: TurnsProps) {
  return (
    <g className={css.turns}>
      {shown.map((stop) => {
        const before = stops[stops.indexOf(stop) - 1];
        const first = stop === shown[0];
        if (before && before.position === stop.position && !first) return null;
        const turned = before && before.position !== stop.position;
        const at = Math.max(x(stop.start_s) - (turned ? 4 : 0), LEFT);
        return (
          <g key={stop.key}>
            {turned && <line x1={at} x2={at} y1={TOP - 14} y2={height - FLOOR} />}
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
          const name = blockName(stop, shortId);
          const y = TOP + (LANES.indexOf(block.lane) + 1) * lane - blockHeight(lane, stop.level) - 4;
          const flat = width > name.length * 7.2;
          const place = `translate(${x(block.start_s) + (flat ? 3 : Math.min(width / 2 + 4, 14))} ${y})`;
          return (
            <text
              key={`${stop.key}-${block.half}`}
              className={css.name}
              transform={`${place} rotate(${flat ? 0 : -52})`}
            >
              {flat || name.length <= 9 ? name : `${name.slice(0, 8)}…`}
            </text>
          );
        }),
      )}
    </g>
  );
}

type ShapeProps = {
  block: Block;
  tall: number;
  x: number;
  width: number;
  level: number;
  felt: { first: number; last: number } | undefined;
  flag: boolean;
  onPress: (event: PointerEvent) => void;
  onEdge: ((event: PointerEvent) => void) | undefined;
  onTop: ((event: PointerEvent) => void) | undefined;
};

function BlockShape({ block, tall: lane_height, x, width, level, felt, flag, onPress, onEdge, onTop }: ShapeProps) {
  const { stop, lane } = block;
  const base = TOP + (LANES.indexOf(lane) + 1) * lane_height;
  const tall = blockHeight(lane_height, level);
  const ceiling = blockHeight(lane_height, stop.ceiling);
  const faint =
    stop.kind === "close" ? css.fade : stop.kind === "rate" || stop.kind === "second_look" ? css.moment : css.block;
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
      <path className={faint} d={outline(stop.dose, width, tall)} />
      {(stop.warnings ?? []).length > 0 && <path className={css.warning} d={`M2 ${-tall + 3}h8l-4 7z`} />}
      {flag && <path className={css.flag} d={`M${width / 2} ${-tall - 2}v-16l9 5l-9 5`} />}
      {felt && (
        <text className={css.felt} x={1} y={13}>
          {felt.first === felt.last ? felt.first : `${felt.first}→${felt.last}`}
        </text>
      )}
      {onTop && (
        <rect
          className={css.top}
          x={2}
          y={-tall - 5}
          width={Math.max(width - 9, 4)}
          height={10}
          onPointerDown={onTop}
        />
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
