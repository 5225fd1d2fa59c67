/** The ghost of bones: faded in over the skin, each named when pointed at. */
import { useFrame, useThree } from "@react-three/fiber";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef } from "react";
import * as THREE from "three";
import { api, type Schema, take } from "../api/client";
import type { Colours } from "./colours";

const FADE_MS = 200;
const GHOST = 0.78;
const still = () => window.matchMedia("(prefers-reduced-motion: reduce)").matches;

type Bone = Schema["BoneOut"];
type Props = {
  personId: string;
  figureKey: string;
  pose: string;
  shown: boolean;
  skin: THREE.BufferGeometry;
  cut: THREE.Plane[];
  paint: Colours;
  onName: (name: string) => void;
};

export function Bones({ personId, figureKey, pose, shown, skin, cut, paint, onName }: Props) {
  const bones = useQuery({
    queryKey: ["person", personId, "figure", "bones", figureKey],
    queryFn: () =>
      take(
        api.GET("/api/people/{person_id}/figure/bones", { params: { path: { person_id: personId }, query: { pose } } }),
      ),
    enabled: shown,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const made = useMemo(() => (bones.data ? merged(bones.data) : undefined), [bones.data]);
  if (!made) return null;
  return <Ghost made={made} shown={shown} skin={skin} cut={cut} paint={paint} onName={onName} />;
}

type Merged = { geometry: THREE.BufferGeometry; names: string[]; ends: number[] };

/** All bones as one geometry; `ends` are the triangle counts up to and with each bone. */
function merged(bones: Bone[]): Merged {
  const places: number[] = [];
  const corners: number[] = [];
  const ends: number[] = [];
  for (const bone of bones) {
    const first = places.length / 3;
    for (const value of bone.grid) places.push(value / 100);
    for (let ring = 0; ring < bone.rings - 1; ring++) {
      for (let corner = 0; corner < bone.corners; corner++) {
        const a = first + ring * bone.corners + corner;
        const b = first + ring * bone.corners + ((corner + 1) % bone.corners);
        corners.push(a, b, a + bone.corners, b, b + bone.corners, a + bone.corners);
      }
    }
    ends.push(corners.length / 3);
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute("position", new THREE.BufferAttribute(new Float32Array(places), 3));
  geometry.setIndex(corners);
  geometry.computeVertexNormals();
  return { geometry, names: bones.map(nameOf), ends };
}

const nameOf = (bone: Bone) => {
  const side = /^(left|right)\./.exec(bone.id)?.[1];
  return side ? `${bone.name}, ${side}` : bone.name;
};

/** Drawn over the skin with a depth of its own, so that bones hide bones; then the skin's depth is put back. */
function Ghost({
  made,
  shown,
  skin,
  cut,
  paint,
  onName,
}: Omit<Props, "personId" | "figureKey" | "pose"> & { made: Merged }) {
  const { invalidate, gl, camera } = useThree();
  const material = useRef<THREE.MeshStandardMaterial>(null);
  const mesh = useRef<THREE.Mesh>(null);
  const fade = useRef({ from: 0, to: 0, begun: 0 });
  useEffect(() => {
    fade.current = { from: material.current?.opacity ?? 0, to: shown ? GHOST : 0, begun: performance.now() };
    invalidate();
  }, [shown, invalidate]);
  useFrame(() => {
    if (!material.current || !mesh.current) return;
    const { from, to, begun } = fade.current;
    const share = still() ? 1 : Math.min((performance.now() - begun) / FADE_MS, 1);
    material.current.opacity = from + (to - from) * share;
    mesh.current.visible = material.current.opacity > 0.01;
    if (share < 1) invalidate();
  });
  useEffect(() => {
    if (!shown) return;
    const ray = new THREE.Raycaster();
    const point = (event: PointerEvent) => {
      if (event.buttons !== 0 || !mesh.current) return;
      const box = gl.domElement.getBoundingClientRect();
      const x = ((event.clientX - box.left) / box.width) * 2 - 1;
      const y = 1 - ((event.clientY - box.top) / box.height) * 2;
      ray.setFromCamera(new THREE.Vector2(x, y), camera);
      const hit = ray
        .intersectObject(mesh.current, false)
        .find((one) => cut.every((plane) => plane.distanceToPoint(one.point) > 0));
      const triangle = hit?.faceIndex;
      const rank = triangle === undefined || triangle === null ? -1 : made.ends.findIndex((end) => triangle < end);
      onName(made.names[rank] ?? "");
    };
    gl.domElement.addEventListener("pointermove", point);
    return () => gl.domElement.removeEventListener("pointermove", point);
  }, [shown, gl, camera, made, cut, onName]);
  return (
    <>
      <mesh
        ref={mesh}
        geometry={made.geometry}
        renderOrder={1}
        visible={false}
        onBeforeRender={(renderer) => renderer.clearDepth()}
      >
        <meshStandardMaterial
          ref={material}
          color={paint.bone}
          roughness={1}
          transparent
          opacity={0}
          clippingPlanes={cut}
          fog={false}
        />
      </mesh>
      {shown && (
        <mesh geometry={skin} renderOrder={2} onBeforeRender={(renderer) => renderer.clearDepth()}>
          <meshBasicMaterial colorWrite={false} transparent clippingPlanes={cut} />
        </mesh>
      )}
    </>
  );
}
