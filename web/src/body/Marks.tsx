/** What is drawn on the body: stone and ink, the points, the chosen one with ring and arrow, segments, areas. */
import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import type { Schema } from "../api/client";
import type { Colours } from "./colours";
import { type Triple, ticks } from "./view";

type Place = Schema["PlaceOnBody"];
type Located = Schema["Located"];
const OUTLINE = 0.0017; // of the distance from the eye: a line of about one pixel and a half
const PICK_PX = 22; // half of a 44 px target

const vector = (t: Triple) => new THREE.Vector3(t[0], t[1], t[2]);
const lifted = (place: Triple, normal: Triple, by: number) => vector(place).addScaledVector(vector(normal), by);

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

function disc(draw: (pen: CanvasRenderingContext2D) => void): THREE.CanvasTexture {
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = 64;
  const pen = canvas.getContext("2d");
  if (pen) draw(pen);
  return new THREE.CanvasTexture(canvas);
}

const FULL = disc((pen) => {
  pen.fillStyle = "#fff";
  pen.beginPath();
  pen.arc(32, 32, 27, 0, Math.PI * 2);
  pen.fill();
});
const CROSSED = disc((pen) => {
  pen.strokeStyle = "#fff";
  pen.lineWidth = 9;
  pen.beginPath();
  pen.arc(32, 32, 24, 0, Math.PI * 2);
  pen.moveTo(16, 48);
  pen.lineTo(48, 16);
  pen.stroke();
});

function Dots({
  places,
  texture,
  colour,
  size,
}: {
  places: Place[];
  texture: THREE.Texture;
  colour: string;
  size: number;
}) {
  const positions = useMemo(
    () => new Float32Array(places.flatMap((place) => lifted(place.position_cm, place.normal, 0.25).toArray())),
    [places],
  );
  return (
    <points key={positions.length}>
      <bufferGeometry>
        <bufferAttribute attach="attributes-position" args={[positions, 3]} />
      </bufferGeometry>
      <pointsMaterial
        map={texture}
        color={colour}
        size={size}
        sizeAttenuation={false}
        transparent
        alphaTest={0.4}
        fog={false}
      />
    </points>
  );
}

type MarksProps = {
  places: Place[];
  chosen: Located | undefined;
  paint: Colours;
  cut: THREE.Plane[];
  onPick: ((place: Place) => void) | undefined;
  /** A touch on bare skin, away from every mark. */
  onTouch: ((place: Triple) => void) | undefined;
  skin: THREE.BufferGeometry;
};

/** All points and areas as small marks; a click takes the nearest one under the finger that faces the eye. */
export function Marks({ places: all, chosen, paint, cut, onPick, onTouch, skin }: MarksProps) {
  const { camera, size, gl } = useThree();
  const places = useMemo(
    () => all.filter((place) => cut.every((plane) => plane.distanceToPoint(vector(place.position_cm)) > 0)),
    [all, cut],
  );
  const others = places.filter((place) => place.id !== chosen?.point || place.side !== chosen.side);
  const outlines = useMemo(
    () =>
      others
        .filter((place) => place.outline_cm.length > 0)
        .map((place) => {
          const around = [...place.outline_cm, place.outline_cm[0] ?? place.position_cm];
          const line = new THREE.BufferGeometry().setFromPoints(around.map((at) => lifted(at, place.normal, 0.06)));
          return { id: `${place.id}-${place.side}`, line };
        }),
    [others],
  );
  useEffect(() => {
    if (!onPick && !onTouch) return;
    let down: [number, number] | null = null;
    const press = (event: PointerEvent) => {
      down = [event.clientX, event.clientY];
    };
    const release = (event: PointerEvent) => {
      if (!down || Math.hypot(event.clientX - down[0], event.clientY - down[1]) > 5) return;
      const box = gl.domElement.getBoundingClientRect();
      const [x, y] = [event.clientX - box.left, event.clientY - box.top];
      const found = onPick && nearest(places, camera, size, x, y);
      if (found) onPick(found);
      else if (onTouch) {
        const touched = skinAt(skin, camera, size, x, y, cut);
        if (touched) onTouch(touched);
      }
    };
    gl.domElement.addEventListener("pointerdown", press);
    gl.domElement.addEventListener("pointerup", release);
    return () => {
      gl.domElement.removeEventListener("pointerdown", press);
      gl.domElement.removeEventListener("pointerup", release);
    };
  }, [places, camera, size, gl, onPick, onTouch, skin, cut]);
  return (
    <>
      <Dots places={others.filter((place) => !place.refused)} texture={FULL} colour={paint.line} size={7} />
      <Dots places={others.filter((place) => place.refused)} texture={CROSSED} colour={paint.line} size={11} />
      {outlines.map((outline) => (
        <lineLoop key={outline.id} geometry={outline.line}>
          <lineBasicMaterial color={paint.line} transparent opacity={0.6} />
        </lineLoop>
      ))}
    </>
  );
}

