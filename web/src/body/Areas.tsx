/** Areas on the body: all that are shown as soft shapes with a fine edge, the chosen one strong. */
import { useMemo } from "react";
import * as THREE from "three";
import type { Schema } from "../api/client";
import { type AreaPack, onSkin } from "./areaPack";
import { useAreas } from "./areas";
import type { Colours } from "./colours";

type Place = Schema["PlaceOnBody"];
type Located = Schema["Located"];
const FILL_OFF_CM = 0.02; // soft shapes lie on the skin,
const EDGE_OFF_CM = 0.045; // their edges on them,
const CHOSEN_OFF_CM = 0.035; // and the chosen one between
const FIRST_DRAWN = 3;

type Props = {
  /** What is to be seen besides the chosen one. */
  places: Place[];
  located: Located | undefined;
  skin: THREE.BufferGeometry;
  paint: Colours;
  cut: THREE.Plane[];
};

export function Areas({ places, located, skin, paint, cut }: Props) {
  const pack = useAreas(skin.getAttribute("position").count);
  const shown = useMemo(
    () => places.filter((one) => one.kind === "area" && !(one.id === located?.id && one.side === located.side)),
    [places, located],
  );
  const allowed = useMemo(() => pack && drawnOf(pack, shown, skin, false), [pack, shown, skin]);
  const refused = useMemo(() => pack && drawnOf(pack, shown, skin, true), [pack, shown, skin]);
  const chosen = useMemo(() => (located ? chosenOf(pack, located, skin) : undefined), [pack, located, skin]);
  return (
    <>
      {allowed && <Soft {...allowed} fill={paint.now} edge={paint.line} opacity={0.16} cut={cut} />}
      {refused && <Soft {...refused} fill={paint.line} edge={paint.line} opacity={0.3} cut={cut} />}
      {chosen && <Soft {...chosen} fill={paint.now} edge={paint.line} opacity={0.62} cut={cut} strong />}
    </>
  );
}

type Drawn = { shape: THREE.BufferGeometry; border: THREE.BufferGeometry };

/** Fills and edges of many areas as two geometries. */
function drawnOf(pack: AreaPack, places: Place[], skin: THREE.BufferGeometry, refused: boolean): Drawn | undefined {
  const mine = places.flatMap((one) => {
    const area = one.refused === refused ? pack.areas.get(one.id) : undefined;
    return area ? [{ ...area, side: one.side }] : [];
  });
  if (mine.length === 0) return undefined;
  return {
    shape: geometryOf(mine.map((one) => onSkin(pack, one.fill, one.side, skin, FILL_OFF_CM))),
    border: geometryOf(mine.map((one) => segments(onSkin(pack, one.outline, one.side, skin, EDGE_OFF_CM)))),
  };
}

/** The chosen area: from the pack, or, when it is a practice's own, as it came with the place. */
function chosenOf(pack: AreaPack | undefined, located: Located, skin: THREE.BufferGeometry): Drawn | undefined {
  if (located.kind !== "area") return undefined;
  const area = pack?.areas.get(located.id);
  if (pack && area)
    return {
      shape: geometryOf([onSkin(pack, area.fill, located.side, skin, CHOSEN_OFF_CM)]),
      border: geometryOf([segments(onSkin(pack, area.outline, located.side, skin, EDGE_OFF_CM))]),
    };
  return {
    shape: geometryOf([Float32Array.from(located.fill_cm.flat())]),
    border: geometryOf([segments(Float32Array.from(located.outline_cm.flat()))]),
  };
}

function geometryOf(parts: Float32Array[]): THREE.BufferGeometry {
  const all = new Float32Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.length;
  }
  const made = new THREE.BufferGeometry();
  made.setAttribute("position", new THREE.BufferAttribute(all, 3));
  return made;
}

/** A closed outline as pairs of places, so that many lie in one geometry. */
function segments(outline: Float32Array): Float32Array {
  const count = outline.length / 3;
  const pairs = new Float32Array(2 * outline.length);
  for (let i = 0; i < count; i++) {
    pairs.set(outline.subarray(3 * i, 3 * i + 3), 6 * i);
    const next = (i + 1) % count;
    pairs.set(outline.subarray(3 * next, 3 * next + 3), 6 * i + 3);
  }
  return pairs;
}

type SoftProps = Drawn & { fill: string; edge: string; opacity: number; cut: THREE.Plane[]; strong?: boolean };

function Soft({ shape, border, fill, edge, opacity, cut, strong = false }: SoftProps) {
  return (
    <>
      <mesh geometry={shape} renderOrder={FIRST_DRAWN + (strong ? 2 : 0)}>
        <meshBasicMaterial
          color={fill}
          transparent
          opacity={opacity}
          side={THREE.DoubleSide}
          depthWrite={false}
          polygonOffset
          polygonOffsetFactor={-4}
          polygonOffsetUnits={-4}
          clippingPlanes={cut}
          fog={false}
        />
      </mesh>
      <lineSegments geometry={border} renderOrder={FIRST_DRAWN + 1 + (strong ? 2 : 0)}>
        <lineBasicMaterial color={edge} transparent opacity={strong ? 1 : 0.7} clippingPlanes={cut} fog={false} />
      </lineSegments>
    </>
  );
}
