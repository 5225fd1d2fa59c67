/** One question of the screening, with the control that its kind of answer needs. */
import { NumberInput, SegmentedControl, Select } from "@mantine/core";
import type { Schema } from "../../api/client";
import { Places } from "./Places";
import css from "./StoryScreen.module.css";

type Question = Schema["Question"];
const LYING = [
  ["prone", "face down"],
  ["supine", "face up"],
  ["left_side", "on the left side"],
  ["right_side", "on the right side"],
] as const;

export function Ask({
  personId,
  question,
  value,
  onChange,
}: {
  personId: string;
  question: Question;
  value: unknown;
  onChange: (v: unknown) => void;
}) {
  if (question.kind === "weeks" || question.kind === "number") {
    return (
      <div className={css.row} data-on={value !== undefined || undefined}>
        <label htmlFor={question.id}>{question.ask}</label>
        <NumberInput
          id={question.id}
          w={86}
          min={question.low}
          max={question.high}
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
    return <Places personId={personId} question={question} value={value} onChange={onChange} />;
  }
  if (question.kind === "choice") {
    return (
      <div className={css.row} data-on={value !== undefined || undefined}>
        <span>{question.ask}</span>
        <Select
          aria-label={question.ask}
          w={190}
          clearable
          placeholder="none"
          data={question.choices.map((one) => ({ value: one.id, label: one.name }))}
          value={typeof value === "string" ? value : null}
          onChange={(chosen) => onChange(chosen ?? undefined)}
        />
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
  if (question.explicit) return <YesOrNo question={question} value={value} onChange={onChange} />;
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

/** A question to which no is an answer of its own: a rule waits until it was asked. */
function YesOrNo({
  question,
  value,
  onChange,
}: {
  question: Question;
  value: unknown;
  onChange: (v: unknown) => void;
}) {
  return (
    <div className={css.row} data-on={value === true || undefined} data-severity={question.severity}>
      <span id={question.id}>
        {question.ask}
        {value === true && question.say && <em>{question.say}</em>}
      </span>
      <SegmentedControl
        size="xs"
        aria-labelledby={question.id}
        data={[
          { value: "", label: "not asked" },
          { value: "no", label: "no" },
          { value: "yes", label: "yes" },
        ]}
        value={value === true ? "yes" : value === false ? "no" : ""}
        onChange={(said) => onChange(said === "" ? undefined : said === "yes")}
      />
    </div>
  );
}
