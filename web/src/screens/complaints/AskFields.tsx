/** The fields that every complaint is asked, and its own questions; the same when it is taken up and when it is asked again. */
import { Chip, NumberInput, SegmentedControl, TextInput } from "@mantine/core";
import type { Schema } from "../../api/client";
import { DayInput } from "../../shared/DayInput";
import desk from "../../shared/desk.module.css";
import css from "./ComplaintsScreen.module.css";

export type Answers = Schema["NewComplaint"]["answers"] & object;
/** Nothing answered yet. */
export const NOTHING: Answers = {
  own: {},
  quality: [],
  brings_on: "",
  eases: "",
  pattern: null,
  medicines_per_week: null,
};
type Quality = NonNullable<Answers["quality"]>[number];
type Pattern = NonNullable<Answers["pattern"]>;

const QUALITIES: Quality[] = [
  "aching",
  "sharp",
  "burning",
  "pulling",
  "throbbing",
  "stiff",
  "tingling",
  "heavy",
  "cramping",
  "pressing",
];
const PATTERNS: { value: Pattern | ""; label: string }[] = [
  { value: "", label: "not specified" },
  { value: "constant", label: "constant" },
  { value: "waves", label: "in waves" },
  { value: "episodes", label: "in episodes" },
];

type Props = { questions: readonly string[]; value: Answers; onChange: (value: Answers) => void };

export function AskFields({ questions, value, onChange }: Props) {
  const set = (change: Partial<Answers>) => onChange({ ...value, ...change });
  return (
    <>
      {questions.map((question) => (
        <TextInput
          key={question}
          label={question}
          maxLength={200}
          value={value.own?.[question] ?? ""}
          onChange={(event) => {
            const { [question]: _, ...others } = value.own ?? {};
            const answer = event.currentTarget.value;
            set({ own: answer ? { ...others, [question]: answer } : others });
          }}
        />
      ))}
      <fieldset className={css.chips}>
        <legend>How it feels</legend>
        <Chip.Group
          multiple
          value={[...(value.quality ?? [])]}
          onChange={(quality) => set({ quality: quality as Quality[] })}
        >
          {QUALITIES.map((one) => (
            <Chip key={one} value={one} size="sm" radius="sm" variant="outline">
              {one}
            </Chip>
          ))}
        </Chip.Group>
      </fieldset>
      <div className={desk.row}>
        <TextInput
          label="What brings it on"
          maxLength={200}
          value={value.brings_on ?? ""}
          onChange={(event) => set({ brings_on: event.currentTarget.value })}
        />
        <TextInput
          label="What eases it"
          maxLength={200}
          value={value.eases ?? ""}
          onChange={(event) => set({ eases: event.currentTarget.value })}
        />
      </div>
      <div className={desk.row}>
        <div>
          <span className={css.label} id="pattern-label">
            Pattern
          </span>
          <SegmentedControl
            fullWidth
            aria-labelledby="pattern-label"
            data={PATTERNS}
            value={value.pattern ?? ""}
            onChange={(pattern) => set({ pattern: (pattern || null) as Pattern | null })}
          />
        </div>
        <NumberInput
          label="Medicine, times a week"
          min={0}
          max={200}
          value={value.medicines_per_week ?? ""}
          onChange={(count) => set({ medicines_per_week: typeof count === "number" ? count : null })}
        />
      </div>
    </>
  );
}

type Look = { by: string; seen_on: string };

/** Who has looked at what a complaint calls for, and when. */
export function DoctorsLook({
  checked,
  value,
  onChange,
}: {
  checked: string;
  value: Look;
  onChange: (look: Look) => void;
}) {
  return (
    <fieldset className={css.look}>
      <legend>{checked}</legend>
      <div className={desk.row}>
        <TextInput
          label="Who"
          value={value.by}
          onChange={(event) => onChange({ ...value, by: event.currentTarget.value })}
        />
        <DayInput label="When" value={value.seen_on} onChange={(seen_on) => onChange({ ...value, seen_on })} />
      </div>
    </fieldset>
  );
}
