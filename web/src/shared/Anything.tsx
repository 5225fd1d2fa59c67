/** Anything by Ctrl or ⌘ K: people, places, pages and what can be done on the one that is open; the last ones first. */

import { useDebouncedValue } from "@mantine/hooks";
import { createSpotlight, Spotlight, type SpotlightActionData } from "@mantine/spotlight";
import { useQuery } from "@tanstack/react-query";
import { useMatchRoute, useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { useMay } from "../api/practice";
import { catalogueQuery, findPeople, protocolsQuery, searchQuery } from "../api/queries";
import { shortId } from "./words";

const [store, spotlight] = createSpotlight();
export const openAnything = spotlight.open;

const RECENT = "acuthesis-recent";
const MOST_RECENT = 6;
const MOST_OF_A_KIND = 6;
type Entry = { id: string; label: string; group: string; description?: string; to: string };

/** What was opened last on this device. Names of people are not kept, only where they are. */
function recent(): string[] {
  try {
    const kept: unknown = JSON.parse(sessionStorage.getItem(RECENT) ?? "[]");
    return Array.isArray(kept) ? kept.filter((one) => typeof one === "string") : [];
  } catch {
    return [];
  }
}
const remember = (id: string) =>
  sessionStorage.setItem(RECENT, JSON.stringify([id, ...recent().filter((one) => one !== id)].slice(0, MOST_RECENT)));

/** The stations of a person, offered while one is open. */
const STATIONS: [string, string][] = [
  ["story", "History and screening"],
  ["complaints", "Complaints"],
  ["measures", "Measurements"],
  ["find", "Find a point"],
  ["compose", "Compose"],
  ["follow", "Progress"],
  ["take-away", "Documents"],
  ["file", "Details: contact, consent, letters"],
];

export function Anything() {
  const [query, setQuery] = useState("");
  const [wanted] = useDebouncedValue(query.trim(), 80);
  const reads = useMay("read_health");
  const manages = useMay("manage");
  const matches = useMatchRoute();
  const at = matches({ to: "/people/$personId", fuzzy: true });
  const person = at ? (at.personId as string | undefined) : undefined;
  const open = wanted !== "";
  const people = useQuery({ ...findPeople(wanted), enabled: open });
  const places = useQuery({ ...searchQuery(wanted), enabled: open && reads });
  const catalogue = useQuery({ ...catalogueQuery, enabled: open && reads });
  const protocols = useQuery({ ...protocolsQuery, enabled: open && reads });
  const navigate = useNavigate();
  const has = (text: string) => text.toLowerCase().includes(wanted.toLowerCase());
  const pages: Entry[] = [
    { id: "page-day", label: "Day", group: "Pages", to: "/" },
    { id: "page-week", label: "Week", group: "Pages", to: "/week" },
    { id: "page-people", label: "People", group: "Pages", to: "/people" },
    { id: "page-account", label: "Your account", group: "Pages", to: "/account" },
    ...(reads
      ? [
          { id: "page-catalogue", label: "Catalogue", group: "Pages", to: "/catalogue" },
          { id: "page-safety", label: "Safety", group: "Pages", to: "/safety" },
          {
            id: "page-hands-free",
            label: "Hands-free treatment: sound, voice, pedals",
            group: "Pages",
            to: "/hands-free",
          },
          { id: "page-audit", label: "Audit", group: "Pages", to: "/audit" },
        ]
      : []),
    ...(manages ? [{ id: "page-practice", label: "Practice", group: "Pages", to: "/practice" }] : []),
  ];
  const here: Entry[] =
    person && reads
      ? STATIONS.map(([path, label]) => ({
          id: `here-${path}`,
          label,
          group: "This person",
          to: `/people/${person}/${path}`,
        }))
      : [];
  const found: Entry[] = open
    ? [
        ...(people.data ?? []).slice(0, MOST_OF_A_KIND).map((one) => ({
          id: `person-${one.id}`,
          label: `${one.given_name} ${one.family_name}`.trim(),
          description: String(one.age),
          group: "People",
          to: `/people/${one.id}`,
        })),
        ...here.filter((one) => has(one.label)),
        ...(person ? (places.data ?? []) : []).slice(0, MOST_OF_A_KIND).map((one) => ({
          id: `place-${one.id}`,
          label: `${shortId(one.id)} ${one.name}`,
          group: "Points and areas",
          to: `/people/${person}/find?id=${encodeURIComponent(one.id)}`,
        })),
        ...(catalogue.data?.complaints ?? [])
          .filter((one) => has(one.kind.name))
          .slice(0, MOST_OF_A_KIND)
          .map((one) => ({
            id: `complaint-${one.kind.id}`,
            label: one.kind.name,
            group: "Complaints",
            to: person ? `/people/${person}/complaints` : "/catalogue?shelf=complaints",
          })),
        ...(protocols.data ?? [])
          .filter((one) => has(one.protocol.name))
          .slice(0, MOST_OF_A_KIND)
          .map((one) => ({
            id: `protocol-${one.id}`,
            label: one.protocol.name,
            group: "Protocols",
            to: person ? `/people/${person}/compose` : "/catalogue",
          })),
        ...pages.filter((one) => has(one.label)),
      ]
    : [...lastFirst([...here, ...pages])];
  const groups = [...new Set(found.map((one) => one.group))];
  const action = (one: Entry): SpotlightActionData => ({
    id: one.id,
    label: one.label,
    description: one.description,
    onClick: () => {
      remember(one.id);
      void navigate({ href: one.to });
    },
  });
  return (
    <Spotlight
      store={store}
      shortcut={["mod + K"]}
      query={query}
      onQueryChange={setQuery}
      actions={groups.map((group) => ({
        group,
        actions: found.filter((one) => one.group === group).map(action),
      }))}
      filter={(_, actions) => actions}
      searchProps={{ placeholder: "A person, a place, a page", "aria-label": "Search anything" }}
      nothingFound={people.isFetching ? "Searching" : "No match."}
      scrollable
      maxHeight={420}
    />
  );
}

const lastFirst = (entries: Entry[]): Entry[] => {
  const last = recent();
  const rank = (one: Entry) => (last.includes(one.id) ? last.indexOf(one.id) : MOST_RECENT);
  return [...entries].sort((a, b) => rank(a) - rank(b));
};
