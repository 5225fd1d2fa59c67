/** Find: one body; a point by name or by touch; the place, the way there, in centimetres and in fingers. */
import "@fontsource/noto-sans-tc/400.css";
import { SegmentedControl, TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { lazy, Suspense, useRef, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { figureQuery, placeQuery } from "../../api/queries";
import { useKeys } from "../../shared/keys";
import { Trouble, Waiting } from "../../shared/parts";
import { shortId } from "../../shared/words";
import css from "./FindScreen.module.css";
import { PlaceSheet } from "./PlaceSheet";

const BodyView = lazy(() => import("../../body/BodyView"));
type Side = "left" | "right";

export function FindScreen() {
  const { personId } = useParams({ from: "/inside/people/$personId/find" });
  const { id, side: wantedSide } = useSearch({ from: "/inside/people/$personId/find" });
  const side: Side = wantedSide ?? "left";
  const navigate = useNavigate({ from: "/people/$personId/find" });
  const figure = useQuery(figureQuery(personId));
  const place = useQuery({
    ...placeQuery(personId, id ?? "", side),
    enabled: id !== undefined,
    placeholderData: keepPreviousData,
  });
  const choose = (next: string, on: Side) =>
    void navigate({ search: { id: next, side: on === "right" ? "right" : undefined } });

  const known = figure.data?.places.find((one) => one.id === id);
  const chosen = id !== undefined && place.data?.point === id && place.data.side === side ? place.data : undefined;
  const inOrder = figure.data?.places.filter((one) => one.side === "left").map((one) => one.id) ?? [];
  const search = useRef<HTMLInputElement>(null);
  useKeys((event) => {
    if (event.key === "/") {
      search.current?.focus();
      return true;
    }
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step && inOrder.length) {
      const at = id ? inOrder.indexOf(id) : -1;
      const next = inOrder[(at + step + inOrder.length) % inOrder.length];
      if (next) choose(next, side);
      return true;
    }
    if ((event.key === "ArrowLeft" || event.key === "ArrowRight") && known?.paired) {
      choose(known.id, side === "left" ? "right" : "left");
      return true;
    }
  });

  return (
    <div className={css.page}>
      <SearchList
        places={figure.data?.places ?? []}
        chosen={id}
        onChoose={(next) => choose(next, side)}
        input={search}
      />
      <div className={css.body}>
        {figure.isPending && <Waiting for="Fitting the figure" />}
        {figure.isError && <Trouble error={figure.error} retry={() => void figure.refetch()} />}
        {figure.data && (
          <Suspense fallback={<Waiting for="Loading the body" />}>
            <BodyView
              personId={personId}
              figure={figure.data}
              located={chosen}
              part={known?.part}
              onPick={(picked) => choose(picked.id, picked.side)}
            />
          </Suspense>
        )}
        {known?.paired && (
          <SegmentedControl
            className={css.side}
            aria-label="Side"
            data={[
              { value: "right", label: "right" },
              { value: "left", label: "left" },
            ]}
            value={side}
            onChange={(next) => choose(known.id, next as Side)}
          />
        )}
      </div>
      <aside className={css.sheet} aria-live="polite">
        {place.isError && <Trouble error={place.error} retry={() => void place.refetch()} />}
        {chosen ? (
          <PlaceSheet located={chosen} personId={personId} />
        ) : (
          !place.isError && (
            <p className={css.hint}>
              {id
                ? "Locating"
                : "Choose a point from the list, or touch one on the body. Arrow keys walk the list; ← → change the side."}
            </p>
          )
        )}
      </aside>
    </div>
  );
}

type ListProps = {
  places: Schema["PlaceOnBody"][];
  chosen: string | undefined;
  onChoose: (id: string) => void;
  input: React.RefObject<HTMLInputElement | null>;
};

function SearchList({ places, chosen, onChoose, input }: ListProps) {
  const [text, setText] = useState("");
  const [wanted] = useDebouncedValue(text.trim(), 80);
  const found = useQuery({
    queryKey: ["search", wanted],
    queryFn: () => take(api.GET("/api/atlas/search", { params: { query: { q: wanted } } })),
    enabled: wanted !== "",
    placeholderData: keepPreviousData,
  });
  const once = places.filter((place) => place.side === "left");
  const refused = new Set(places.filter((place) => place.refused).map((place) => place.id));
  const shown = wanted === "" ? once : (found.data ?? []);
  return (
    <div className={css.list}>
      <TextInput
        ref={input}
        aria-label="Find a point or area"
        placeholder="SP6, sanyinjiao, inner wrist, headache"
        value={text}
        onChange={(event) => setText(event.currentTarget.value)}
        onKeyDown={(event) => {
          const first = shown[0];
          if (event.key === "Enter" && first) onChoose(first.id);
          if (event.key === "Escape") event.currentTarget.blur();
        }}
      />
      <ul>
        {shown.map((place) => (
          <li key={place.id}>
            <button type="button" aria-current={place.id === chosen || undefined} onClick={() => onChoose(place.id)}>
              <b>{shortId(place.id)}</b>
              <span>
                {place.name}
                <small>{refused.has(place.id) ? "left out for this person" : place.region}</small>
              </span>
            </button>
          </li>
        ))}
      </ul>
      {wanted !== "" && found.data?.length === 0 && (
        <p className={css.hint}>Nothing by that name. Try a place, such as “inner ankle”.</p>
      )}
    </div>
  );
}
