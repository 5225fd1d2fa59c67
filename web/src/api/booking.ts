/** Server state of appointments: a week, a person's, what is planned, gaps, and what is due. */
import { keepPreviousData, type QueryClient, queryOptions } from "@tanstack/react-query";
import { api, type Schema, take } from "./client";
import { refresh } from "./queries";

export type Appointment = Schema["Appointment"];

const of = (person_id: string) => ({ params: { path: { person_id } } });

export const weekQuery = (first: string, days = 7) =>
  queryOptions({
    queryKey: ["appointments", first, days],
    queryFn: () => take(api.GET("/api/appointments", { params: { query: { first, days } } })),
    placeholderData: keepPreviousData,
  });

export const appointmentsOf = (id: string) =>
  queryOptions({
    queryKey: ["person", id, "appointments"],
    queryFn: () => take(api.GET("/api/people/{person_id}/appointments", of(id))),
  });

export const plannedOf = (id: string) =>
  queryOptions({
    queryKey: ["person", id, "planned"],
    queryFn: () => take(api.GET("/api/people/{person_id}/planned", of(id))),
  });

export const gapsQuery = (wish: { minutes: number; first?: string; practitioner_id?: string; place_id?: string }) =>
  queryOptions({
    queryKey: ["gaps", wish],
    queryFn: () => take(api.GET("/api/gaps", { params: { query: wish } })),
    placeholderData: keepPreviousData,
  });

export const dueQuery = queryOptions({ queryKey: ["due"], queryFn: () => take(api.GET("/api/due")) });

export const recordQuery = (id: string) =>
  queryOptions({
    queryKey: ["visit", id, "record"],
    queryFn: () => take(api.GET("/api/visits/{visit_id}/record", { params: { path: { visit_id: id } } })),
  });

/** An appointment was booked, moved or marked: the day, the week, gaps and the person's own list are old. */
export async function appointmentsChanged(queries: QueryClient, personId: string): Promise<void> {
  // What is known to be old decides nothing: a screen that is opened next waits for what holds now, and does not offer
  // "Start a visit now" to somebody who has just been given an appointment for today.
  queries.removeQueries({ queryKey: ["person", personId, "today"], type: "inactive" });
  await Promise.all(
    [["day"], ["appointments"], ["gaps"], ["due"], ["person", personId], ["visit"]].map((key) => refresh(queries, key)),
  );
}
