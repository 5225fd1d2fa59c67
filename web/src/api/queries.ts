/** Server state: one query a thing, invalidated by what changes it. */
import { keepPreviousData, type QueryClient, queryOptions, useQuery } from "@tanstack/react-query";
import { api, type Schema, setCsrf, take } from "./client";

type Entered = (me: Schema["Me"]) => Promise<void>;
let entered: Entered = async () => undefined;
/** What is done with whoever is signed in before anything of theirs is shown: `treatment/session.ts` says it. */
export const whenEntered = (what: Entered) => {
  entered = what;
};

/** Somebody is signed in: writes carry their CSRF value, and the page and this device become theirs. */
export async function enter(me: Schema["Me"]): Promise<void> {
  setCsrf(me.csrf);
  await entered(me);
}

const person_id = (id: string) => ({ params: { path: { person_id: id } } });

export const meQuery = queryOptions({
  queryKey: ["me"],
  queryFn: async () => {
    const me = await take(api.GET("/api/me"));
    await enter(me);
    return me;
  },
  staleTime: 60_000,
});

export const dayQuery = (on: string) =>
  queryOptions({
    queryKey: ["day", on],
    queryFn: () => take(api.GET("/api/day", { params: { query: { on } } })),
  });

export const peopleQuery = queryOptions({
  queryKey: ["people"],
  queryFn: () => take(api.GET("/api/people")),
});

/** Whoever may be meant by what is typed; the last answer stays while the next is on its way. */
export const findPeople = (q: string, archived = false) =>
  queryOptions({
    queryKey: ["people", q, archived],
    queryFn: () => take(api.GET("/api/people", { params: { query: { q, archived } } })),
    placeholderData: keepPreviousData,
  });

export const contactQuery = (id: string) =>
  queryOptions({
    queryKey: ["person", id, "contact"],
    queryFn: () => take(api.GET("/api/people/{person_id}/contact", person_id(id))),
  });

export const storyQuery = (id: string) =>
  queryOptions({
    queryKey: ["person", id, "story"],
    queryFn: () => take(api.GET("/api/people/{person_id}/story", person_id(id))),
  });

export const consentsQuery = (id: string) =>
  queryOptions({
    queryKey: ["person", id, "consents"],
    queryFn: () => take(api.GET("/api/people/{person_id}/consents", person_id(id))),
  });

export const lettersQuery = (id: string) =>
  queryOptions({
    queryKey: ["person", id, "letters"],
    queryFn: () => take(api.GET("/api/people/{person_id}/letters", person_id(id))),
  });

export const personQuery = (id: string) =>
  queryOptions({
    queryKey: ["person", id],
    queryFn: () => take(api.GET("/api/people/{person_id}", person_id(id))),
  });

export const todayQuery = (id: string) =>
  queryOptions({
    queryKey: ["person", id, "today"],
    queryFn: () => take(api.GET("/api/people/{person_id}/today", person_id(id))),
  });

export type Complaint = Schema["ComplaintOut"];
export const complaintsQuery = (id: string) =>
  queryOptions({
    queryKey: ["person", id, "complaints"],
    queryFn: () => take(api.GET("/api/people/{person_id}/complaints", person_id(id))),
  });

export const screeningsQuery = (id: string) =>
  queryOptions({
    queryKey: ["person", id, "screenings"],
    queryFn: () => take(api.GET("/api/people/{person_id}/screenings", person_id(id))),
  });

export const clearancesQuery = (id: string) =>
  queryOptions({
    queryKey: ["person", id, "clearances"],
    queryFn: () => take(api.GET("/api/people/{person_id}/clearances", person_id(id))),
  });

/** Ask anew for what a change has made old. A first answer that is still on its way was asked for before the change:
 * invalidating alone would keep it, so it is given up first. */
export async function refresh(queries: QueryClient, queryKey: readonly unknown[]): Promise<void> {
  await queries.cancelQueries({ queryKey });
  await queries.invalidateQueries({ queryKey });
}

/** While something new of a person loads, the last of the same person stays; never another's. */
export const lastOf =
  (id: string) =>
  <T>(previous: T | undefined, query: { queryKey: readonly unknown[] } | undefined): T | undefined =>
    query?.queryKey[1] === id ? previous : undefined;

/** Places are found standing; in another pose they are carried along for showing. */
export const STANDING = "standing";

const posed = (id: string, pose: string) => ({ params: { path: { person_id: id }, query: { pose } } });

export const figureQuery = (id: string, pose = STANDING) =>
  queryOptions({
    queryKey: ["person", id, "figure", "whole", pose],
    queryFn: () => take(api.GET("/api/people/{person_id}/figure", posed(id, pose))),
    staleTime: 300_000,
  });

export const keptFreeQuery = (id: string) =>
  queryOptions({
    queryKey: ["person", id, "kept-free"],
    queryFn: () => take(api.GET("/api/people/{person_id}/kept-free", person_id(id))),
    staleTime: 60_000,
  });

