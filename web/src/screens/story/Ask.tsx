/** One question of the screening, with the control that its kind of answer needs. */
import { MultiSelect, NumberInput, SegmentedControl } from "@mantine/core";
import type { Schema } from "../../api/client";
import { partWords } from "../../shared/words";
import css from "./StoryScreen.module.css";

type Question = Schema["Question"];
const LYING = [
  ["prone", "face down"],
  ["supine", "face up"],
  ["left_side", "on the left side"],
  ["right_side", "on the right side"],
] as const;

/** Parts of the body that an answer may name, each whole or on one side. */
const PARTS = {
  ...partWords,
  low_back: "low back",
  upper_back: "upper back",
  knee_front: "front of the knee",
  knee_back: "behind the knee",
  calf: "calf",
  sole: "sole",
  shoulder_top: "top of the shoulder",
  ear_area: "ear",
  face: "face",
  lower_belly: "lower belly",
  chest: "chest",
} as const;
const PLACES = Object.entries(PARTS).flatMap(([part, words]) => [
  { value: part, label: words },
  { value: `${part}.left`, label: `${words}, left` },
  { value: `${part}.right`, label: `${words}, right` },
]);

export function Ask({
  question,
  value,
  onChange,
}: {
  question: Question;
  value: unknown;
  onChange: (v: unknown) => void;
}) {
  if (question.kind === "weeks") {
    return (
      <div className={css.row} data-on={value !== undefined || undefined}>
        <label htmlFor={question.id}>{question.ask}</label>
        <NumberInput
          id={question.id}
          w={86}
          min={0}
          max={43}
          allowDecimal={false}
          value={typeof value === "number" ? value : ""}
          onChange={(weeks) => onChange(typeof weeks === "number" ? weeks : undefined)}
        />
      </div>
    );
  }
  if (question.kind === "side") {
    return (
      <div className={css.row} data-on={value !== undefined || undefined}>
        <span id={question.id}>{question.ask}</span>
        <SegmentedControl
          size="xs"
          aria-labelledby={question.id}
          data={[
            { value: "no", label: "no" },
            { value: "left", label: "left" },
            { value: "right", label: "right" },
            { value: "both", label: "both" },
          ]}
          value={typeof value === "string" ? value : "no"}
          onChange={(side) => onChange(side === "no" ? undefined : side)}
        />
      </div>
    );
  }
  if (question.kind === "reading") {
    const [upper, lower] = Array.isArray(value) ? (value as (number | undefined)[]) : [];
    const set = (pair: (number | undefined)[]) => onChange(pair.every((one) => one === undefined) ? undefined : pair);
    return (
      <div className={css.row} data-on={value !== undefined || undefined}>
        <span>{question.ask}</span>
        <div className={css.reading}>
          <NumberInput
            aria-label="Upper value, mmHg"
            w={76}
            placeholder="120"
            allowDecimal={false}
            value={upper ?? ""}
            onChange={(next) => set([typeof next === "number" ? next : undefined, lower])}
          />
          <NumberInput
            aria-label="Lower value, mmHg"
            w={76}
            placeholder="80"
            allowDecimal={false}
            value={lower ?? ""}
            onChange={(next) => set([upper, typeof next === "number" ? next : undefined])}
          />
        </div>
      </div>
    );
  }
  if (question.kind === "places") {
    const places = Array.isArray(value) ? (value as string[]) : [];
    return (
      <div className={`${css.row} ${css.places}`} data-on={value !== undefined || undefined}>
        <label>
          <input
            type="checkbox"
            checked={value !== undefined}
            onChange={(event) => onChange(event.currentTarget.checked ? true : undefined)}
          />
          {question.ask}
        </label>
        {value !== undefined && (
          <MultiSelect
            aria-label={`${question.ask}: places`}
            w="100%"
            placeholder={places.length ? "" : "nowhere named yet: light everywhere"}
            searchable
            data={PLACES}
            value={places}
            onChange={(next) => onChange(next.length ? next : true)}
          />
        )}
      </div>
    );
  }
  if (question.kind === "lying") {
    const chosen = Array.isArray(value) ? (value as string[]) : [];
    return (
      <div className={css.row} data-on={chosen.length > 0 || undefined}>
        <span>{question.ask}</span>
        <div className={css.lying}>
          {LYING.map(([position, words]) => (
            <label key={position}>
              <input
                type="checkbox"
                checked={chosen.includes(position)}
                onChange={(event) =>
                  onChange(event.currentTarget.checked ? [...chosen, position] : chosen.filter((p) => p !== position))
                }
              />
              {words}
            </label>
          ))}
        </div>
      </div>
    );
  }
  return (
    <label className={css.row} data-on={value === true || undefined} data-severity={question.severity}>
      <input type="checkbox" checked={value === true} onChange={(event) => onChange(event.currentTarget.checked)} />
      <span>
        {question.ask}
        {value === true && question.say && <em>{question.say}</em>}
      </span>
    </label>
  );
}
