/** Words on the body: plain elements above the canvas that follow places in it. */
import { useFrame, useThree } from "@react-three/fiber";
import { useEffect } from "react";
import * as THREE from "three";
import css from "./BodyView.module.css";

export type Label = { text: string; at: number[]; strong?: boolean; focus?: boolean; number?: boolean; left?: boolean };

const APART_PX = 17;
const id = (index: number) => `body-label-${index}`;

export function Labels({ labels }: { labels: Label[] }) {
  return (
    <div className={css.labels} aria-hidden>
      {labels.map((label, index) => (
        <div
          // biome-ignore lint/suspicious/noArrayIndexKey: labels are positions in a fixed list, found again by index
          key={index}
          id={id(index)}
          className={css.label}
          data-strong={label.strong}
          data-focus={label.focus}
          data-number={label.number}
          data-left={label.left}
        >
          <span>{label.text}</span>
        </div>
      ))}
    </div>
  );
}

const place = new THREE.Vector3();

/** Inside the canvas: moves the labels with the camera. */
export function LabelTracker({ labels }: { labels: Label[] }) {
  const { camera, size, invalidate } = useThree();
  // biome-ignore lint/correctness/useExhaustiveDependencies: new labels need one more frame to find their places
  useEffect(() => invalidate(), [labels, invalidate]);
  useFrame(() => {
    const seen = labels.map((label, index) => {
      place.set(label.at[0] ?? 0, label.at[1] ?? 0, label.at[2] ?? 0).project(camera);
      const x = (place.x * 0.5 + 0.5) * size.width;
      const y = (0.5 - place.y * 0.5) * size.height;
      const inside = place.z < 1 && x > -20 && x < size.width + 20 && y > -20 && y < size.height + 20;
      return { label, index, x, y, inside };
    });
    // Names that stand on the same side are pushed apart, from the top down.
    const lowest: Record<string, number> = {};
    for (const { label, index, x, y, inside } of seen.toSorted((a, b) => a.y - b.y)) {
      const element = document.getElementById(id(index));
      if (!element) continue;
      element.style.display = inside ? "block" : "none";
      element.style.transform = `translate(${x}px, ${y}px)`;
      if (!inside || label.strong || label.number) continue;
      const column = label.left ? "left" : "right";
      const at = Math.max(y, (lowest[column] ?? Number.NEGATIVE_INFINITY) + APART_PX);
      lowest[column] = at;
      element.style.setProperty("--down", `${at - y}px`);
    }
  });
  return null;
}
