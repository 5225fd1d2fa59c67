/** Lines on the body: a measured segment, a channel or tape along the skin, the way of the hands; and what was found. */
import { useMemo } from "react";
import * as THREE from "three";
import type { Colours } from "./colours";
import { type Triple, ticks, vector } from "./view";

type SegmentProps = { path: Triple[]; cun: number; cunCm: number; normal: Triple; paint: Colours };

/** A proportional segment with a tick at every cun, drawn through the skin. */
export function SegmentLine({ path, cun, cunCm, normal, paint }: SegmentProps) {
  const line = useMemo(() => {
    const along = path.flatMap((place, index) => {
      const next = path[index + 1];
      return next ? [...place, ...next] : [];
    });
    const lines = new Float32Array([...along, ...ticks(path, cun, cunCm, normal)]);
    return new THREE.BufferGeometry().setAttribute("position", new THREE.BufferAttribute(lines, 3));
  }, [path, cun, cunCm, normal]);
  return (
    <lineSegments geometry={line} renderOrder={3}>
      <lineBasicMaterial color={paint.line} depthTest={false} transparent fog={false} />
    </lineSegments>
  );
}

const NO_CUT: THREE.Plane[] = [];

/** A line along the skin: a channel, or the tape from a landmark to the place; broken where it begins anew. */
export function SkinLine({
  branches,
  paint,
  dashed = false,
  faint = false,
  cut = NO_CUT,
}: {
  branches: Triple[][];
  paint: Colours;
  dashed?: boolean;
  /** A bone that shows through the skin, and no line that anything is found by. */
  faint?: boolean;
  cut?: THREE.Plane[];
}) {
  const lines = useMemo(
    () =>
      branches.map((branch) => {
        const geometry = new THREE.BufferGeometry().setFromPoints(branch.map(vector));
        const material = dashed
          ? new THREE.LineDashedMaterial({ color: paint.now, dashSize: 0.5, gapSize: 0.35, fog: false })
          : new THREE.LineBasicMaterial({
              color: paint.line,
              transparent: true,
              opacity: faint ? 0.32 : 0.7,
              fog: false,
              clippingPlanes: cut,
            });
        // A hair nearer to the eye than the skin that it lies on, and still hidden behind the body.
        material.onBeforeCompile = (shader) => {
          shader.vertexShader = shader.vertexShader.replace(
            "#include <project_vertex>",
            "#include <project_vertex>\n gl_Position.z -= 0.0016 * gl_Position.w;",
          );
        };
        const line = new THREE.Line(geometry, material);
        line.computeLineDistances();
        line.renderOrder = 3;
        return line;
      }),
    [branches, paint.line, paint.now, dashed, faint, cut],
  );
  return lines.map((line) => <primitive key={line.uuid} object={line} />);
}

/** Where hands found a place: a lozenge beside the rule's dot. */
export function Found({ places, paint, size }: { places: Triple[]; paint: Colours; size: number }) {
  return places.map((at) => (
    <mesh key={at.join()} position={vector(at)} renderOrder={6} rotation={[0, 0, Math.PI / 4]}>
      <octahedronGeometry args={[size * 0.75]} />
      <meshBasicMaterial color={paint.line} depthTest={false} fog={false} transparent wireframe />
    </mesh>
  ));
}

/** The way along an area, and where on it the thumb should be by now. */
export function Walking({ way, at, paint, size }: { way: Triple[]; at: number; paint: Colours; size: number }) {
  const hand = way[at];
  const line = useMemo(() => [way], [way]);
  if (!hand) return null;
  return (
    <>
      <SkinLine branches={line} paint={paint} dashed />
      <mesh position={vector(hand)} renderOrder={7}>
        <sphereGeometry args={[size * 0.9, 20, 14]} />
        <meshBasicMaterial color={paint.now} depthTest={false} fog={false} transparent />
      </mesh>
    </>
  );
}

/** The way of the hands from stop to stop. */
export function HandsPath({ path, paint }: { path: Triple[]; paint: Colours }) {
  const line = useMemo(() => new THREE.BufferGeometry().setFromPoints(path.map(vector)), [path]);
  return (
    <primitive
      object={
        new THREE.Line(
          line,
          new THREE.LineBasicMaterial({ color: paint.now, depthTest: false, transparent: true, opacity: 0.8 }),
        )
      }
    />
  );
}
