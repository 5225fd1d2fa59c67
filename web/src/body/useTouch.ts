/** Touching the body: the nearest mark under the finger that faces the eye, or the bare skin there. */
import { useThree } from "@react-three/fiber";
import { useDrag } from "@use-gesture/react";
import * as THREE from "three";
import type { Schema } from "../api/client";
import { type Triple, vector } from "./view";

type Place = Schema["PlaceOnBody"];
const PICK_PX = 22; // half of a 44 px target
const STILL_PX = 5; // what moves farther turns the body
const FARTHEST_CM = 9; // no area reaches farther from its middle
const DEEPEST_CM = 2.5; // skin farther before or behind the middle of an area is another part

type Touch = {
  places: Place[];
  /** Areas that are drawn as shapes: a touch within one takes it. */
  shapes: Place[];
  skin: THREE.BufferGeometry;
  /** What is cut away cannot be touched. */
  cut: THREE.Plane[];
  onPick: ((place: Place) => void) | undefined;
  /** A touch on bare skin, away from every mark; cm on the figure. */
  onTouch: ((place: Triple) => void) | undefined;
};

export function useTouch({ places, shapes, skin, cut, onPick, onTouch }: Touch) {
  const { camera, size, gl } = useThree();
  useDrag(
    ({ tap, xy: [clientX, clientY] }) => {
      if (!tap || !(onPick || onTouch)) return;
      const box = gl.domElement.getBoundingClientRect();
      const [x, y] = [clientX - box.left, clientY - box.top];
      const touched = skinAt(skin, camera, size, x, y, cut);
      const found = onPick && ((touched && areaAt(shapes, touched)) || nearest(places, camera, size, x, y));
      if (found) onPick(found);
      else if (touched) onTouch?.(touched);
    },
    // The body is turned by the same pointer: it must not be captured here.
    { target: { current: gl.domElement }, filterTaps: true, tapsThreshold: STILL_PX, pointer: { capture: false } },
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

/** The area that a place of the skin lies in: of several the smallest, which is laid over the others. */
export function areaAt(shapes: Place[], touched: Triple): Place | undefined {
  const around = shapes.filter((place) => vector(place.position_cm).distanceTo(vector(touched)) < FARTHEST_CM);
  return around.filter((place) => within(place, vector(touched))).toSorted((a, b) => extent(a) - extent(b))[0];
}

/** Whether a place of the skin lies within an outline, looked at square to the area's middle. */
function within(place: Place, touched: THREE.Vector3): boolean {
  const normal = vector(place.normal).normalize();
  const aside = new THREE.Vector3(0, 1, 0).cross(normal);
  if (aside.lengthSq() < 0.01) aside.set(1, 0, 0);
  const along = normal.clone().cross(aside.normalize());
  const from = touched.clone().sub(vector(place.position_cm));
  if (Math.abs(from.dot(normal)) > DEEPEST_CM) return false;
  const flat = place.outline_cm
    .map((corner) => vector(corner).sub(touched))
    .map((at) => [at.dot(aside), at.dot(along)]);
  let inside = false;
  flat.forEach(([x = 0, y = 0], i) => {
    const [u = 0, v = 0] = flat[(i + 1) % flat.length] ?? [];
    if (y > 0 !== v > 0 && 0 < x - (y * (u - x)) / (v - y)) inside = !inside;
  });
  return inside;
}

const extent = (place: Place) =>
  new THREE.Box3().setFromPoints(place.outline_cm.map(vector)).getSize(new THREE.Vector3()).length();

/** The mark under a place of the picture. */
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
