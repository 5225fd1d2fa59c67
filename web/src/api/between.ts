/** Server state of what lies between visits: the plan for home, diaries, reports from home, letters. */
import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { api, BACKGROUND, type Schema, take } from "./client";

export type Wish = Required<Pick<Schema["HomeWish"], "position" | "times_a_day">> & {
  weak_hands?: boolean;
  reaches_feet?: boolean;
  places?: string[];
};
const path = (id: string) => ({ path: { person_id: id } });

export const homePlanQuery = (id: string, wish: Wish) =>
  queryOptions({
    queryKey: ["person", id, "home-plan", wish],
    queryFn: () => take(api.GET("/api/people/{person_id}/home-plan", { params: { ...path(id), query: wish } })),
    placeholderData: keepPreviousData,
  });

export const givenPlanQuery = (id: string) =>
  queryOptions({
    queryKey: ["person", id, "home-plan", "given"],
    queryFn: () => take(api.GET("/api/people/{person_id}/home-plan/given", { params: path(id) })),
  });

export const diariesQuery = (id: string) =>
  queryOptions({
    queryKey: ["person", id, "diaries"],
    queryFn: () => take(api.GET("/api/people/{person_id}/diaries", { params: path(id) })),
  });

export const flagsQuery = queryOptions({
  queryKey: ["home-flags"],
  queryFn: () => take(api.GET("/api/home-flags", BACKGROUND)),
  refetchInterval: 60_000,
});

const MAKING = ["waiting", "making"];
const SOON_MS = 700;

/** While one of them is being made, how far it is is asked for again and again. */
export const papersQuery = (id: string) =>
  queryOptions({
    queryKey: ["person", id, "papers"],
    queryFn: () => take(api.GET("/api/people/{person_id}/papers", { params: path(id), ...BACKGROUND })),
    refetchInterval: ({ state }) => (state.data?.some((one) => MAKING.includes(one.state)) ? SOON_MS : false),
  });

export const templatesQuery = queryOptions({
  queryKey: ["letter-templates"],
  queryFn: () => take(api.GET("/api/letter-templates")),
});
