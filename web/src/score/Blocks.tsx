/** The blocks of a score: a stop as one shape a side, its name above it, and the shape that follows a hand. */
import { shortId, sideWords } from "../shared/words";
import { xOf } from "./Ground";
import css from "./ScoreView.module.css";
import {
  type Block,
  blockHeight,
  blockName,
  blocksOf,
  isPressed,
  LANES,
  type Lane,
  type Named,
  outline,
  placeNames,
  type Stop,
} from "./shapes";
import type { Drag, Layout, useScoreDrag } from "./useScoreDrag";

type Handle = ReturnType<typeof useScoreDrag>["handle"];
/** What was felt at a stop, 0 to 10. */
export type Felt = { first: number; last: number };
/** Something seen or said at a stop, by the group that says what follows from it. */
export type Seen = { name: string; group: string };

/** How a stop stands in the score now. */
export type Standing = {
  chosen: boolean;
  playing: boolean;
  lifted: boolean;
  /** It is the one that Tab comes to. */
  tabbed: boolean;
  flagged: boolean;
  felt: Felt | undefined;
  seen: Seen[];
};

type StopProps = {
  layout: Layout;
  stop: Stop;
  standing: Standing;
  drag: Drag | null;
  handle: Handle;
  editable: boolean;
  onFocus: () => void;
};

export function StopBlocks({ layout, stop, standing, drag, handle, editable, onFocus }: StopProps) {
  const mine = drag?.stop.key === stop.key ? drag : null;
  const level = mine?.kind === "raise" ? Math.min(mine.level, stop.ceiling) : stop.level;
  const stretched = mine?.kind === "stretch" ? (mine.at_s - mine.from_s) * layout.scale : 0;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a block of the drawing cannot be a button element
    <g
      className={css.stop}
      data-chosen={standing.chosen || undefined}
      data-now={standing.playing || undefined}
      data-dragged={standing.lifted || undefined}
      data-warned={(stop.warnings ?? []).length > 0 || undefined}
      data-key={stop.key}
      data-kind={stop.kind}
      role="button"
      tabIndex={standing.tabbed ? 0 : -1}
      aria-pressed={standing.chosen}
      aria-label={`${isPressed(stop) ? `${shortId(stop.id)}, ` : ""}${stop.name}, ${sideWords[stop.side]}, ${stop.dose_words}, level ${stop.level}${standing.felt ? `, sore ${feltWords(standing.felt)}` : ""}${standing.seen.map((one) => `, ${one.name.toLowerCase()}`).join("")}`}
      onFocus={onFocus}
    >
      {blocksOf(stop).map((block) => (
        <BlockShape
          key={block.half}
          layout={layout}
          block={block}
          level={level}
          width={block.duration_s * layout.scale + stretched / (inTurn(stop) ? 2 : 1)}
          standing={standing}
          handle={handle}
          editable={editable}
        />
      ))}
    </g>
  );
}

const feltWords = (felt: Felt) => (felt.first === felt.last ? `${felt.first}` : `${felt.first}→${felt.last}`);

const inTurn = (stop: Stop) => stop.side === "both" && !stop.dose.together;

type ShapeProps = {
  layout: Layout;
  block: Block;
  width: number;
  level: number;
  standing: Standing;
  handle: Handle;
  editable: boolean;
};

function BlockShape({ layout, block, width, level, standing, handle, editable }: ShapeProps) {
  const { stop, lane } = block;
  const { felt } = standing;
  const base = layout.top + (LANES.indexOf(lane) + 1) * layout.lane;
  const tall = blockHeight(layout.lane, level);
  const ceiling = blockHeight(layout.lane, stop.ceiling);
  return (
    <g transform={`translate(${xOf(layout)(block.start_s)} ${base})`}>
      <rect
        {...handle("move", stop)}
        className={css.hit}
        x={0}
        y={-layout.lane + 6}
        width={Math.max(width, 10)}
        height={layout.lane - 6}
      />
      <line className={css.ceiling} x1={0} x2={width} y1={-ceiling} y2={-ceiling} />
      <path className={shade(stop)} d={outline(stop.dose, width, tall)} />
      {(stop.warnings ?? []).length > 0 && <path className={css.warning} d={`M2 ${-tall + 3}h8l-4 7z`} />}
      {block.half < 2 && <SeenMarks seen={standing.seen} width={width} />}
      {standing.flagged && <path className={css.flag} d={`M${width / 2} ${-tall - 2}v-16l9 5l-9 5`} />}
      {felt && (
        // biome-ignore lint/a11y/noAriaHiddenOnFocusable: a text of a drawing takes no focus; the block says it itself
        <text className={css.felt} x={1} y={13} aria-hidden="true">
          {feltWords(felt)}
        </text>
      )}
      {editable && isPressed(stop) && (
        <rect
          {...handle("raise", stop)}
          className={css.top}
          x={2}
          y={-tall - 5}
          width={Math.max(width - 9, 4)}
          height={10}
        />
      )}
      {editable && (
        <rect
          {...handle("stretch", stop)}
          className={css.edge}
          x={Math.max(width - 5, 2)}
          y={-tall}
          width={8}
          height={tall}
        />
      )}
    </g>
  );
}

