/** Ground that is kept free on a figure: hatched over skin and cloth, with the reasons beside it. */
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import * as THREE from "three";
import type { Schema } from "../api/client";
import { keptFreeQuery } from "../api/queries";
import css from "./BodyView.module.css";
import type { Colours } from "./colours";

type Ground = Schema["GroundOut"];
const ABOVE_CM = 0.28; // over the cloth, below the marks
const APART_PX = 9;
const WIDE_PX = 2;
const NONE: Ground[] = [];

/** What is kept free on a person, rule by rule; nothing until it has been loaded. */
export function useKeptFree(personId: string): Ground[] {
  return useQuery(keptFreeQuery(personId)).data ?? NONE;
}

type Props = { grounds: Ground[]; geometry: THREE.BufferGeometry; paint: Colours; cut?: THREE.Plane[] };
const NO_CUT: THREE.Plane[] = [];

/** Hatching over all that is kept free, closer together over the place itself. */
export function KeptFree({ grounds, geometry, paint, cut = NO_CUT }: Props) {
  const covered = useMemo(() => cutOut(geometry, grounds), [geometry, grounds]);
  const material = useMemo(() => {
    const made = new THREE.MeshBasicMaterial({ color: paint.stop, clippingPlanes: cut });
    made.onBeforeCompile = (shader) => {
      shader.vertexShader = `attribute float ground;\nvarying float vGround;\n${shader.vertexShader}`.replace(
        "#include <begin_vertex>",
        `vec3 transformed = position + normal * ${ABOVE_CM};\n vGround = ground;`,
      );
      // Lines of the screen and not of the skin: they stay as wide from near and far, and cross no fold oddly.
      shader.fragmentShader = `varying float vGround;\n${shader.fragmentShader}`.replace(
        "#include <color_fragment>",
        `#include <color_fragment>
        if (vGround < 0.5) discard;
        float there = mod(gl_FragCoord.x + gl_FragCoord.y, ${APART_PX.toFixed(1)});
        float back = mod(gl_FragCoord.x - gl_FragCoord.y, ${APART_PX.toFixed(1)});
        if (there > ${WIDE_PX.toFixed(1)} && (vGround < 1.5 || back > ${WIDE_PX.toFixed(1)})) discard;`,
      );
    };
    return made;
  }, [paint.stop, cut]);
  return grounds.length > 0 ? <mesh geometry={covered} material={material} /> : null;
}

/** The triangles with a corner on kept ground. `ground`: 1 within a margin, 2 on the place itself. */
function cutOut(geometry: THREE.BufferGeometry, grounds: Ground[]): THREE.BufferGeometry {
  const ground = new Float32Array(geometry.getAttribute("position").count);
  for (const one of grounds) {
    for (const vertex of one.skin) ground[vertex] = Math.max(ground[vertex] ?? 0, 1);
    for (const vertex of one.at) ground[vertex] = 2;
  }
  const index = geometry.getIndex();
  const corners: number[] = [];
  for (let t = 0; t < (index?.count ?? 0); t += 3) {
    const of = [0, 1, 2].map((corner) => index?.getX(t + corner) ?? 0);
    if (of.some((vertex) => (ground[vertex] ?? 0) > 0)) corners.push(...of);
  }
  const made = new THREE.BufferGeometry();
  made.setAttribute("position", geometry.getAttribute("position"));
  made.setAttribute("normal", geometry.getAttribute("normal"));
  made.setAttribute("ground", new THREE.BufferAttribute(ground, 1));
  made.setIndex(corners);
  return made;
}

/** What the hatching means. */
export function KeptFreeWords({ grounds }: { grounds: Ground[] }) {
  if (grounds.length === 0) return null;
  return (
    <ul className={css.kept} aria-label="Areas left out">
      {grounds.map((one) => (
        <li key={one.rule} title={one.reason}>
          {one.short}
        </li>
      ))}
    </ul>
  );
}
