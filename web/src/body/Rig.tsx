/** Camera, light and turning: the application turns the body, the hand may, one key turns it back. */
import { useFrame, useThree } from "@react-three/fiber";
import { type RefObject, useEffect, useRef } from "react";
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import type { Look } from "./view";

const TURN_MS = 200;
const still = () => window.matchMedia("(prefers-reduced-motion: reduce)").matches;

type Way = { from: Look; to: Look; begun: number };

type Props = {
  look: Look;
  turn: number;
  ground: string;
  light: number;
  /** Says `data-still` while the body does not turn, so that whatever waits for the view knows it has been drawn. */
  holder: RefObject<HTMLElement | null>;
  /** Whether the hand may turn the body; not where it paints on it. */
  turns?: boolean;
};

export function Rig({ look, turn, ground, light, holder, turns = true }: Props) {
  const { camera, gl, scene, invalidate } = useThree();
  const controls = useRef<OrbitControls | null>(null);
  const way = useRef<Way | null>(null);
  const turning = useRef(false);
  const lamp = useRef<THREE.DirectionalLight>(null);

  useEffect(() => {
    const made = new OrbitControls(camera, gl.domElement);
    made.enableDamping = false;
    made.enabled = turns;
    made.maxDistance = 900;
    made.minDistance = 8;
    made.addEventListener("change", () => invalidate());
    // Turned by hand: still again when the hand lets go.
    made.addEventListener("start", () => {
      turning.current = true;
    });
    made.addEventListener("end", () => {
      turning.current = false;
      invalidate();
    });
    controls.current = made;
    return () => made.dispose();
  }, [camera, gl, invalidate, turns]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: `turn` counts the wish to be turned back
  useEffect(() => {
    if (!controls.current) return;
    const from = {
      target: controls.current.target.clone(),
      position: camera.position.clone(),
      fog: look.fog,
    };
    way.current = { from, to: look, begun: performance.now() - (still() ? TURN_MS : 0) };
    scene.fog = look.fog < 1000 ? new THREE.Fog(ground, look.fog, look.fog + 60) : null;
    if (holder.current) delete holder.current.dataset.still;
    invalidate();
  }, [look, turn, ground]);

  useFrame(() => {
    if (way.current && controls.current) {
      const { from, to, begun } = way.current;
      const share = Math.min((performance.now() - begun) / TURN_MS, 1);
      const eased = 1 - (1 - share) ** 3;
      controls.current.target.lerpVectors(from.target, to.target, eased);
      camera.position.lerpVectors(from.position, to.position, eased);
      controls.current.update();
      if (share < 1) invalidate();
      else way.current = null;
    }
    if (holder.current) {
      if (way.current || turning.current) delete holder.current.dataset.still;
      else holder.current.dataset.still = "true";
    }
    // The lamp goes with the eye, a little above and to the left of it.
    const target = controls.current?.target;
    if (!lamp.current || !target) return;
    const aside = new THREE.Vector3(-0.45, 0.7, 0).applyQuaternion(camera.quaternion);
    const distance = camera.position.distanceTo(target);
    lamp.current.position.copy(camera.position).addScaledVector(aside, distance);
    lamp.current.target.position.copy(target);
    lamp.current.target.updateMatrixWorld();
  });
  return (
    <>
      <hemisphereLight args={["#ffffff", "#8d8a84", light * 0.85]} />
      <directionalLight ref={lamp} intensity={light * 1.1} />
    </>
  );
}
