/** Plain cloth over chest and hips, part of the stone; lifted only where the chosen place lies under it. */
import { useLocalStorage } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import * as THREE from "three";
import type { Schema } from "../api/client";
import type { Colours } from "./colours";
import { bytes } from "./skin";

type Located = Schema["Located"];
const STEPS_A_CM = 10; // how the server counts the depth of cloth
const THICK_CM = 0.2; // above the skin, and below the marks on it
const HEM_CM = 0.35;
const UNDER_CM = -0.5; // so near outside the hem a place is covered by a fold of it

/** Whether figures are draped on this desk. They are until somebody says otherwise. */
export const useDraped = () => useLocalStorage({ key: "acuthesis-draped", defaultValue: true });

const PIECES = ["chest", "hips"]; // in the order in which the server sends them

type Props = {
  geometry: THREE.BufferGeometry;
  located: Located | undefined;
  paint: Colours;
  cut: THREE.Plane[];
};

export function Clothes({ worn, geometry, located, paint, cut }: Props & { worn: string[] }) {
  const pieces = useCloth();
  return PIECES.map((name, piece) => {
    const depths = pieces[piece];
    if (!depths || !worn.includes(name)) return null;
    return <Piece key={name} geometry={geometry} depths={depths} located={located} paint={paint} cut={cut} />;
  });
}

/** How deep each vertex of the skin lies in the cloth over chest and hips, in steps; empty until it has been loaded. */
function useCloth(): Int8Array[] {
  const pieces = useQuery({
    queryKey: ["cloth"],
    queryFn: async () => {
      const both = new Int8Array(await bytes("/api/body/cloth"));
      return [both.subarray(0, both.length / 2), both.subarray(both.length / 2)];
    },
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: Number.POSITIVE_INFINITY,
  });
  return pieces.data ?? NO_CLOTH;
}
const NO_CLOTH: Int8Array[] = [];

/** The same of those pieces alone that are worn. */
export function useWorn(worn: string[]): Int8Array[] {
  const pieces = useCloth();
  return useMemo(() => pieces.filter((_, piece) => worn.includes(PIECES[piece] ?? "")), [pieces, worn]);
}

function Piece({ geometry, depths, located, paint, cut }: Props & { depths: Int8Array }) {
  const cloth = useMemo(() => cutOut(geometry, depths), [geometry, depths]);
  const lifted = useMemo(
    () => located !== undefined && depthAt(geometry, depths, located.position_cm) > UNDER_CM,
    [geometry, depths, located],
  );
  const material = useMemo(() => {
    const made = new THREE.MeshStandardMaterial({
      color: paint.cloth,
      roughness: 1,
      metalness: 0,
      clippingPlanes: cut,
    });
    made.onBeforeCompile = (shader) => {
      shader.vertexShader = `attribute float depth;\nvarying float vDepth;\n${shader.vertexShader}`.replace(
        "#include <begin_vertex>",
        `vec3 transformed = position + normal * ${THICK_CM};\n vDepth = depth;`,
      );
      shader.fragmentShader = `varying float vDepth;\n${shader.fragmentShader}`.replace(
        "#include <color_fragment>",
        `#include <color_fragment>\n if (vDepth < 0.0) discard;\n if (vDepth < ${HEM_CM}) diffuseColor.rgb *= 0.72;`,
      );
    };
    return made;
  }, [paint.cloth, cut]);
  return lifted ? null : <mesh geometry={cloth} material={material} />;
}

/** The triangles of the skin that a piece covers in part or whole, with the depth of each corner in cm. */
function cutOut(geometry: THREE.BufferGeometry, depths: Int8Array): THREE.BufferGeometry {
  const index = geometry.getIndex();
  const corners: number[] = [];
  for (let t = 0; t < (index?.count ?? 0); t += 3) {
    const of = [0, 1, 2].map((corner) => index?.getX(t + corner) ?? 0);
    if (of.some((vertex) => (depths[vertex] ?? -1) > 0)) corners.push(...of);
  }
  const made = new THREE.BufferGeometry();
  made.setAttribute("position", geometry.getAttribute("position"));
  made.setAttribute("normal", geometry.getAttribute("normal"));
  made.setAttribute(
    "depth",
    new THREE.BufferAttribute(
      Float32Array.from(depths, (steps) => steps / STEPS_A_CM),
      1,
    ),
  );
  made.setIndex(corners);
  return made;
}

/** How deep in a piece of cloth a place of the skin lies, cm; below zero outside it. */
export function depthAt(geometry: THREE.BufferGeometry, depths: Int8Array, [x = 0, y = 0, z = 0]: number[]): number {
  const places = geometry.getAttribute("position").array;
  let [nearest, best] = [0, Number.POSITIVE_INFINITY];
  for (let i = 0; i < places.length / 3; i++) {
    const away =
      ((places[3 * i] ?? 0) - x) ** 2 + ((places[3 * i + 1] ?? 0) - y) ** 2 + ((places[3 * i + 2] ?? 0) - z) ** 2;
    if (away < best) [nearest, best] = [i, away];
  }
  return (depths[nearest] ?? -STEPS_A_CM) / STEPS_A_CM;
}
