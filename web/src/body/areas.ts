/** Areas on the skin, loaded once for everybody. */
import { useQuery } from "@tanstack/react-query";
import { type AreaPack, readAreas } from "./areaPack";
import { bytes } from "./skin";

export function useAreas(vertices: number): AreaPack | undefined {
  const pack = useQuery({
    queryKey: ["areas on the body"],
    queryFn: async () => readAreas(await bytes("/api/body/areas"), vertices),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: Number.POSITIVE_INFINITY,
  });
  return pack.data;
}
