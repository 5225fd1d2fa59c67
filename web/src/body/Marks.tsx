/** The points and areas that can be chosen, as small marks on the body. */
import { useMemo } from "react";
import * as THREE from "three";
import type { Schema } from "../api/client";
import type { Colours } from "./colours";
import { useTouch } from "./useTouch";
import { lifted, type Triple, vector } from "./view";

type Place = Schema["PlaceOnBody"];
type Located = Schema["Located"];

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
  /** Areas among them that are drawn as shapes. */
  shapes: Place[];
  chosen: Located | undefined;
  paint: Colours;
  cut: THREE.Plane[];
  onPick: ((place: Place) => void) | undefined;
  /** A touch on bare skin, away from every mark. */
  onTouch: ((place: Triple) => void) | undefined;
  skin: THREE.BufferGeometry;
};

/** All points and areas as small marks; a click takes the nearest one under the finger that faces the eye. */
export function Marks({ places: all, shapes, chosen, paint, cut, onPick, onTouch, skin }: MarksProps) {
  const places = useMemo(
    () => all.filter((place) => cut.every((plane) => plane.distanceToPoint(vector(place.position_cm)) > 0)),
    [all, cut],
  );
  const others = places.filter((place) => place.id !== chosen?.id || place.side !== chosen.side);
  // What is drawn as a shape needs no dot; a refused one keeps its cross.
  const drawn = useMemo(() => new Set(shapes.map((place) => place.id)), [shapes]);
  const dotted = others.filter((place) => !place.refused && !drawn.has(place.id));
  useTouch({ places, shapes, cut, onPick, onTouch, skin });
  return (
    <>
      <Dots places={dotted} texture={FULL} colour={paint.line} size={7} />
      <Dots places={others.filter((place) => place.refused)} texture={CROSSED} colour={paint.line} size={11} />
    </>
  );
}

const NONE: Place[] = [];

/** A body without marks that can be touched all the same. */
export function BareSkin({ skin, cut, onTouch }: Pick<MarksProps, "skin" | "cut" | "onTouch">) {
  useTouch({ places: NONE, shapes: NONE, cut, onPick: undefined, onTouch, skin });
  return null;
}
