/** Where to look from: small pure geometry under the body view. */
import * as THREE from "three";

export type Triple = [number, number, number] | number[];
export type Look = { target: THREE.Vector3; position: THREE.Vector3; fog: number };

/** Width of the picture by body part, cm. */
const WIDTHS: Record<string, number> = {
  head: 30,
  trunk: 64,
  upper_arm: 46,
  forearm: 40,
  hand: 30,
  thigh: 56,
  lower_leg: 58,
  foot: 32,
  ear: 8.5,
};
export const FIELD_OF_VIEW = 24;
const FAR = 2000;
const YAW = 0.32;

export const vector = (t: Triple) => new THREE.Vector3(t[0], t[1], t[2]);
/** A place held off the skin by so many cm. */
export const lifted = (place: Triple, normal: Triple, by: number) => vector(place).addScaledVector(vector(normal), by);
const distanceFor = (size: number) => size / 2 / Math.tan(THREE.MathUtils.degToRad(FIELD_OF_VIEW / 2));

/** The camera's own up must stay up: from straight above or below it looks a little from the front instead. */
function upright(away: THREE.Vector3): void {
  if (Math.abs(away.y) > 0.985) away.z = Math.max(away.z, 0) + 0.2;
}

/** Size of the marks on a part: the same on the screen whether an ear or a back is looked at. */
export const markSize = (part: string) => (WIDTHS[part] ?? 64) * 0.011;

/** The whole figure from the front. */
export function wholeBody(height: number): Look {
  const target = new THREE.Vector3(0, height * 0.5, 3);
  return {
    target,
    position: target.clone().add(new THREE.Vector3(0, 6, distanceFor(height * 1.12))),
    fog: FAR,
  };
}

/** The whole body, from the front or from behind. */
export function wholeBodyFrom(height: number, behind: boolean): Look {
  const whole = wholeBody(height);
  if (behind) whole.position.z = 2 * whole.target.z - whole.position.z;
  return whole;
}

/** Everything, however it lies: from the front, or from above where the body lies. */
export function lookAtAll(geometry: THREE.BufferGeometry, level: boolean): Look {
  geometry.computeBoundingSphere();
  const target = geometry.boundingSphere?.center.clone() ?? new THREE.Vector3();
  const distance = distanceFor((geometry.boundingSphere?.radius ?? 90) * 2);
  const away = level ? new THREE.Vector3(0.5, 0.15, 1) : new THREE.Vector3(0, 1, 0.35);
  return { target, position: target.clone().addScaledVector(away.normalize(), distance), fog: FAR };
}

const SPREAD_CM = 70; // places farther apart than this are looked at with the whole body around them

/** A group of places: near if they lie together, else the whole figure from the side on which most of them are. */
export function lookAtGroup(places: { position_cm: Triple; normal: Triple }[], height: number): Look {
  if (places.length === 0) return wholeBody(height);
  const box = new THREE.Box3().setFromPoints(places.map((one) => vector(one.position_cm)));
  const away = places.reduce((sum, one) => sum.add(vector(one.normal)), new THREE.Vector3());
  const size = box.getSize(new THREE.Vector3());
  const widest = Math.max(size.x, size.y, size.z);
  if (widest > SPREAD_CM || away.length() < 0.2 * places.length) {
    return wholeBodyFrom(height, away.z < 0);
  }
  const target = box.getCenter(new THREE.Vector3());
  upright(away.normalize());
  const distance = distanceFor(Math.max(widest * 1.6, 9));
  return { target, position: target.clone().addScaledVector(away.normalize(), distance), fog: distance + widest + 20 };
}

/** Straight at a place on the skin; limbs and trunk are looked at level, so that lengths along them show in full. */
export function lookAt(place: Triple, normal: Triple, part: string, middle?: Triple, level = true): Look {
  const width = WIDTHS[part] ?? 64;
  const target = vector(place);
  if (middle) target.lerp(vector(middle), 0.4);
  const away = vector(normal);
  if (level && !["foot", "head", "hand", "ear"].includes(part)) away.y *= 0.25;
  upright(away.normalize());
  // A little from the side, so that the arrow of pressure is seen as an arrow and not from behind.
  away.normalize().applyAxisAngle(new THREE.Vector3(0, 1, 0), YAW);
  const distance = distanceFor(width);
  return {
    target,
    position: target.clone().addScaledVector(away, distance),
    fog: distance + width * 0.35,
  };
}

/** Planes that leave of the body only the limb that is looked at: nothing else comes before or behind it. */
export function cuts(part: string, side: "left" | "right", height: number): THREE.Plane[] {
  const arm = ["hand", "forearm", "upper_arm"].includes(part);
  const leg = ["foot", "lower_leg", "thigh"].includes(part);
  if (!arm && !leg) return [];
  const outward = new THREE.Vector3(side === "left" ? 1 : -1, 0, 0);
  // Arms begin beyond the armpit, an eighth of the height from the middle; legs at the middle.
  return [new THREE.Plane(outward, arm ? -height * 0.125 : 0)];
}

/** A segment in full length, seen from where it lies. */
export function lookAlong(path: Triple[], normal: Triple): Look {
  const first = vector(path[0] ?? [0, 0, 0]);
  const last = vector(path.at(-1) ?? [0, 0, 0]);
  const length = first.distanceTo(last);
  const target = first.clone().lerp(last, 0.5);
  const away = vector(normal);
  away.y *= 0.4;
  away.normalize();
  const distance = distanceFor(Math.max(length * 1.8, 26));
  return {
    target,
    position: target.clone().addScaledVector(away, distance),
    fog: distance + 30,
  };
}

/** Ticks across a path at every cun: pairs of places for line segments. */
export function ticks(path: Triple[], cun: number, cunCm: number, normal: Triple): number[] {
  const places = path.map(vector);
  const steps = places.slice(1).map((place, i) => place.distanceTo(places[i] ?? place));
  const out = vector(normal).normalize();
  const lines: number[] = [];
  for (let count = 0; count <= cun; count++) {
    let left = count * cunCm;
    let index = 0;
    while (index < steps.length - 1 && left > (steps[index] ?? 0)) left -= steps[index++] ?? 0;
    const from = places[index];
    const to = places[index + 1];
    if (!from || !to) continue;
    const at = from.clone().lerp(to, Math.min(left / (steps[index] || 1), 1));
    const across = to.clone().sub(from).normalize().cross(out).normalize();
    const half = count === 0 || count === cun ? 1.1 : 0.55;
    lines.push(
      ...at.clone().addScaledVector(across, half).toArray(),
      ...at.clone().addScaledVector(across, -half).toArray(),
    );
  }
  return lines;
}
