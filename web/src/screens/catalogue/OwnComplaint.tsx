/** A complaint that the practice adds: what it is called, what it hinders, when to stop. Its points are added after. */
import { Button, SegmentedControl, Textarea, TextInput } from "@mantine/core";
import { type FormEvent, useState } from "react";
import type { Schema } from "../../api/client";
import css from "./CatalogueScreen.module.css";

type Own = Schema["OwnComplaint"];
const EMPTY: Own = {
  name: "",
  sides: "both",
  stop_if: [],
  ask: [],
  acts: [],
  measure: "0 to 10, for the activity affected",
  techniques: [],
};
const LISTS = [
  ["acts", "Activities affected, one per line"],
  ["stop_if", "Stop and refer if, one per line"],
  ["ask", "Questions to ask, one per line"],
] as const;
const lines = (text: string) =>
  text
    .split("\n")
    .map((line) => line.trim())
    .filter((line) => line !== "");

export function OwnComplaint({ begun, onKeep }: { begun?: Own; onKeep: (own: Own) => void }) {
  const [own, setOwn] = useState<Own>(begun ?? EMPTY);
  const [texts, setTexts] = useState(() => Object.fromEntries(LISTS.map(([name]) => [name, own[name].join("\n")])));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    onKeep({ ...own, ...Object.fromEntries(LISTS.map(([name]) => [name, lines(texts[name] ?? "")])) });
  };
  return (
    <form className={css.own} onSubmit={submit} aria-label="New practice complaint">
      <TextInput
        label="Name"
        placeholder="Grip after carving"
        value={own.name}
        onChange={(event) => setOwn({ ...own, name: event.currentTarget.value })}
      />
      <SegmentedControl
        aria-label="Sides"
        data={[
          { value: "both", label: "both sides" },
          { value: "affected", label: "the affected side" },
        ]}
        value={own.sides}
        onChange={(sides) => setOwn({ ...own, sides: sides as Own["sides"] })}
      />
      {LISTS.map(([name, label]) => (
        <Textarea
          key={name}
          label={label}
          autosize
          minRows={1}
          value={texts[name]}
          onChange={(event) => setTexts({ ...texts, [name]: event.currentTarget.value })}
        />
      ))}
      <TextInput
        label="Measure progress by"
        value={own.measure}
        onChange={(event) => setOwn({ ...own, measure: event.currentTarget.value })}
      />
      <Button type="submit" disabled={own.name.trim() === "" || own.measure.trim() === ""}>
        Save complaint
      </Button>
    </form>
  );
}
