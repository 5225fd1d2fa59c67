/** The day at hand: what today's treatments need is fetched while the network is there, so that they can be begun
 * without it.
 */
import { useEffect, useState } from "react";
import { api, type Schema, take } from "../api/client";
import { STANDING } from "../api/queries";
import { dropFromDevice, dropSnapshots, fromDevice, keepOnDevice, keepSnapshot } from "./device";
import { put, stock } from "./pantry";

type DayVisit = Schema["DayVisit"];
const AGAIN_MS = 10 * 60_000; // so long what was fetched is good enough, where the visit still stands as it stood
const SETTLED_MS = 3000;
const BODY = ["/api/body/triangles", "/api/body/cloth"];
/** When a visit was brought and how it stood then. Kept beside what was brought, so that it goes with it. */
type Brought = { at: number; stood: string };
const noteOf = (visit: DayVisit) => `at-hand/${visit.person_id}/${visit.visit_id}`;

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

/** Those of today that may still be treated, the nearest to now first. */
const nearestFirst = (visits: DayVisit[]): DayVisit[] => {
  const away = (visit: DayVisit) => Math.abs(Date.parse(visit.starts_at) - Date.now());
  return visits.filter((visit) => !visit.done).sort((a, b) => away(a) - away(b));
};

type Bringing = { told: (visitId: string) => void; left: () => boolean };

/** Bring the visits of today that have a score to hand, one after the other, as long as the day is looked at. */
export async function bringDayToHand(visits: DayVisit[], address: string, { told, left }: Bringing): Promise<void> {
  const people = visits.map((visit) => visit.person_id);
  const kept = new Set([...BODY, "/api/me", address]);
  await dropFromDevice((name) => !kept.has(name) && !people.some((id) => name.includes(id)));
  await dropSnapshots((id) => !visits.some((visit) => visit.visit_id === id));
  await stock("/api/me");
  await stock(address);
  for (const one of BODY) await stock(one);
  for (const visit of nearestFirst(visits)) {
    if (left()) return;
    const known = await fromDevice<Brought>(noteOf(visit));
    const stood = JSON.stringify(visit.next) + visit.limits.join();
    const fresh = known && known.stood === stood && Date.now() - known.at < AGAIN_MS;
    if (!fresh) {
      if (!(await bring(visit))) continue;
      await keepOnDevice(noteOf(visit), { at: Date.now(), stood } satisfies Brought);
    }
    told(visit.visit_id);
  }
}

/** Keeps today at hand while it is looked at: ids of the visits that can be begun without the network. It waits a
 * little, because whoever goes on at once needs the server for something else.
 */
export function useDayAtHand(visits: DayVisit[] | undefined, address: string | null): ReadonlySet<string> {
  const [there, setThere] = useState<ReadonlySet<string>>(new Set());
  useEffect(() => {
    if (!visits || !address) return;
    let off = false;
    const told = (id: string) => setThere((now) => new Set([...now, id]));
    const timer = setTimeout(() => {
      // The network may go meanwhile: what was fetched before is still there.
      bringDayToHand(visits, address, { told, left: () => off }).catch(() => undefined);
    }, SETTLED_MS);
    return () => {
      off = true;
      clearTimeout(timer);
    };
  }, [visits, address]);
  return there;
}
