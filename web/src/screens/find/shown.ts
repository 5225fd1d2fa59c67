/** Which places are shown: a group of the atlas, the stops of today's score, or all channel points. */
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { Schema } from "../../api/client";
import { todayQuery, visitQuery } from "../../api/queries";

export const ALL = "all";
export const PLAN = "plan";
/** The group whose sheets a group shares: both maps of the foot are drawn on the same ones. */
export const mapOf = (group: string) => group.replace("2", "");
type Place = Schema["PlaceOnBody"];

/** Ids of the points and areas in today's score. */
export function usePlan(personId: string): string[] {
  const today = useQuery(todayQuery(personId));
  const visit = useQuery({ ...visitQuery(today.data?.visit_id ?? ""), enabled: Boolean(today.data?.visit_id) });
  const stops = visit.data?.score?.stops;
  return useMemo(
    () => [...new Set(stops?.filter((one) => one.kind === "point" || one.kind === "area").map((one) => one.id) ?? [])],
    [stops],
  );
}

/** The places of a group, both sides. */
export function useShownPlaces(places: Place[] | undefined, group: string, plan: string[]): Place[] {
  return useMemo(() => {
    if (!places) return [];
    if (group === ALL) return places.filter((one) => one.kind === "point");
    if (group === PLAN) return places.filter((one) => plan.includes(one.id));
    return places.filter((one) => one.group === group);
  }, [places, group, plan]);
}
