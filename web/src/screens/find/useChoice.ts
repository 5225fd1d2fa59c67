/** What is looked at in Find, kept in the address: a place on a side, the group that is walked through, body or sheets. */
import { useNavigate, useSearch } from "@tanstack/react-router";
import { useEffect, useRef } from "react";
import type { Schema } from "../../api/client";
import { ALL, mapOf, PLAN, usePlan, useShownPlaces } from "./shown";

export type Side = "left" | "right";
type Place = Schema["PlaceOnBody"];

export function useChoice(personId: string, places: Place[] | undefined, contents: Schema["Contents"] | undefined) {
  const { id, side: wantedSide, group: wantedGroup, view } = useSearch({ from: "/inside/people/$personId/find" });
  const side: Side = wantedSide ?? "left";
  const navigate = useNavigate({ from: "/people/$personId/find" });
  const plan = usePlan(personId);
  const known = places?.find((one) => one.id === id && one.side === side);
  const group = wantedGroup ?? known?.group ?? (plan.length > 0 ? PLAN : ALL);
  const shown = useShownPlaces(places, group, plan);
  const sheetsOf = (one: string) => contents?.sheets.filter((sheet) => sheet.group === mapOf(one)) ?? [];

  // What was chosen last, also while the screen is still turning to it: keys may come faster than pictures.
  const last = useRef({ id, side });
  useEffect(() => {
    last.current = { id, side };
  }, [id, side]);

  type Next = { id?: string | undefined; side?: Side; group?: string | undefined; view?: "sheets" | undefined };
  const go = (next: Next) =>
    void navigate({
      search: { id: next.id, side: next.side === "right" ? "right" : undefined, group: next.group, view: next.view },
    });
  const choose = (next: string, on: Side) => {
    last.current = { id: next, side: on };
    // The group stays while the walk goes through it (or its other map); a place from elsewhere brings its own.
    const its = places?.find((one) => one.id === next)?.group;
    const stays = shown.some((one) => one.id === next) || (its !== undefined && mapOf(its) === mapOf(group));
    go({ id: next, side: on, group: stays ? wantedGroup : undefined, view: stays ? view : undefined });
  };
  const inOrder = [...new Set(shown.map((one) => one.id))];
  return {
    id,
    side,
    group,
    view,
    known,
    shown,
    plan,
    sheets: sheetsOf(group),
    choose,
    /** The place after or before, in the order of the list. */
    walk: (by: 1 | -1) => {
      const at = last.current.id ? inOrder.indexOf(last.current.id) : -1;
      const next = inOrder[(at + by + inOrder.length) % inOrder.length];
      if (next) choose(next, last.current.side);
    },
    otherSide: () => {
      const now = places?.find((one) => one.id === last.current.id);
      if (now?.paired) choose(now.id, last.current.side === "left" ? "right" : "left");
    },
    onSide: (next: Side) => go({ id, side: next, group: wantedGroup, view }),
    inGroup: (next: string) => go({ group: next, side, view: sheetsOf(next).length > 0 ? "sheets" : undefined }),
    inView: (next: "sheets" | undefined) => go({ id, side, group: wantedGroup ?? group, view: next }),
  };
}
export type Choice = ReturnType<typeof useChoice>;
