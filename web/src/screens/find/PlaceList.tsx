/** The list at the left: search that forgives, the group that is looked through, and its places. */
import { NativeSelect, TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { type RefObject, useEffect, useMemo, useRef, useState } from "react";
import type { Schema } from "../../api/client";
import { searchQuery } from "../../api/queries";
import { shortId } from "../../shared/words";
import css from "./FindScreen.module.css";
import { OwnFile } from "./OwnFile";
import { ALL, PLAN } from "./shown";

const FACINGS = [
  { value: "", label: "best view for each" },
  { value: "front", label: "from the front" },
  { value: "back", label: "from the back" },
  { value: "outer", label: "from the outer side" },
  { value: "inner", label: "from the inner side" },
  { value: "top", label: "from above" },
  { value: "sole", label: "from below" },
];

type Place = Schema["PlaceOnBody"];
type Props = {
  personId: string;
  places: Place[];
  everywhere: Place[];
  group: string;
  groups: Schema["Group"][];
  planned: boolean;
  side: "left" | "right";
  chosen: string | undefined;
  onGroup: (group: string) => void;
  onChoose: (id: string) => void;
  input: RefObject<HTMLInputElement | null>;
};

export function PlaceList(props: Props) {
  const { personId, places, everywhere, group, groups, planned, side, chosen, onGroup, onChoose, input } = props;
  const [text, setText] = useState("");
  const [facing, setFacing] = useState("");
  const [wanted] = useDebouncedValue(text.trim(), 60);
  const found = useQuery(searchQuery(wanted));
  const once = useMemo(() => {
    const seen = new Set<string>();
    return places.filter((one) => !seen.has(one.id) && seen.add(one.id));
  }, [places]);
  const refused = useMemo(() => new Set(everywhere.filter((one) => one.refused).map((one) => one.id)), [everywhere]);
  const shown: { id: string; name: string; region: string }[] = wanted === "" ? once : (found.data ?? []);
  // Enter pressed before the answer came: the first hit is taken as soon as it is there.
  const [eager, setEager] = useState(false);
  const settled = wanted === text.trim() && !found.isFetching && !found.isPlaceholderData;
  useEffect(() => {
    if (!eager || !settled) return;
    setEager(false);
    const first = found.data?.[0];
    if (first) onChoose(first.id);
  }, [eager, settled, found.data, onChoose]);
  const current = useRef<HTMLButtonElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another choice may lie outside of what is scrolled to
  useEffect(() => {
    // In braces: newer browsers give back a promise, which is no way to end an effect.
    current.current?.scrollIntoView({ block: "nearest" });
  }, [chosen, group]);
  const options = [
    ...(planned ? [{ value: PLAN, label: "Today's score" }] : []),
    { value: ALL, label: "All points" },
    ...groups.map((one) => ({ value: one.id, label: one.name })),
  ];
  const plates = group === ALL || group === PLAN ? once.slice(0, 60).map((one) => `ids=${one.id}`) : [`group=${group}`];
  return (
    <div className={css.list}>
      <div>
        <TextInput
          ref={input}
          aria-label="Find a point or area"
          placeholder="SP6, inner wrist, headache"
          value={text}
          onChange={(event) => {
            setText(event.currentTarget.value);
            setEager(false);
          }}
          onKeyDown={(event) => {
            if (event.key === "Enter" && text.trim() !== "") setEager(true);
            if (event.key === "Escape") event.currentTarget.blur();
          }}
        />
        {wanted === "" && (
          <NativeSelect
            aria-label="Group"
            data={options}
            value={group}
            onChange={(event) => onGroup(event.currentTarget.value)}
          />
        )}
      </div>
      <ul>
        {shown.map((place) => (
          <li key={place.id}>
            <button
              type="button"
              ref={place.id === chosen ? current : undefined}
              aria-current={place.id === chosen || undefined}
              onClick={() => onChoose(place.id)}
            >
              <b>{shortId(place.id)}</b>
              <span>
                {place.name}
                <small>{refused.has(place.id) ? "left out for this person" : place.region}</small>
              </span>
            </button>
          </li>
        ))}
        {wanted !== "" && found.data?.length === 0 && (
          <li className={css.hint}>No match. Try a body part, such as “inner ankle”.</li>
        )}
        {wanted === "" && once.length === 0 && everywhere.length > 0 && (
          <li className={css.hint}>Nothing here yet. Add your own point next to the body.</li>
        )}
      </ul>
      {wanted === "" && group === "own" && <OwnFile empty={once.length === 0} />}
      {wanted === "" && once.length > 0 && group !== ALL && group !== "own" && (
        <div className={css.plates}>
          <NativeSelect
            aria-label="View"
            data={FACINGS}
            value={facing}
            onChange={(event) => setFacing(event.currentTarget.value)}
          />
          <a
            href={`/api/people/${personId}/plates?${plates.join("&")}&side=${side}${facing && `&facing=${facing}`}`}
            target="_blank"
            rel="noreferrer"
          >
            Print {group === PLAN ? "these points" : "this group"}
          </a>
        </div>
      )}
    </div>
  );
}
