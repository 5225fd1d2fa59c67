/** What was painted on a figure, in words. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, take } from "../api/client";

/** What a painted patch lies on, in words and as regions. */
export function usePatch(personId: string, painted: ReadonlySet<number>) {
  const skin = [...painted];
  return useQuery({
    queryKey: ["person", personId, "patch", skin.length, skin[0], skin.at(-1)],
    queryFn: () =>
      take(api.POST("/api/people/{person_id}/painted", { params: { path: { person_id: personId } }, body: { skin } })),
    enabled: skin.length > 0,
    placeholderData: skin.length > 0 ? keepPreviousData : undefined,
  });
}
