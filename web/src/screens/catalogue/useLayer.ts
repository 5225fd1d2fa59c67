/** The practice's changes over the shipped knowledge: read, changed as a whole, checked by the core. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Schema, take } from "../../api/client";
import { catalogueQuery, kindsQuery, layerQuery, refresh, safetyQuery } from "../../api/queries";

export type Layer = Schema["Layer"];
export type LayerOfPractice = ReturnType<typeof useLayer>;

const NOTHING: Layer = {
  rules: [],
  own_complaints: {},
  complaints: {},
  schools: {},
  doses: {},
  preferred: {},
  overrides: false,
};

export function useLayer() {
  const queries = useQueryClient();
  const query = useQuery(layerQuery);
  const put = useMutation({
    mutationFn: (layer: Layer) =>
      take(api.PUT("/api/practice/layer", { body: { version: query.data?.version ?? 0, layer } })),
    onSuccess: (next) => {
      queries.setQueryData(layerQuery.queryKey, next);
      void refresh(queries, catalogueQuery.queryKey);
      void refresh(queries, kindsQuery.queryKey);
      void refresh(queries, safetyQuery.queryKey);
    },
    onError: () => void query.refetch(),
  });
  const layer = query.data?.layer ?? NOTHING;
  return { query, layer, change: (next: Partial<Layer>) => put.mutate({ ...layer, ...next }), failure: put.error };
}

/** An id from somebody's words, one that is not taken: `house_no_face_hole`. */
export function idFor(prefix: string, words: string, taken: string[]): string {
  const plain = words
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "_")
    .replace(/^_|_$/g, "")
    .slice(0, 40);
  const base = `${prefix}_${plain || "one"}`;
  let id = base;
  for (let number = 2; taken.includes(id); number++) id = `${base}_${number}`;
  return id;
}

/** A table without one key. */
export function without<T>(table: Record<string, T> | undefined, key: string): Record<string, T> {
  const { [key]: _, ...rest } = table ?? {};
  return rest;
}
