/** Areas on the skin: what the server packed is read back, and lies on either side of a figure. */
import * as THREE from "three";
import { expect, test } from "vitest";
import { onSkin, readAreas } from "./areaPack";

/** A pack as the server writes it: one area with a triangle of fill and two places of outline, on four vertices. */
function packed(): ArrayBuffer {
  let head = JSON.stringify([["ear_CO15", 3, 2]]);
  head += " ".repeat((4 - (head.length % 4)) % 4);
  const mirror = [1, 0, 3, 2];
  const corners = [0, 2, 2, 2, 0, 0, 0, 2, 2, 0, 0, 0, 2, 2, 2];
  const shares = [255, 0, 255, 0, 128, 127, 255, 0, 255, 0];
  const bytes = new Uint8Array(4 + head.length + 2 * mirror.length + 2 * corners.length + shares.length);
  new DataView(bytes.buffer).setUint32(0, head.length, true);
  bytes.set(new TextEncoder().encode(head), 4);
  bytes.set(new Uint8Array(new Uint16Array([...mirror, ...corners]).buffer), 4 + head.length);
  bytes.set(shares, bytes.length - shares.length);
  return bytes.buffer;
}

const skin = new THREE.BufferGeometry();
skin.setAttribute("position", new THREE.Float32BufferAttribute([2, 0, 0, -2, 0, 0, 4, 6, 0, -4, 6, 0], 3));
skin.setAttribute("normal", new THREE.Float32BufferAttribute([0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1], 3));

test("an area is read, and lies where its marks are on the skin, off it as wanted", () => {
  const pack = readAreas(packed(), 4);
  const area = pack.areas.get("ear_CO15");
  if (!area) throw new Error("the area is in the pack");
  expect(area).toEqual({ fill: { from: 0, to: 3 }, outline: { from: 3, to: 5 } });
  const outline = onSkin(pack, area.outline, "left", skin, 0.5);
  expect([...outline]).toEqual([2, 0, 0.5, 4, 6, 0.5]);
  expect([...onSkin(pack, area.outline, "right", skin, 0)]).toEqual([-2, 0, 0, -4, 6, 0]);
  const [, , , , , , x = 0, y = 0] = onSkin(pack, area.fill, "left", skin, 0);
  expect(x).toBeCloseTo(3, 1); // half-way between two vertices, as near as a share in 255ths tells
  expect(y).toBeCloseTo(3, 1);
});
