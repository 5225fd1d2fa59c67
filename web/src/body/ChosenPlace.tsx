/** The chosen place: a point with its ring, and the arrow along which to press; the skin of an area is drawn by Areas. */
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import type { Schema } from "../api/client";
import type { Colours } from "./colours";
import { lifted, vector } from "./view";

type Located = Schema["Located"];

/** The chosen place: dot, ring of uncertainty, and an arrow along which to press. */
export function Pressing({ located, paint, size }: { located: Located; paint: Colours; size: number }) {
  const { position_cm, normal, uncertainty_cm, press, outline_cm } = located;
  const at = lifted(position_cm, normal, 0.15);
  const flat = useMemo(
    () => new THREE.Quaternion().setFromUnitVectors(new THREE.Vector3(0, 0, 1), vector(normal).normalize()),
    [normal],
  );
  const length = size * 10;
  const arrow = useMemo(() => {
    const toward = vector(press.vector).normalize();
    const tail = vector(position_cm).addScaledVector(toward, -length * 1.06);
    return new THREE.ArrowHelper(toward, tail, length, paint.now, length * 0.3, length * 0.2);
  }, [press.vector, position_cm, paint.now, length]);
  useEffect(() => {
    arrow.traverse((part) => {
      const { material } = part as THREE.Mesh;
      if (material instanceof THREE.Material) {
        material.depthTest = false;
        (material as THREE.MeshBasicMaterial).fog = false;
      }
      part.renderOrder = 6;
    });
    return () => arrow.dispose();
  }, [arrow]);
  const ring = Math.max(uncertainty_cm, size * 1.6);
  return (
    <>
      <mesh position={at} quaternion={flat} renderOrder={5}>
        <circleGeometry args={[size, 40]} />
        <meshBasicMaterial color={paint.now} depthTest={false} fog={false} transparent />
      </mesh>
      {outline_cm.length === 0 && (
        <mesh position={at} quaternion={flat} renderOrder={4}>
          <ringGeometry args={[ring - size * 0.16, ring, 64]} />
          <meshBasicMaterial color={paint.now} depthTest={false} fog={false} transparent side={THREE.DoubleSide} />
        </mesh>
      )}
      <primitive object={arrow} />
    </>
  );
}
