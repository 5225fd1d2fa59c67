/** The whole score in a strip, with the window that the view above shows: it can be dragged along. */
import { useDrag } from "@use-gesture/react";
import { useRef } from "react";
import type { Schema } from "../api/client";
import css from "./ScoreView.module.css";
import { blockHeight, blocksOf, LANES, outline, type Window } from "./shapes";

const WIDTH = 1200;
const LEFT = 66;
const LANE = 13;

type Props = { score: Schema["Score"]; budget_s: number; window: Window; onWindow: (middle_s: number) => void };

export function Overview({ score, budget_s, window, onWindow }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const span = Math.max(score.total_s, budget_s, 60) * 1.01;
  const scale = (WIDTH - LEFT - 10) / span;
  const bind = useDrag(({ xy: [x] }) => {
    const box = svg.current?.getBoundingClientRect();
    if (box) onWindow((((x - box.left) / box.width) * WIDTH - LEFT) / scale);
  });
  return (
    <svg
      {...bind()}
      ref={svg}
      className={css.overview}
      viewBox={`0 0 ${WIDTH} ${LANE * LANES.length + 4}`}
      role="img"
      aria-label="The whole score, with the part shown above"
    >
      {score.stops
        .filter((stop) => !stop.muted)
        .flatMap((stop) =>
          blocksOf(stop).map((block) => (
            <path
              key={`${stop.key}-${block.half}`}
              className={css.tiny}
              transform={`translate(${LEFT + block.start_s * scale} ${(LANES.indexOf(block.lane) + 1) * LANE})`}
              d={outline(stop.dose, block.duration_s * scale, blockHeight(LANE, stop.level))}
            />
          )),
        )}
      <rect
        className={css.window}
        x={LEFT + window.from_s * scale}
        y={1}
        width={(window.to_s - window.from_s) * scale}
        height={LANE * LANES.length + 2}
      />
    </svg>
  );
}