export const placeQuery = (id: string, place: string, side: "left" | "right", pose = STANDING) =>
  queryOptions({
    queryKey: ["person", id, "figure", "place", place, side, pose],
    queryFn: () =>
      take(
        api.GET("/api/people/{person_id}/places/{id}", {
          params: { path: { person_id: id, id: place }, query: { side, pose } },
        }),
      ),
    staleTime: 300_000,
  });

export const findingsQuery = (id: string, pose = STANDING) =>
  queryOptions({
    queryKey: ["person", id, "figure", "findings", pose],
    queryFn: () => take(api.GET("/api/people/{person_id}/findings", posed(id, pose))),
  });

export const landmarksQuery = (id: string, pose = STANDING) =>
  queryOptions({
    queryKey: ["person", id, "figure", "landmarks", pose],
    queryFn: () => take(api.GET("/api/people/{person_id}/figure/landmarks", posed(id, pose))),
    staleTime: 300_000,
  });

export const worthMeasuringQuery = (id: string, ids?: string[]) =>
  queryOptions({
    queryKey: ["person", id, "figure", "measure-next", ids ?? "plan"],
    queryFn: () =>
      take(
        api.GET("/api/people/{person_id}/measure-next", {
          params: { path: { person_id: id }, query: ids ? { ids } : {} },
        }),
      ),
  });

export const courseQuery = (id: string) =>
  queryOptions({
    queryKey: ["person", id, "course"],
    queryFn: () => take(api.GET("/api/people/{person_id}/course", person_id(id))),
  });

export const followUpQuery = queryOptions({
  queryKey: ["follow-up"],
  queryFn: () => take(api.GET("/api/follow-up")),
});

export const visitQuery = (id: string) =>
  queryOptions({
    queryKey: ["visit", id],
    queryFn: () => take(api.GET("/api/visits/{visit_id}", { params: { path: { visit_id: id } } })),
  });

export const treatmentQuery = (id: string) =>
  queryOptions({
    queryKey: ["visit", id, "treatment"],
    queryFn: () => take(api.GET("/api/visits/{visit_id}/treatment", { params: { path: { visit_id: id } } })),
  });

const forever = { staleTime: Number.POSITIVE_INFINITY, gcTime: Number.POSITIVE_INFINITY };

/** Points and areas by what is typed; the last answer stays while the next is on its way. */
export const searchQuery = (wanted: string) =>
  queryOptions({
    queryKey: ["search", wanted],
    queryFn: () => take(api.GET("/api/atlas/search", { params: { query: { q: wanted } } })),
    enabled: wanted !== "",
    placeholderData: keepPreviousData,
  });

export const catalogueQuery = queryOptions({
  queryKey: ["catalogue"],
  queryFn: () => take(api.GET("/api/catalogue")),
  staleTime: 300_000,
});
export const layerQuery = queryOptions({
  queryKey: ["layer"],
  queryFn: () => take(api.GET("/api/practice/layer")),
});
export const protocolsQuery = queryOptions({
  queryKey: ["protocols"],
  queryFn: () => take(api.GET("/api/protocols")),
});
export const draftsQuery = (visit_id: string) =>
  queryOptions({
    queryKey: ["visit", visit_id, "drafts"],
    queryFn: () => take(api.GET("/api/visits/{visit_id}/drafts", { params: { path: { visit_id } } })),
  });

export const safetyQuery = queryOptions({
  queryKey: ["safety"],
  queryFn: () => take(api.GET("/api/safety")),
  staleTime: 300_000,
});
export const kindsQuery = queryOptions({
  queryKey: ["kinds"],
  queryFn: () => take(api.GET("/api/complaint-kinds")),
  ...forever,
});
export const contentsQuery = queryOptions({
  queryKey: ["atlas", "contents"],
  queryFn: () => take(api.GET("/api/atlas/contents")),
  ...forever,
});
export const rulePartsQuery = queryOptions({
  queryKey: ["atlas", "parts"],
  queryFn: () => take(api.GET("/api/atlas/parts")),
  ...forever,
});
export const ownQuery = queryOptions({
  queryKey: ["atlas", "own"],
  queryFn: () => take(api.GET("/api/atlas/own")),
  gcTime: 0, // an editor begins from what is there now, never from what was there when it was last open
});
export const measuresQuery = queryOptions({
  queryKey: ["measures"],
  queryFn: () => take(api.GET("/api/measures")),
  ...forever,
});
export const reactionsQuery = queryOptions({
  queryKey: ["reactions"],
  queryFn: () => take(api.GET("/api/reactions")),
  ...forever,
});

export const practitionersQuery = queryOptions({
  queryKey: ["practitioners"],
  queryFn: () => take(api.GET("/api/practitioners")),
  staleTime: 60_000,
});

export const useMe = () => useQuery(meQuery);
