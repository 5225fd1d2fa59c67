/** The figure itself: the skin as stone, with an ink contour. */
import { useMemo } from "react";
import * as THREE from "three";
import type { Colours } from "./colours";

const OUTLINE = 0.0017; // of the distance from the eye: a line of about one pixel and a half

/** The skin as stone, and behind it the same skin a hair wider in ink: its rim is the contour. */
export function Stone({
  geometry,
  paint,
  cut,
}: {
  geometry: THREE.BufferGeometry;
  paint: Colours;
  cut: THREE.Plane[];
}) {
  return (
    <>
      <mesh geometry={geometry}>
        <meshStandardMaterial color={paint.stone} roughness={1} metalness={0} clippingPlanes={cut} />
      </mesh>
      <Rim geometry={geometry} ink={paint.ink} cut={cut} />
    </>
  );
}

const NO_CUT: THREE.Plane[] = [];

/** The contour: the skin a hair wider, seen from inside, in ink. */
export function Rim({
  geometry,
  ink: colour,
  cut = NO_CUT,
}: {
  geometry: THREE.BufferGeometry;
  ink: string;
  cut?: THREE.Plane[];
}) {
  const ink = useMemo(() => {
    const material = new THREE.MeshBasicMaterial({ color: colour, side: THREE.BackSide, clippingPlanes: cut });
    material.onBeforeCompile = (shader) => {
      shader.vertexShader = shader.vertexShader.replace(
        "#include <begin_vertex>",
        `vec3 transformed = position + normal * ${OUTLINE} * length((modelViewMatrix * vec4(position, 1.0)).xyz);`,
      );
    };
    return material;
  }, [colour, cut]);
  return <mesh geometry={geometry} material={ink} />;
}
