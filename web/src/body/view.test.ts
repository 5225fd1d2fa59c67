/** Where the body is looked at from: whatever is asked for is before the camera, turned to it, and large enough. */
import "fake-indexeddb/auto"; // what reads the skin also keeps things on the device
import * as THREE from "three";
import { describe, expect, test } from "vitest";
import { readVertices } from "./skin";
import { cuts, FIELD_OF_VIEW, type Look, lookAlong, lookAt, lookAtGroup, ticks, vector, wholeBody } from "./view";

const PARTS = ["head", "trunk", "upper_arm", "forearm", "hand", "thigh", "lower_leg", "foot", "ear"];

/** Directions all around, the poles included. */
const AROUND = Array.from({ length: 200 }, (_, i) => {
  const y = 1 - (2 * i) / 199;
  const angle = i * 2.4;
  const ring = Math.sqrt(1 - y * y);
  return [ring * Math.cos(angle), y, ring * Math.sin(angle)];
});

const camera = ({ position, target }: Look) => {
  const eye = new THREE.PerspectiveCamera(FIELD_OF_VIEW, 1, 0.1, 3000);
  eye.position.copy(position);
  eye.lookAt(target);
  eye.updateMatrixWorld();
  return eye;
};
/** Where a place is in the picture: -1 to 1 both ways. */
const seen = (look: Look, place: number[]) => vector(place).project(camera(look));

describe("at a place", () => {
  test.each(PARTS)("on the %s it is in the middle, from the side on which it is pressed", (part) => {
    for (const normal of AROUND) {
      const look = lookAt([12, 90, 4], normal, part);
      const from = look.position.clone().sub(look.target).normalize();
      expect(from.dot(vector(normal)), `${normal}`).toBeGreaterThan(0.2);
      expect(Math.abs(from.y), "the camera's own up stays up").toBeLessThan(0.99);
      const { x, y } = seen(look, [12, 90, 4]);
      expect(Math.hypot(x, y)).toBeLessThan(1e-6);
      expect(look.fog, "what is near is not in the fog").toBeGreaterThan(look.position.distanceTo(look.target));
    }
  });

  test("an ear is looked at nearer than a hand, and a hand nearer than a back", () => {
    const [ear, hand, back] = ["ear", "hand", "trunk"].map((part) => {
      const look = lookAt([0, 100, 5], [0, 0, 1], part);
      return look.position.distanceTo(look.target);
    });
    expect(ear).toBeLessThan(hand as number);
    expect(hand).toBeLessThan(back as number);
  });

  test("a segment is seen in full length", () => {
    for (const length of [3, 14, 45]) {
      const path = [0, 0.5, 1].map((share) => [30, 100 - share * length, 5]);
      const look = lookAlong(path, [0.4, 0.7, 0.6]);
      for (const end of [path[0], path[2]]) expect(Math.abs(seen(look, end as number[]).y)).toBeLessThan(1);
    }
  });
});

describe("at a group", () => {
  const near = [-4, 0, 6].map((x) => ({ position_cm: [x, 8 + x, 20], normal: [0, -0.9, 0.3] }));

  test("places that lie together fill the picture and are all in it", () => {
    const look = lookAtGroup(near, 170);
    const at = near.map((one) => seen(look, one.position_cm));
    for (const { x, y } of at) expect(Math.max(Math.abs(x), Math.abs(y))).toBeLessThan(1);
    expect(Math.max(...at.map(({ x, y }) => Math.hypot(x, y)))).toBeGreaterThan(0.3);
  });

  test("places all over are looked at with the whole figure, from where most of them are", () => {
    const back = [10, 90, 160].map((y) => ({ position_cm: [0, y, -10], normal: [0, 0, -1] }));
    expect(lookAtGroup(back, 170).position.z).toBeLessThan(0);
    expect(lookAtGroup([], 170)).toEqual(wholeBody(170));
    for (const y of [0, 170]) expect(Math.abs(seen(wholeBody(170), [0, y, 0]).y)).toBeLessThan(1);
  });
});

test("a limb is cut free of the trunk and of the other one", () => {
  const [plane] = cuts("hand", "left", 170);
  expect(plane?.distanceToPoint(vector([40, 90, 0]))).toBeGreaterThan(0);
  expect(plane?.distanceToPoint(vector([10, 90, 0])), "the hip is cut away").toBeLessThan(0);
  const [leg] = cuts("foot", "right", 170);
  expect(leg?.distanceToPoint(vector([-9, 5, 0]))).toBeGreaterThan(0);
  expect(leg?.distanceToPoint(vector([9, 5, 0])), "the other foot is cut away").toBeLessThan(0);
  expect(cuts("trunk", "left", 170)).toEqual([]);
});

test("a tick stands at every cun along a bent path, the first and the last longer", () => {
  const path = [
    [0, 0, 0],
    [0, 3, 0],
    [0, 3, 4],
    [0, 9, 4],
  ];
  const cun = 5;
  const each = 13 / cun; // the path is 13 cm long
  const drawn = ticks(path, cun, each, [1, 0, 0]);
  expect(drawn).toHaveLength((cun + 1) * 6);
  const along = (place: THREE.Vector3) => {
    // Where on the path a place lies, in cm from its beginning.
    if (place.z < 1e-9) return place.y;
    return place.y <= 3 + 1e-9 && place.z < 4 - 1e-9 ? 3 + place.z : 4 + place.y;
  };
  for (let count = 0; count <= cun; count++) {
    const [a, b] = [0, 3].map((from) => new THREE.Vector3(...drawn.slice(count * 6 + from, count * 6 + from + 3)));
    const middle = (a as THREE.Vector3).clone().lerp(b as THREE.Vector3, 0.5);
    expect(along(middle)).toBeCloseTo(count * each, 6);
    expect((a as THREE.Vector3).distanceTo(b as THREE.Vector3)).toBeCloseTo(count % cun === 0 ? 2.2 : 1.1, 6);
  }
});

test("vertices come from the wire to a hundredth of a millimetre of what was sent", () => {
  const step = 0.003;
  const low = [-60, -0.5, -20];
  const sent = [0, 1, 2, 20_000, 60_000, 13_333];
  const buffer = new ArrayBuffer(16 + sent.length * 2);
  new Float32Array(buffer, 0, 4).set([...low, step]);
  new Uint16Array(buffer, 16).set(sent);
  const read = readVertices(buffer);
  for (const [i, value] of sent.entries()) expect(read[i]).toBeCloseTo((low[i % 3] as number) + value * step, 3);
});
