/** The score of a visit: composed and checked by the core; every edit goes there and comes back laid out. */
import { notifications } from "@mantine/notifications";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ApiError, api, type Schema, take } from "../../api/client";
import { refresh, visitQuery } from "../../api/queries";

export type Stop = Schema["Stop"];
type Visit = Schema["VisitOut"];

export function useScore(visitId: string, personId: string) {
  const queries = useQueryClient();
  const visit = useQuery(visitQuery(visitId));
  const [past, setPast] = useState<Stop[][]>([]);
  const [future, setFuture] = useState<Stop[][]>([]);

  const kept = (next: Visit) => {
    queries.setQueryData(visitQuery(visitId).queryKey, next);
    void refresh(queries, ["person", personId, "today"]);
    void refresh(queries, ["day"]);
  };
  const refused = (error: unknown) => {
    notifications.show({ message: error instanceof Error ? error.message : "This could not be kept." });
    if (error instanceof ApiError && error.status === 409) void visit.refetch();
  };
  const compose = useMutation({
    mutationFn: (wish: Omit<Schema["ComposeWish"], "version">) =>
      take(
        api.POST("/api/visits/{visit_id}/compose", {
          params: { path: { visit_id: visitId } },
          body: { ...wish, version: visit.data?.version ?? 0 },
        }),
      ),
    onSuccess: (next) => {
      setPast([]);
      setFuture([]);
      kept(next);
    },
    onError: refused,
  });
  const put = useMutation({
    mutationFn: (stops: Stop[]) =>
      take(
        api.PUT("/api/visits/{visit_id}/score", {
          params: { path: { visit_id: visitId } },
          body: { version: visit.data?.version ?? 0, stops },
        }),
      ),
    onSuccess: kept,
    onError: refused,
    scope: { id: `score-${visitId}` },
  });
  const reshape = useMutation({
    mutationFn: (wish: Schema["Reshape"]) => take(api.POST("/api/doses/reshape", { body: wish })),
    onError: refused,
  });

  const stops = visit.data?.score?.stops ?? [];
  const edit = (next: Stop[]) => {
    put.mutate(next, {
      onSuccess: () => {
        setPast([...past, stops]);
        setFuture([]);
      },
    });
  };
  const change = (key: string, by: Partial<Stop>) =>
    edit(stops.map((stop) => (stop.key === key ? { ...stop, ...by } : stop)));
  const stretch = async (key: string, seconds: number, form?: string) => {
    const stop = stops.find((one) => one.key === key);
    if (!stop) return;
    const sides = stop.side === "both" ? 2 : 1;
    const dose = await reshape.mutateAsync({
      dose: stop.dose,
      seconds: Math.max(seconds / sides, 1),
      form: form ?? null,
    });
    change(key, { dose });
  };
  const move = (key: string, before: string | null) => {
    const moved = stops.find((stop) => stop.key === key);
    if (!moved) return;
    const rest = stops.filter((stop) => stop.key !== key);
    const at = before === null ? rest.length : rest.findIndex((stop) => stop.key === before);
    edit([...rest.slice(0, at), moved, ...rest.slice(at)]);
  };
  const undo = () => {
    const last = past.at(-1);
    if (!last) return;
    put.mutate(last, {
      onSuccess: () => {
        setPast(past.slice(0, -1));
        setFuture([stops, ...future]);
      },
    });
  };
  const redo = () => {
    const [next, ...later] = future;
    if (!next) return;
    put.mutate(next, {
      onSuccess: () => {
        setPast([...past, stops]);
        setFuture(later);
      },
    });
  };
  return {
    visit,
    stops,
    compose,
    edit,
    change,
    stretch,
    move,
    undo,
    redo,
    busy: put.isPending,
    canUndo: past.length > 0,
    canRedo: future.length > 0,
  };
}
