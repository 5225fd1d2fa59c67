/** The day at hand: what today's treatments need is fetched while the network is there, so that they can be begun
 * without it.
 */
import { useEffect, useState } from "react";
import { api, type Schema, take } from "../api/client";
import { STANDING } from "../api/queries";
import { dropFromDevice, keepSnapshot } from "./device";
import { put, stock } from "./pantry";

type DayVisit = Schema["DayVisit"];
const AGAIN_MS = 10 * 60_000; // so long what was fetched is good enough, where the visit still stands as it stood
const BODY = ["/api/body/triangles", "/api/body/cloth"];
const fetched = new Map<string, { at: number; stood: string }>();

const figureOf = (id: string) => [
  `/api/people/${id}/figure?pose=${STANDING}`,
  `/api/people/${id}/figure/skin?pose=${STANDING}`,
  `/api/people/${id}/kept-free`,
];

/** Bring one visit to hand. Returns whether it could be begun from here. */
async function bring(visit: DayVisit): Promise<boolean> {
  const path = { params: { path: { visit_id: visit.visit_id } } };
  const found = await take(api.GET("/api/visits/{visit_id}/at-hand", path));
  if (found.refused) return false;
  for (const address of figureOf(visit.person_id)) await stock(address);
  for (const place of found.places)
    await put(`/api/people/${visit.person_id}/places/${place.id}?side=${place.side}&pose=${STANDING}`, place);
  await keepSnapshot({
    visitId: visit.visit_id,
    visit: found.visit,
    person: found.person,
    treatment: found.treatment,
  });
  return true;
}

/** Bring the visits of today that have a score to hand. Returns the ids of those that could be begun. */
export async function bringDayToHand(visits: DayVisit[], address: string): Promise<string[]> {
  const ready = visits.filter((visit) => !visit.done);
  const people = new Set(visits.map((visit) => visit.person_id));
  await dropFromDevice((name) => !BODY.includes(name) && ![...people].some((id) => name.includes(id)));
  await stock("/api/me");
  await stock(address);
  const there: string[] = [];
  if (ready.length > 0) for (const one of BODY) await stock(one);
  for (const visit of ready) {
    const known = fetched.get(visit.visit_id);
    const stood = JSON.stringify(visit.next) + visit.limits.join();
    const fresh = known && known.stood === stood && Date.now() - known.at < AGAIN_MS;
    if (!fresh && !(await bring(visit))) continue;
    fetched.set(visit.visit_id, { at: Date.now(), stood });
    there.push(visit.visit_id);
  }
  return there;
}

/** Keeps today at hand as it changes; ids of the visits that can be begun without the network, null while it fetches. */
export function useDayAtHand(visits: DayVisit[] | undefined, address: string | null): string[] | null {
  const [there, setThere] = useState<string[] | null>(null);
  useEffect(() => {
    if (!visits || !address) return;
    let off = false;
    bringDayToHand(visits, address)
      .then((ids) => off || setThere(ids))
      .catch(() => undefined); // the network is away: what was fetched before is still there
    return () => {
      off = true;
    };
  }, [visits, address]);
  return there;
}
