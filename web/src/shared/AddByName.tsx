/** Add a point, an area or a technique by searching for it: the first hit with Enter, or one of the list. */
import { TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { type RefObject, useEffect, useState } from "react";
import type { Schema } from "../api/client";
import { searchQuery } from "../api/queries";
import css from "./AddByName.module.css";
import { shortId } from "./words";

type Props = {
  label: string;
  placeholder: string;
  techniques?: Schema["Technique"][];
  onAdd: (id: string) => void;
  input?: RefObject<HTMLInputElement | null>;
};

export function AddByName({ label, placeholder, techniques = [], onAdd, input }: Props) {
  const [text, setText] = useState("");
  const [wanted] = useDebouncedValue(text.trim(), 60);
  const found = useQuery(searchQuery(wanted));
  const moves = wanted === "" ? [] : techniques.filter((one) => one.name.toLowerCase().includes(wanted.toLowerCase()));
  const rows = [
    ...(wanted === ""
      ? []
      : (found.data ?? []).slice(0, 6).map((one) => ({ id: one.id, code: shortId(one.id), name: one.name }))),
    ...moves.slice(0, 3).map((one) => ({ id: one.id, code: "", name: one.name })),
  ];
  const add = (id: string) => {
    setText("");
    setEager(false);
    onAdd(id);
  };
  // Enter pressed before the answer came: the first hit is taken as soon as it is there.
  const [eager, setEager] = useState(false);
  const settled = wanted === text.trim() && !found.isFetching && !found.isPlaceholderData;
  const first = rows[0]?.id;
  // biome-ignore lint/correctness/useExhaustiveDependencies: adding is what this waits for, not what it depends on
  useEffect(() => {
    if (!eager || !settled) return;
    setEager(false);
    if (first) add(first);
  }, [eager, settled, first]);
  return (
    <div className={css.add}>
      <TextInput
        ref={input}
        aria-label={label}
        placeholder={placeholder}
        value={text}
        onChange={(event) => setText(event.currentTarget.value)}
        onKeyDown={(event) => {
          if (event.key === "Enter" && text.trim() !== "") setEager(true);
          if (event.key === "Escape") event.currentTarget.blur();
        }}
      />
      {rows.length > 0 && (
        <ul>
          {rows.map((row) => (
            <li key={row.id}>
              <button type="button" onClick={() => add(row.id)}>
                {row.code && <b>{row.code}</b>} {row.name}
              </button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
