/** Where names stand beside what they name: none over another, none over the chosen place, each as near as it can be. */

export type Box = { x: number; y: number; width: number; height: number };
/** What is to be named: its place in the picture, and the size of its name, px. `within`: it may stand on its place. */
export type Named = { x: number; y: number; width: number; height: number; within?: boolean };

const GAP_PX = 3; // between two names
const NEAR_PX = [9, 22, 38, 58, 82, 110]; // how far a name may stand from its place, the nearest first
const WITHIN_PX = 25; // a name that found no room on its place stands no farther from it
/** Directions a name is tried in: beside, then slanting, then above and below. */
const AROUND = [0, 180, -35, 35, -145, 145, -70, 70, -110, 110, -90, 90].map((degrees) => (degrees * Math.PI) / 180);

const meets = (a: Box, b: Box) =>
  a.x < b.x + b.width + GAP_PX &&
  b.x < a.x + a.width + GAP_PX &&
  a.y < b.y + b.height + GAP_PX &&
  b.y < a.y + a.height + GAP_PX;

/** The square of so many pixels each way around a place. */
export const around = (x: number, y: number, reach: number): Box => ({
  x: x - reach,
  y: y - reach,
  width: 2 * reach,
  height: 2 * reach,
});

/**
 * The boxes of names in a picture, in the order of what is named: the first come stand nearest. A name for which there is
 * no room is null. `taken`: what must stay free.
 */
export function placeNames(named: Named[], taken: Box[], view: { width: number; height: number }): (Box | null)[] {
  const full = [...taken];
  return named.map((one) => {
    const box = candidates(one).find(
      (tried) =>
        tried.x >= 0 &&
        tried.y >= 0 &&
        tried.x + tried.width <= view.width &&
        tried.y + tried.height <= view.height &&
        !full.some((other) => meets(tried, other)),
    );
    if (box) full.push(box);
    return box ?? null;
  });
}

function candidates({ x, y, width, height, within }: Named): Box[] {
  const onIt = within ? [{ x: x - width / 2, y: y - height / 2, width, height }] : [];
  const beside = within ? NEAR_PX.filter((distance) => distance <= WITHIN_PX) : NEAR_PX;
  const around = beside.flatMap((distance) =>
    AROUND.map((angle) => {
      const [aside, down] = [Math.cos(angle) * distance, Math.sin(angle) * distance];
      // The edge that faces the place lies at that distance, whichever way the name stands.
      const left = Math.abs(aside) < 1 ? x - width / 2 : aside > 0 ? x + aside : x + aside - width;
      return { x: left, y: y + down - height / 2 + (Math.sign(Math.round(down)) * height) / 2, width, height };
    }),
  );
  return [...onIt, ...around];
}

/** Where a line from a place meets its name. */
export function nearestOf(box: Box, x: number, y: number): [number, number] {
  return [Math.max(box.x, Math.min(x, box.x + box.width)), Math.max(box.y, Math.min(y, box.y + box.height))];
}
