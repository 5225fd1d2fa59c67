/** The figure to be painted on: one finger paints where it hurts, front and back; what was painted before shows beside it. */
import { Button, SegmentedControl } from "@mantine/core";
import { Canvas, type ThreeEvent, useThree } from "@react-three/fiber";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import * as THREE from "three";
import { figureQuery, STANDING } from "../api/queries";
import { useFigureDetail } from "../shared/device-prefs";
import { useDim } from "../shared/dim";
import { ErrorPanel, Waiting } from "../shared/parts";
import { useWorn } from "./Cloth";
import { colours } from "./colours";
import css from "./PaintBody.module.css";
import { Rig } from "./Rig";
import { Rim } from "./Stone";
import { useSkin } from "./skin";
import { FIELD_OF_VIEW, wholeBody } from "./view";

const BRUSH_CM = 2.6;
const SAME_SIDE = 0.1; // cosine between normals: a thin limb is painted on the side that is touched
type Facing = "front" | "back";

type Props = {
  personId: string;
  /** Numbers of skin vertices that are painted, and those of the time before. */
  painted: ReadonlySet<number>;
  before?: readonly number[];
  onPaint: (painted: ReadonlySet<number>) => void;
};

export default function PaintBody({ personId, painted, before = [], onPaint }: Props) {
  const figure = useQuery(figureQuery(personId));
  const key = figure.data?.key ?? "";
  if (figure.isError) return <ErrorPanel error={figure.error} />;
  if (!figure.data) return <Waiting for="Loading the figure" />;
  return (
    <Painting
      personId={personId}
      figureKey={key}
      height={figure.data.height_cm}
      worn={figure.data.cloth}
      painted={painted}
      before={before}
      onPaint={onPaint}
    />
  );
}

type PaintingProps = Required<Props> & { figureKey: string; height: number; worn: string[] };

function Painting({ personId, figureKey, height, worn, painted, before, onPaint }: PaintingProps) {
  const { geometry, error } = useSkin(personId, figureKey, STANDING);
  const [facing, setFacing] = useState<Facing>("front");
  const [erasing, setErasing] = useState(false);
  const { dim } = useDim();
  const paint = colours(dim);
  const holder = useRef<HTMLDivElement>(null);
  const look = useMemo(() => {
    const front = wholeBody(height);
    if (facing === "back") front.position.z = 2 * front.target.z - front.position.z;
    return front;
  }, [height, facing]);
  const detail = useFigureDetail();
  if (error) return <ErrorPanel error={error} />;
  if (!geometry) return <Waiting for="Loading the figure" />;
  const stroke = (touched: number[]) => {
    const next = new Set(painted);
    for (const one of touched) {
      if (erasing) next.delete(one);
      else next.add(one);
    }
    onPaint(next);
  };
  return (
    <div className={css.painting}>
      <div className={css.tools}>
        <SegmentedControl
          aria-label="View of the figure"
          data={[
            { value: "front", label: "Front" },
            { value: "back", label: "Back" },
          ]}
          value={facing}
          onChange={(value) => setFacing(value as Facing)}
        />
        <SegmentedControl
          aria-label="Finger"
          data={[
            { value: "paint", label: "Paint" },
            { value: "erase", label: "Erase" },
          ]}
          value={erasing ? "erase" : "paint"}
          onChange={(value) => setErasing(value === "erase")}
        />
        <Button variant="subtle" size="compact-sm" disabled={painted.size === 0} onClick={() => onPaint(new Set())}>
          Clear
        </Button>
      </div>
      <div ref={holder} className={css.view} data-testid="paint">
        <Canvas
          frameloop="demand"
          dpr={detail}
          camera={{ fov: FIELD_OF_VIEW, position: [0, 90, 400], near: 2, far: 2000 }}
          gl={{ antialias: true, preserveDrawingBuffer: true }}
          role="img"
          aria-label={`The person's figure, ${facing}: mark where it is`}
        >
          <color attach="background" args={[paint.ground]} />
          <Rig look={look} turn={0} ground={paint.ground} light={paint.light} holder={holder} turns={false} />
          <Rim geometry={geometry} ink={paint.ink} />
          <Skin geometry={geometry} worn={worn} painted={painted} before={before} paint={paint} onStroke={stroke} />
        </Canvas>
      </div>
    </div>
  );
}

type SkinProps = {
  geometry: THREE.BufferGeometry;
  worn: string[];
  painted: ReadonlySet<number>;
  before: readonly number[];
  paint: ReturnType<typeof colours>;
  onStroke: (touched: number[]) => void;
};

/** The skin, each vertex in stone, or in the colour of now, or of before. */
function Skin({ geometry, worn, painted, before, paint, onStroke }: SkinProps) {
  const { invalidate } = useThree();
  const cloth = useWorn(worn);
  const own = useMemo(() => {
    const made = geometry.clone();
    const count = made.getAttribute("position").count;
    made.setAttribute("color", new THREE.BufferAttribute(new Float32Array(count * 3), 3));
    return made;
  }, [geometry]);
  useEffect(() => {
    const colour = own.getAttribute("color") as THREE.BufferAttribute;
    const [stone, now, was, plain] = [paint.stone, paint.now, paint.bone, paint.cloth].map(
      (one) => new THREE.Color(one),
    );
    const earlier = new Set(before);
    for (let i = 0; i < colour.count; i++) {
      // Whoever paints here is looked at on it: chest and hips are clothed, and painted on like the skin.
      const bare = cloth.some((depths) => (depths[i] ?? 0) > 0) ? plain : stone;
      const shown = painted.has(i) ? now : earlier.has(i) ? was : bare;
      if (shown) colour.setXYZ(i, shown.r, shown.g, shown.b);
    }
    colour.needsUpdate = true;
    invalidate();
  }, [own, painted, before, cloth, paint, invalidate]);
  const down = useRef(false);
  const touch = (event: ThreeEvent<PointerEvent>) => {
    if (!down.current || !event.face) return;
    event.stopPropagation();
    onStroke(underFinger(own, event.point, event.face.normal));
  };
  return (
    <mesh
      geometry={own}
      onPointerDown={(event) => {
        down.current = true;
        touch(event);
      }}
      onPointerMove={touch}
      onPointerUp={() => {
        down.current = false;
      }}
      onPointerLeave={() => {
        down.current = false;
      }}
    >
      <meshStandardMaterial vertexColors roughness={1} metalness={0} />
    </mesh>
  );
}

/** Numbers of the vertices within a finger's reach, on the side of the body that is touched. */
export function underFinger(geometry: THREE.BufferGeometry, at: THREE.Vector3, facing: THREE.Vector3): number[] {
  const places = geometry.getAttribute("position").array;
  const normals = geometry.getAttribute("normal").array;
  const found: number[] = [];
  for (let i = 0; i < places.length / 3; i++) {
    const [x, y, z] = [places[3 * i] ?? 0, places[3 * i + 1] ?? 0, places[3 * i + 2] ?? 0];
    if ((x - at.x) ** 2 + (y - at.y) ** 2 + (z - at.z) ** 2 > BRUSH_CM ** 2) continue;
    const along =
      (normals[3 * i] ?? 0) * facing.x + (normals[3 * i + 1] ?? 0) * facing.y + (normals[3 * i + 2] ?? 0) * facing.z;
    if (along > SAME_SIDE) found.push(i);
  }
  return found;
}
