/** Dragging on the score: what a hand does to a block, where it would land, and what comes of letting go. */
import { useDrag } from "@use-gesture/react";
import { type RefObject, useState } from "react";
import { isPressed, LANES, type Lane, levelAt, type Stop } from "./shapes";

/** From here on a pointer drags; below, it only touches. */
const STILL_PX = 6;

/** What can be done to a score by hand. */
export type Edit = {
  move: (key: string, before: string | null) => void;
  stretch: (key: string, seconds: number) => void;
  raise: (key: string, level: number) => void;
  side: (key: string, lane: Lane) => void;
};

/** How the drawing is laid: pixels of its own from its corner. `scale`: pixels a second. */
export type Layout = {
  width: number;
  height: number;
  left: number;
  top: number;
  lane: number;
  from_s: number;
  scale: number;
};

type Kind = "move" | "stretch" | "raise";
/** A drag under way. `from_s`: the second it began at; `at_s`, `lane`, `level`: what the pointer is over. */
export type Drag = { kind: Kind; stop: Stop; from_s: number; at_s: number; lane: Lane; level: number };

type Options = {
  svg: RefObject<SVGSVGElement | null>;
  layout: Layout;
  /** The stops that sound, in their order. */
  stops: Stop[];
  edit: Edit | undefined;
  onChoose: ((key: string) => void) | undefined;
};

export function useScoreDrag({ svg, layout, stops, edit, onChoose }: Options) {
  const [drag, setDrag] = useState<Drag | null>(null);
  const under = (clientX: number, clientY: number, began?: Lane) => {
    const box = svg.current?.getBoundingClientRect();
    if (!box) return null;
    const x = ((clientX - box.left) / box.width) * layout.width;
    const y = ((clientY - box.top) / box.height) * layout.height - layout.top;
    const row = Math.max(0, Math.min(LANES.length - 1, Math.floor(y / layout.lane)));
    // A level is read in the lane a drag began in, however far up the pointer goes.
    const lane = began ?? LANES[row] ?? "midline";
    return {
      at_s: (x - layout.left) / layout.scale + layout.from_s,
      lane,
      level: levelAt(layout.lane, (LANES.indexOf(lane) + 1) * layout.lane - y),
    };
  };
  // What a drag has come to is handed from event to event: pointers are faster than pictures.
  const bind = useDrag<PointerEvent>(({ args, first, last, canceled, event, xy: [x, y], memo }) => {
    const [kind, stop] = args as [Kind, Stop];
    if (first) {
      event.stopPropagation();
      onChoose?.(stop.key);
    }
    const before = memo as Drag | undefined;
    const place = edit && under(x, y, kind === "raise" ? before?.lane : undefined);
    if (!place) return before;
    const now: Drag = before ? { ...before, ...place } : { kind, stop, from_s: place.at_s, ...place };
    if (last && !canceled) finish(now, stops, layout.scale, edit);
    setDrag(last ? null : now);
    return now;
  });
  const handle = (kind: Kind, stop: Stop) => bind(kind, stop);
  return { drag, handle, landing: drag && landing(drag, stops, layout.scale) };
}

const isFar = (drag: Drag, scale: number) => Math.abs(drag.at_s - drag.from_s) * scale > STILL_PX;

/** Where a block that is moved would land: on another side, or before a stop (null: at the end). */
type Landing = { side: Lane; before?: undefined } | { side?: undefined; before: string | null };

function landing(drag: Drag, stops: Stop[], scale: number): Landing | null {
  if (drag.kind !== "move") return null;
  if (isOtherSide(drag.stop, drag.lane)) return { side: drag.lane };
  return isFar(drag, scale) ? { before: dropBefore(stops, drag) } : null;
}

function finish(drag: Drag, stops: Stop[], scale: number, edit: Edit) {
  const { kind, stop } = drag;
  const to = landing(drag, stops, scale);
  if (kind === "raise") {
    const level = Math.min(drag.level, stop.ceiling);
    if (level !== stop.level) edit.raise(stop.key, level);
  } else if (kind === "stretch") {
    if (isFar(drag, scale)) edit.stretch(stop.key, Math.max(stop.duration_s + drag.at_s - drag.from_s, 1));
  } else if (to?.side) edit.side(stop.key, to.side);
  else if (to?.before !== undefined) edit.move(stop.key, to.before);
}

/** Whether a lane is another side for a stop that has sides. */
const isOtherSide = (stop: Stop, lane: Lane) =>
  isPressed(stop) && stop.side !== "midline" && (stop.side === "both" ? lane === "midline" : lane !== stop.side);

/** The stop before which a dragged one would land; null for the end. */
function dropBefore(stops: Stop[], drag: Drag): string | null {
  const others = stops.filter((stop) => stop.key !== drag.stop.key);
  return others.find((stop) => stop.start_s + stop.duration_s / 2 > drag.at_s)?.key ?? null;
}
