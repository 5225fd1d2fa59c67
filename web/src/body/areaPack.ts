/** The pack of areas: which places of the mesh they fill and end at, the same for everybody. */
import type * as THREE from "three";

const WEIGHT_STEPS = 255; // how the server counts the shares of a triangle's corners
type Stretch = { from: number; to: number };
export type AreaPack = {
  areas: Map<string, { fill: Stretch; outline: Stretch }>;
  mirror: Uint16Array;
  corners: Uint16Array;
  shares: Uint8Array;
};

/** The pack of `/api/body/areas`, read (see `core/atlas/areas/pack.py`). */
export function readAreas(buffer: ArrayBuffer, vertices: number): AreaPack {
  const head = new DataView(buffer).getUint32(0, true);
  const rows: [string, number, number][] = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, head)));
  const areas: AreaPack["areas"] = new Map();
  let at = 0;
  for (const [id, fill, outline] of rows) {
    areas.set(id, { fill: { from: at, to: at + fill }, outline: { from: at + fill, to: at + fill + outline } });
    at += fill + outline;
  }
  const mirror = new Uint16Array(buffer, 4 + head, vertices);
  const corners = new Uint16Array(buffer, 4 + head + 2 * vertices, 3 * at);
  return { areas, mirror, corners, shares: new Uint8Array(buffer, 4 + head + 2 * vertices + 6 * at) };
}

/** Places of a stretch on a figure's skin, held off it by `off` cm: x, y, z each. */
export function onSkin(
  pack: AreaPack,
  { from, to }: Stretch,
  side: "left" | "right",
  skin: THREE.BufferGeometry,
  off: number,
): Float32Array {
  const places = skin.getAttribute("position").array;
  const normals = skin.getAttribute("normal").array;
  const found = new Float32Array(3 * (to - from));
  for (let place = from; place < to; place++) {
    const [first, second] = [
      (pack.shares[2 * place] ?? 0) / WEIGHT_STEPS,
      (pack.shares[2 * place + 1] ?? 0) / WEIGHT_STEPS,
    ];
    const shares = [first, second, 1 - first - second];
    for (let corner = 0; corner < 3; corner++) {
      const marked = pack.corners[3 * place + corner] ?? 0;
      const vertex = side === "left" ? marked : (pack.mirror[marked] ?? 0);
      for (let axis = 0; axis < 3; axis++) {
        const value = (places[3 * vertex + axis] ?? 0) + off * (normals[3 * vertex + axis] ?? 0);
        found[3 * (place - from) + axis] = (found[3 * (place - from) + axis] ?? 0) + (shares[corner] ?? 0) * value;
      }
    }
  }
  return found;
}