/** Where the skin is under a place of the picture. */
function skinAt(
  skin: THREE.BufferGeometry,
  camera: THREE.Camera,
  size: { width: number; height: number },
  x: number,
  y: number,
  cut: THREE.Plane[],
): Triple | undefined {
  const ray = new THREE.Raycaster();
  ray.setFromCamera(new THREE.Vector2((x / size.width) * 2 - 1, 1 - (y / size.height) * 2), camera);
  const hits = ray.intersectObject(new THREE.Mesh(skin), false);
  const hit = hits.find(({ point }) => cut.every((plane) => plane.distanceToPoint(point) > 0));
  return hit?.point.toArray();
}

function nearest(places: Place[], camera: THREE.Camera, size: { width: number; height: number }, x: number, y: number) {
  let best: { place: Place; distance: number } | null = null;
  for (const place of places) {
    const at = vector(place.position_cm);
    const facing = camera.position.clone().sub(at).dot(vector(place.normal)) > 0;
    const seen = at.project(camera);
    const distance = Math.hypot((seen.x * 0.5 + 0.5) * size.width - x, (0.5 - seen.y * 0.5) * size.height - y);
    if (facing && seen.z < 1 && distance < PICK_PX && (!best || distance < best.distance)) best = { place, distance };
  }
  return best?.place;
}

/** The chosen place: dot, ring of uncertainty, and an arrow along which to press. */
export function Pressing({ located, paint, size }: { located: Located; paint: Colours; size: number }) {
  const { position_cm, normal, uncertainty_cm, press, outline_cm } = located;
  const at = lifted(position_cm, normal, 0.15);
  const flat = useMemo(
    () => new THREE.Quaternion().setFromUnitVectors(new THREE.Vector3(0, 0, 1), vector(normal).normalize()),
    [normal],
  );
  const length = size * 10;
  const arrow = useMemo(() => {
    const toward = vector(press.vector).normalize();
    const tail = vector(position_cm).addScaledVector(toward, -length * 1.06);
    return new THREE.ArrowHelper(toward, tail, length, paint.now, length * 0.3, length * 0.2);
  }, [press.vector, position_cm, paint.now, length]);
  useEffect(() => {
    arrow.traverse((part) => {
      const { material } = part as THREE.Mesh;
      if (material instanceof THREE.Material) {
        material.depthTest = false;
        (material as THREE.MeshBasicMaterial).fog = false;
      }
      part.renderOrder = 6;
    });
    return () => arrow.dispose();
  }, [arrow]);
  const ring = Math.max(uncertainty_cm, size * 1.6);
  return (
    <>
      <mesh position={at} quaternion={flat} renderOrder={5}>
        <circleGeometry args={[size, 40]} />
        <meshBasicMaterial color={paint.now} depthTest={false} fog={false} transparent />
      </mesh>
      {outline_cm.length === 0 && (
        <mesh position={at} quaternion={flat} renderOrder={4}>
          <ringGeometry args={[ring - size * 0.16, ring, 64]} />
          <meshBasicMaterial color={paint.now} depthTest={false} fog={false} transparent side={THREE.DoubleSide} />
        </mesh>
      )}
      <primitive object={arrow} />
    </>
  );
}

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

/** The skin of the chosen area, filled. */
export function AreaFill({
  located,
  geometry,
  paint,
}: {
  located: Located;
  geometry: THREE.BufferGeometry;
  paint: Colours;
}) {
  const fill = useMemo(() => {
    const index = geometry.getIndex();
    const made = new THREE.BufferGeometry();
    made.setAttribute("position", geometry.getAttribute("position"));
    made.setAttribute("normal", geometry.getAttribute("normal"));
    made.setIndex(located.triangles.flatMap((t) => [0, 1, 2].map((corner) => index?.getX(t * 3 + corner) ?? 0)));
    return made;
  }, [located.triangles, geometry]);
  const outline = useMemo(
    () => new THREE.BufferGeometry().setFromPoints(located.outline_cm.map((at) => lifted(at, located.normal, 0.05))),
    [located.outline_cm, located.normal],
  );
  return (
    <>
      <mesh geometry={fill}>
        <meshBasicMaterial
          color={paint.now}
          transparent
          opacity={0.55}
          polygonOffset
          polygonOffsetFactor={-4}
          polygonOffsetUnits={-4}
          fog={false}
        />
      </mesh>
      <lineLoop geometry={outline} renderOrder={4}>
        <lineBasicMaterial color={paint.line} depthTest={false} transparent fog={false} />
      </lineLoop>
    </>
  );
}

/** A line along the skin: a channel, or the tape from a landmark to the place; broken where it begins anew. */
export function SkinLine({
  branches,
  paint,
  dashed = false,
}: {
  branches: Triple[][];
  paint: Colours;
  dashed?: boolean;
}) {
  const lines = useMemo(
    () =>
      branches.map((branch) => {
        const geometry = new THREE.BufferGeometry().setFromPoints(branch.map(vector));
        const material = dashed
          ? new THREE.LineDashedMaterial({ color: paint.now, dashSize: 0.5, gapSize: 0.35, fog: false })
          : new THREE.LineBasicMaterial({ color: paint.line, transparent: true, opacity: 0.7, fog: false });
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
    [branches, paint.line, paint.now, dashed],
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