const MARK = 9;
/** A round for what goes well, a wedge for what asks for less, a square for what stops; the worst first. */
const SHAPE: Record<string, string> = {
  fine: "M0-3.2a3.2 3.2 0 1 0 .01 0z",
  lighten: "M-3.6-3h7.2l-3.6 6.4z",
  stop: "M-3.4-3.4h6.8v6.8h-6.8z",
};
const WORST = ["stop", "lighten", "fine"];

/** What was seen or said, at the foot of the block; as many as it is wide enough for. */
function SeenMarks({ seen, width }: { seen: Seen[]; width: number }) {
  const groups = [...new Set(seen.map((one) => one.group))].toSorted((a, b) => WORST.indexOf(a) - WORST.indexOf(b));
  return groups
    .slice(0, Math.max(Math.floor(width / MARK), 1))
    .map((group, n) => (
      <path
        key={group}
        className={css.seen}
        data-group={group}
        transform={`translate(${6 + n * MARK} -7) scale(1.25)`}
        d={SHAPE[group]}
      />
    ));
}

const shade = (stop: Stop) =>
  stop.kind === "close" ? css.fade : stop.kind === "rate" || stop.kind === "second_look" ? css.moment : css.block;

/** Names above the blocks: a layer of its own, as each block says its name to a screen reader already. */
export function Names({ layout, stops }: { layout: Layout; stops: Stop[] }) {
  const x = xOf(layout);
  const blocks = stops.flatMap((stop) =>
    blocksOf(stop).map((block): Named & { base: number; core: boolean } => ({
      key: `${stop.key}-${block.half}`,
      lane: block.lane,
      x: x(block.start_s),
      width: block.duration_s * layout.scale,
      height: blockHeight(layout.lane, stop.level),
      name: blockName(stop, shortId),
      base: layout.top + (LANES.indexOf(block.lane) + 1) * layout.lane,
      core: (stop.core_of ?? []).length > 0,
      weight: (stop.core_of ?? []).length > 0 ? 2 : isPressed(stop) ? 1 : 0,
    })),
  );
  const byKey = new Map(blocks.map((block) => [block.key, block]));
  const places = placeNames(blocks, layout.lane).flatMap((place) => {
    const block = byKey.get(place.key);
    return block ? [{ ...place, block, top: block.base + place.y }] : [];
  });
  return (
    <g aria-hidden>
      {places.map(
        ({ key, x: at, y, block, top }) =>
          -y > block.height + 6 && (
            <line
              key={key}
              className={css.nameLine}
              x1={at - 1}
              x2={at - 1}
              y1={top + 2}
              y2={block.base - block.height - 1}
            />
          ),
      )}
      {places.map(({ key, x: at, text, block, top }) => (
        <text key={key} className={css.name} data-core={block.core || undefined} x={at} y={top}>
          {text}
        </text>
      ))}
    </g>
  );
}

/** What moves, as it would look where the hand is; the block itself stays until it is let go. */
export function Ghost({ layout, drag, side }: { layout: Layout; drag: Drag; side: Lane | undefined }) {
  const { stop } = drag;
  // A stop of one side that is dropped on the middle lane is worked on both.
  const lanes: Lane[] =
    side === undefined ? blocksOf(stop).map((block) => block.lane) : side === "midline" ? ["right", "left"] : [side];
  const at = xOf(layout)(stop.start_s + drag.at_s - drag.from_s);
  const width = (stop.duration_s / (inTurn(stop) ? 2 : 1)) * layout.scale;
  return (
    <g className={css.ghost} aria-hidden>
      {lanes.map((one) => (
        <path
          key={one}
          transform={`translate(${at} ${layout.top + (LANES.indexOf(one) + 1) * layout.lane})`}
          d={outline(stop.dose, width, blockHeight(layout.lane, stop.level))}
        />
      ))}
    </g>
  );
}
