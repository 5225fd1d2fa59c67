/** The score of a visit: composed and checked by the core; every edit goes there and comes back laid out. */
import { notifications } from "@mantine/notifications";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ApiError, api, type Schema, take } from "../../api/client";
import { refresh, visitQuery } from "../../api/queries";
import type { Form, Lane } from "../../score/shapes";

export type Stop = Schema["Stop"];
export type DraftStop = Schema["DraftStop"];
export type Wish = Schema["CompositionInput"];
type Visit = Schema["VisitOut"];

export type ScoreOfVisit = ReturnType<typeof useScore>;

export function useScore(visitId: string, personId: string) {
  const queries = useQueryClient();
  const visit = useQuery(visitQuery(visitId));
  const [past, setPast] = useState<Stop[][]>([]);
  const [future, setFuture] = useState<Stop[][]>([]);
  const path = { path: { visit_id: visitId } };
  const version = () => visit.data?.version ?? 0;

  const kept = (next: Visit) => {
    queries.setQueryData(visitQuery(visitId).queryKey, next);
    void refresh(queries, ["person", personId, "today"]);
    void refresh(queries, ["day"]);
  };
  /** A score that did not come from editing: what could be undone before belongs to another one. */
  const replaced = (next: Visit) => {
    setPast([]);
    setFuture([]);
    kept(next);
  };
  const refused = (error: unknown) => {
    notifications.show({ message: error instanceof Error ? error.message : "This could not be saved." });
    if (error instanceof ApiError && error.status === 409) void visit.refetch();
  };
  const compose = useMutation({
    mutationFn: (wish: Wish) =>
      take(api.POST("/api/visits/{visit_id}/compose", { params: path, body: { ...wish, version: version() } })),
    onSuccess: replaced,
  });
  const put = useMutation({
    mutationFn: (stops: DraftStop[]) =>
      take(api.PUT("/api/visits/{visit_id}/score", { params: path, body: { version: version(), stops } })),
    onSuccess: kept,
    onError: refused,
    scope: { id: `score-${visitId}` },
  });
  const reshape = useMutation({
    mutationFn: (wish: Schema["Reshape"]) => take(api.POST("/api/doses/reshape", { body: wish })),
    onError: refused,
  });
  const asked = useMutation({
    mutationFn: (wish: Schema["StopWish"]) =>
      take(api.POST("/api/visits/{visit_id}/stops", { params: path, body: wish })),
    onError: refused,
  });
  const restore = useMutation({
    mutationFn: (draft_id: string) =>
      take(
        api.POST("/api/drafts/{draft_id}/restore", { params: { path: { draft_id } }, body: { version: version() } }),
      ),
    onSuccess: replaced,
    onError: refused,
  });
  const apply = useMutation({
    mutationFn: (protocol_id: string) =>
      take(
        api.POST("/api/visits/{visit_id}/apply-protocol", {
          params: path,
          body: { version: version(), protocol_id, minutes: null },
        }),
      ),
    onSuccess: replaced,
    onError: refused,
  });

  const stops = visit.data?.score?.stops ?? [];
  const edit = (next: DraftStop[]) => {
    put.mutate(next, {
      onSuccess: () => {
        setPast([...past, stops]);
        setFuture([]);
      },
    });
  };
  const change = (key: string, by: Partial<DraftStop>) =>
    edit(stops.map((stop) => (stop.key === key ? { ...stop, ...by } : stop)));
  const stretch = async (key: string, seconds: number, form?: Form) => {
    const stop = stops.find((one) => one.key === key);
    if (!stop) return;
    const sides = stop.side === "both" && !stop.dose.together ? 2 : 1;
    const dose = await reshape.mutateAsync({
      dose: stop.dose,
      seconds: Math.max(seconds / sides, 1),
      form: form ?? null,
    });
    change(key, { dose });
  };
  /** A dose told in words. Raises: ApiError saying what was not understood. */
  const told = async (key: string, text: string) => {
    const stop = stops.find((one) => one.key === key);
    if (!stop) return;
    const dose = await take(api.POST("/api/doses/read", { body: { text } }));
    change(key, { dose: { ...dose, together: dose.together || stop.dose.together } as DraftStop["dose"] });
  };
  const move = (key: string, before: string | null) => {
    const moved = stops.find((stop) => stop.key === key);
    if (!moved) return;
    const rest = stops.filter((stop) => stop.key !== key);
    const at = before === null ? rest.length : rest.findIndex((stop) => stop.key === before);
    edit([...rest.slice(0, at), moved, ...rest.slice(at)]);
  };
  const side = (key: string, lane: Lane) => change(key, { side: lane === "midline" ? "both" : lane });
  const remove = (key: string) => edit(stops.filter((stop) => stop.key !== key));
  const duplicate = (key: string) => {
    const at = stops.findIndex((stop) => stop.key === key);
    const one = stops[at];
    if (!one) return;
    const taken = new Set(stops.map((stop) => stop.key));
    let number = 2;
    while (taken.has(`${one.id}-${number}`)) number++;
    edit([...stops.slice(0, at + 1), { ...one, key: `${one.id}-${number}` }, ...stops.slice(at + 1)]);
  };
  /** Add a stop after the one that is chosen, or before the closing. */
  const add = async (id: string, after: string | null, how: { override?: string; side?: "left" | "right" } = {}) => {
    const stop = await asked.mutateAsync({ id, side: how.side ?? null, override: how.override ?? "" });
    const at = stops.findIndex((one) => one.key === after);
    const end = stops.findIndex((one) => one.kind === "second_look" || one.kind === "close");
    const place = at >= 0 ? at + 1 : end >= 0 ? end : stops.length;
    edit([...stops.slice(0, place), stop, ...stops.slice(place)]);
    return stop.key;
  };
  const undo = () => {
    const last = past.at(-1);
    if (!last || put.isPending) return;
    put.mutate(last, {
      onSuccess: () => {
        setPast(past.slice(0, -1));
        setFuture([stops, ...future]);
      },
    });
  };
  const redo = () => {
    const [next, ...later] = future;
    if (!next || put.isPending) return;
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
    restore,
    apply,
    edit,
    change,
    stretch,
    told,
    move,
    side,
    remove,
    duplicate,
    add,
    undo,
    redo,
    busy: put.isPending || restore.isPending || apply.isPending,
    canUndo: past.length > 0,
    canRedo: future.length > 0,
  };
}
