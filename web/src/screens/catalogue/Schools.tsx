/** Schools: phases in order, order and dose rules, what a sore spot gets; a few numbers a practice may set otherwise. */
import { Button, NativeSelect, NumberInput, TextInput } from "@mantine/core";
import type { Schema } from "../../api/client";
import css from "./CatalogueScreen.module.css";
import { type LayerOfPractice, without } from "./useLayer";

type Page = Schema["SchoolPage"];
type Props = {
  pages: Page[];
  doses: Schema["DosePage"][];
  layer: LayerOfPractice;
  match: (...texts: string[]) => boolean;
};
const WITHIN = {
  importance: "most important first, by body part",
  toes_to_heel: "from the toes to the heel",
  top_down: "from the top down",
  broad_to_deep: "broad contact first, then deeper",
  forehead_to_chin: "from the forehead to the chin",
  chin_to_scalp: "from the chin to the scalp",
} as const;
const DIRECTIONS = { settle: "settle ↓", work: "work", tone: "tone ↑", ground: "ground" } as const;

export function Schools({ pages, doses, layer, match }: Props) {
  const shown = pages.filter(({ school }) => match(school.name, school.works_on, school.doses.default));
  return (
    <div className={css.sheets}>
      {shown.map((page) => (
        <SchoolSheet key={`${page.school.id}-${page.changed}`} page={page} doses={doses} layer={layer} />
      ))}
      {shown.length === 0 && <p className={css.hint}>No school matches.</p>}
    </div>
  );
}

/** Numbers that a practice may set otherwise: field, words, least, most. */
const NUMBERS = [
  ["level_ceiling", "highest level", 1, 5],
  ["most_points", "points per session", 1, 60],
  ["rest_every_s", "seconds between pauses", 120, 7200],
] as const;

type SheetProps = { page: Page; doses: Schema["DosePage"][]; layer: LayerOfPractice };

function SchoolSheet({ page, doses, layer }: SheetProps) {
  const { school } = page;
  const ours = layer.layer.schools?.[school.id];
  const change = (next: Partial<Schema["SchoolChange"]>) =>
    layer.change({ schools: { ...layer.layer.schools, [school.id]: { ...EMPTY, ...ours, ...next } } });
  return (
    <article className={css.sheet}>
      <h2>
        {school.name} {page.changed && <mark>customised</mark>}
      </h2>
      <p>{school.works_on}</p>
      <ol className={css.phases}>
        {school.phases.map((phase) => (
          <li key={phase.id} data-direction={phase.direction}>
            <b>{phase.name}</b> <small>{DIRECTIONS[phase.direction]}</small>
          </li>
        ))}
      </ol>
      <dl className={css.facts}>
        <dt>Order</dt>
        <dd>
          {WITHIN[school.order.within]}
          {school.order.scope === "whole" ? ", over the whole session" : ", starting again in each position"}
          {school.sides === "right_then_left" && "; right, then left"}
        </dd>
        <dt>Dose</dt>
        <dd>
          <NativeSelect
            size="xs"
            aria-label={`Usual dose of ${school.name}`}
            data={doses.map((dose) => ({ value: dose.id, label: `${dose.id.replaceAll("_", " ")}: ${dose.words}` }))}
            value={school.doses.default}
            onChange={(event) => change({ default_dose: event.currentTarget.value })}
          />
        </dd>
        <dt>Sore spots</dt>
        <dd>{school.sore_spot.words}</dd>
        <dt>Circling</dt>
        <dd>
          <TextInput
            size="xs"
            aria-label={`Circling in ${school.name}`}
            maxLength={200}
            defaultValue={school.turning}
            onBlur={(event) => {
              const turning = event.currentTarget.value.trim();
              if (turning !== "" && turning !== school.turning) change({ turning });
            }}
          />
        </dd>
        <dt>Ending</dt>
        <dd>{school.closing.words}</dd>
      </dl>
      <div className={css.numbers}>
        {NUMBERS.map(([field, words, min, max]) => (
          <NumberInput
            key={field}
            size="xs"
            label={words}
            min={min}
            max={max}
            allowDecimal={false}
            defaultValue={school[field] ?? ""}
            placeholder="as the tissue allows"
            onBlur={(event) => {
              const value = Number(event.currentTarget.value);
              if (value >= min && value !== school[field]) change({ [field]: value });
            }}
          />
        ))}
        {page.changed && (
          <Button
            size="xs"
            variant="default"
            onClick={() => layer.change({ schools: without(layer.layer.schools, school.id) })}
          >
            Restore default
          </Button>
        )}
      </div>
    </article>
  );
}

const EMPTY: Schema["SchoolChange"] = {
  level_ceiling: null,
  most_points: null,
  most_warm: null,
  rest_every_s: null,
  second_look_share: null,
  default_dose: null,
  sore_spot: null,
  turning: null,
};
