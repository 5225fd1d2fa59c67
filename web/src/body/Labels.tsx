/** Words on the body: plain elements above the canvas, placed so that none covers another, with a line to what they name. */
import { useFrame, useThree } from "@react-three/fiber";
import { useEffect } from "react";
import * as THREE from "three";
import { SoreRing } from "../shared/parts";
import css from "./BodyView.module.css";
import { around, type Box, nearestOf, placeNames } from "./placing";

/**
 * `strong`: the chosen place. `focus`: what a step asks to find. `number`: a stop on the way of the hands. `quiet`: one of
 * many areas, named only where it faces the eye and there is room. `ring`: a sore place with its numbers.
 */
export type Label = {
  text: string;
  at: number[];
  normal?: number[];
  strong?: boolean;
  focus?: boolean;
  number?: boolean;
  quiet?: boolean;
  /** Soreness there, first and last. */
  ring?: [number, number];
};

const CHOSEN_PX = 15; // what stays free around the chosen place
const MARK_PX = 5; // and around every other
const FACING = 0.45; // less, and what stands before it may hide it
const SHORT_PX = 12; // a name that stands so near needs no line
const id = (index: number) => `body-label-${index}`;
const lineId = (index: number) => `body-label-line-${index}`;

export function Labels({ labels }: { labels: Label[] }) {
  return (
    <div className={css.labels} aria-hidden>
      <svg className={css.leaders} aria-hidden>
        {labels.map((_, index) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: lines are positions in a fixed list, found again by index
          <line key={index} id={lineId(index)} />
        ))}
      </svg>
      {labels.map((label, index) => (
        <div
          // biome-ignore lint/suspicious/noArrayIndexKey: labels are positions in a fixed list, found again by index
          key={index}
          id={id(index)}
          className={css.label}
          data-strong={label.strong}
          data-focus={label.focus}
          data-number={label.number}
          data-quiet={label.quiet}
        >
          <span>
            {label.text}
            {label.ring && (
              <>
                {" "}
                <SoreRing value={label.ring[0]} size={24} /> → <SoreRing value={label.ring[1]} size={24} />
              </>
            )}
          </span>
        </div>
      ))}
    </div>
  );
}

/** Whether what a label names faces the eye; what has no side of its own always does. */
function facing({ at, normal }: Label, camera: THREE.Camera): boolean {
  if (!normal) return true;
  const toEye = camera.position
    .clone()
    .sub(new THREE.Vector3(at[0], at[1], at[2]))
    .normalize();
  return toEye.dot(new THREE.Vector3(normal[0], normal[1], normal[2])) > FACING;
}

type Seen = { label: Label; index: number; x: number; y: number; inside: boolean };
const place = new THREE.Vector3();

/** Inside the canvas: places the names where the camera sees what they name. */
export function LabelTracker({ labels, codes }: { labels: Label[]; codes: { current: Box[] } }) {
  const { camera, size, invalidate } = useThree();
  // biome-ignore lint/correctness/useExhaustiveDependencies: new labels need one more frame to find their places
  useEffect(() => invalidate(), [labels, invalidate]);
  useFrame(() => {
    const seen = labels.map((label, index): Seen => {
      place.set(label.at[0] ?? 0, label.at[1] ?? 0, label.at[2] ?? 0).project(camera);
      const [x, y] = [(place.x * 0.5 + 0.5) * size.width, (0.5 - place.y * 0.5) * size.height];
      const inside =
        place.z < 1 && x > -20 && x < size.width + 20 && y > -20 && y < size.height + 20 && facing(label, camera);
      return { label, index, x, y, inside };
    });
    for (const { index, x, y, inside } of seen) {
      const element = document.getElementById(id(index));
      if (!element) continue;
      element.style.display = inside ? "block" : "none";
      element.style.transform = `translate(${x}px, ${y}px)`;
    }
    arrange(
      seen.filter((one) => one.inside),
      codes.current,
      size,
    );
  });
  return null;
}

/** Stand the names beside their places: the chosen one first, then what is looked for, then the others from the top. */
function arrange(seen: Seen[], codes: Box[], view: { width: number; height: number }) {
  const rank = ({ label }: Seen) => (label.strong ? 0 : label.focus ? 1 : label.quiet ? 4 : label.number ? 2 : 3);
  const inTurn = seen.toSorted((a, b) => rank(a) - rank(b) || a.y - b.y);
  const spans = inTurn.map(({ index }) => document.getElementById(id(index))?.querySelector("span"));
  const boxes = placeNames(
    inTurn.map(({ x, y, label }, n) => ({
      x,
      y,
      width: spans[n]?.offsetWidth ?? 0,
      height: spans[n]?.offsetHeight ?? 0,
      within: label.quiet ?? false,
    })),
    [
      ...codes,
      ...inTurn
        .filter(({ label }) => !label.quiet)
        .map(({ label, x, y }) => around(x, y, label.strong ? CHOSEN_PX : MARK_PX)),
    ],
    view,
  );
  inTurn.forEach(({ index, x, y, label }, n) => {
    const [box, span, line] = [boxes[n], spans[n], document.getElementById(lineId(index))];
    if (!span || !line) return;
    span.style.visibility = box ? "visible" : "hidden";
    line.style.display = "none";
    if (!box) return;
    span.style.transform = `translate(${box.x - x}px, ${box.y - y}px)`;
    const [toX, toY] = nearestOf(box, x, y);
    const near = label.quiet ? 0.5 : SHORT_PX; // in a crowd of areas only a name on its own needs no line
    if (label.strong || Math.hypot(toX - x, toY - y) < near) return;
    line.style.display = "block";
    for (const [name, value] of Object.entries({ x1: x, y1: y, x2: toX, y2: toY })) line.setAttribute(name, `${value}`);
  });
}
