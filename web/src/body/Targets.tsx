/** The points on the body as elements: 44 px to touch, a word for the screen reader, and a code beside the dot. */
import { useFrame, useThree } from "@react-three/fiber";
import * as THREE from "three";
import type { Schema } from "../api/client";
import { shortId } from "../shared/words";
import css from "./BodyView.module.css";
import type { Box } from "./placing";

type Place = Schema["PlaceOnBody"];
const CODE_PX = { width: 40, height: 15, beside: 7, above: 17 }; // a code that would cover another one is left out

/** Standard codes are short enough to stand beside their dots; areas are named by their labels. */
const hasCode = (place: Place) => place.kind === "point" && /^[A-Z]{2}\w{1,3}$/.test(shortId(place.id));

/** Where codes stand in the picture, for names to keep clear of. */
export type Codes = { current: Box[] };

const id = (place: Place) => `target-${place.id}-${place.side}`;

export function Targets({
  places,
  chosen,
  onPick,
}: {
  places: Place[];
  chosen: Schema["Located"] | undefined;
  onPick: (place: Place) => void;
}) {
  return (
    <ul className={css.targets} aria-label="Points on the body">
      {places.map((place) => {
        const current = place.id === chosen?.id && place.side === chosen.side;
        return (
          <li key={id(place)} id={id(place)} data-current={current || undefined}>
            <button
              type="button"
              tabIndex={-1}
              aria-current={current || undefined}
              aria-label={`${shortId(place.id)}, ${place.name}${place.paired ? `, ${place.side}` : ""}`}
              onClick={() => onPick(place)}
            />
            {hasCode(place) && (
              <span className={css.code} aria-hidden>
                {shortId(place.id)}
              </span>
            )}
          </li>
        );
      })}
    </ul>
  );
}

const at = new THREE.Vector3();
const toward = new THREE.Vector3();

/** Inside the canvas: keeps the targets over their dots, and hides those that the body hides. */
export function TargetTracker({ places, cut, codes }: { places: Place[]; cut: THREE.Plane[]; codes: Codes }) {
  const { camera, size } = useThree();
  useFrame(() => {
    const seen = new Map<Place, [number, number]>();
    for (const place of places) {
      at.fromArray(place.position_cm);
      toward.copy(camera.position).sub(at).normalize();
      const [x = 0, y = 0, z = 0] = place.normal;
      const facing = toward.x * x + toward.y * y + toward.z * z > 0.12;
      if (!facing || !cut.every((plane) => plane.distanceToPoint(at) > 0)) continue;
      at.project(camera);
      const [left, top] = [(at.x * 0.5 + 0.5) * size.width, (0.5 - at.y * 0.5) * size.height];
      if (at.z < 1 && left > 0 && left < size.width && top > 0 && top < size.height) seen.set(place, [left, top]);
    }
    const written: [number, number][] = [];
    codes.current = [];
    for (const place of places) {
      const element = document.getElementById(id(place));
      if (!element) continue;
      const found = seen.get(place);
      element.style.display = found ? "block" : "none";
      if (found) element.style.transform = `translate(${found[0]}px, ${found[1]}px)`;
      if (!found) continue;
      const [x, y] = found;
      const free = written.every(([a, b]) => Math.abs(a - x) > CODE_PX.width || Math.abs(b - y) > CODE_PX.height);
      if (free) written.push(found);
      if (free && hasCode(place)) codes.current.push({ x: x + CODE_PX.beside, y: y - CODE_PX.above, ...CODE_PX });
      element.dataset.code = free ? "shown" : "hidden";
    }
  });
  return null;
}
