/** The skin of a person's figure: triangles are the same for everybody, vertices are theirs. */
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import * as THREE from "three";
import { ApiError, reach } from "../api/client";
import { lastOf } from "../api/queries";

/** What an address gives, as bytes. */
export async function bytes(path: string): Promise<ArrayBuffer> {
  const answer = await reach(new Request(path)).catch(() => null);
  if (!answer?.ok) {
    const message = "The figure could not be loaded. Try again when the server responds.";
    throw new ApiError(answer?.status ?? 0, { code: "away", message, where: path, details: [] });
  }
  return answer.arrayBuffer();
}

const HEAD_BYTES = 16; // four float32: lowest x, y, z, and centimetres a step

/** Vertices (cm) from the wire format of `/figure/skin`. */
export function readVertices(buffer: ArrayBuffer): Float32Array {
  const [x = 0, y = 0, z = 0, step = 0] = new Float32Array(buffer, 0, 4);
  const low = [x, y, z];
  const steps = new Uint16Array(buffer, HEAD_BYTES);
  const vertices = new Float32Array(steps.length);
  for (let i = 0; i < steps.length; i++) vertices[i] = (low[i % 3] ?? 0) + (steps[i] ?? 0) * step;
  return vertices;
}

/** Geometry of the skin with smooth normals; undefined while it loads. */
export function useSkin(personId: string, key: string, pose: string) {
  const triangles = useQuery({
    queryKey: ["triangles"],
    queryFn: () => bytes("/api/body/triangles"),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: Number.POSITIVE_INFINITY,
  });
  const vertices = useQuery({
    queryKey: ["skin", personId, key],
    queryFn: () => bytes(`/api/people/${personId}/figure/skin?pose=${pose}`),
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: lastOf(personId), // from pose to pose the figure stays in the picture
  });
  const geometry = useMemo(() => {
    if (!triangles.data || !vertices.data) return undefined;
    const made = new THREE.BufferGeometry();
    made.setAttribute("position", new THREE.BufferAttribute(readVertices(vertices.data), 3));
    made.setIndex(new THREE.BufferAttribute(new Uint16Array(triangles.data), 1));
    made.computeVertexNormals();
    return made;
  }, [triangles.data, vertices.data]);
  return { geometry, error: triangles.error ?? vertices.error };
}
