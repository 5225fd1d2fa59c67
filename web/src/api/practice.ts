/** Server state of the practice itself: who works here, its places and hours, one's own account. */
import { queryOptions, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Schema, take } from "./client";
import { meQuery, useMe } from "./queries";

export type Power = Schema["Me"]["powers"][number];
export type Role = Schema["Me"]["role"];

export const roleWords: Record<Role, string> = {
  owner: "Owner",
  practitioner: "Practitioner",
  helper: "Receptionist",
  reader: "Read-only",
};
export const roleMeans: Record<Role, string> = {
  owner: "treats people and manages the practice and staff",
  practitioner: "treats people: health records and appointments",
  helper: "books and moves appointments, cannot see health records",
  reader: "reads health records, cannot change them",
};

/** Whether whoever is signed in may do a thing. What they may not is not offered; the server refuses it in any case. */
export const useMay = (power: Power) => useMe().data?.powers.includes(power) ?? false;

export const practiceQuery = queryOptions({
  queryKey: ["practice"],
  queryFn: () => take(api.GET("/api/practice")),
  staleTime: 60_000,
});
export const usePractice = () => useQuery(practiceQuery);

/** Change the practice; who is signed in hears of it, because much of it is theirs to see. */
export function useChangePractice(onDone?: () => void) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schema["PracticeChange"]) => take(api.PATCH("/api/practice", { body })),
    onSuccess: (now) => {
      queries.setQueryData(practiceQuery.queryKey, now);
      void queries.invalidateQueries(meQuery);
      onDone?.();
    },
  });
}

export const staffQuery = queryOptions({ queryKey: ["staff"], queryFn: () => take(api.GET("/api/staff")) });
export const sessionsQuery = queryOptions({
  queryKey: ["me", "sessions"],
  queryFn: () => take(api.GET("/api/me/sessions")),
});
