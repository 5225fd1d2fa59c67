/** A practice's own safety rules: added to the standing ones, so that they tighten and never loosen. */
import { Button, Checkbox, MultiSelect, NativeSelect, NumberInput, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schema } from "../../api/client";
import { rulePartsQuery, safetyQuery } from "../../api/queries";
import { Empty } from "../../shared/parts";
import { positionWords } from "../../shared/words";
import css from "./CatalogueScreen.module.css";
import { idFor, type LayerOfPractice } from "./useLayer";

type Rule = Schema["Rule"];
type Props = { layer: LayerOfPractice; match: (...texts: string[]) => boolean };

const NOTHING: Rule["touches"] = {
  ids: [],
  tissues: [],
  parts: [],
  sites: [],
  quarters: [],
  positions: [],
  techniques: [],
  joints: [],
  motions: [],
  kinds: [],
  complaints: [],
  answered: false,
  margin_cm: 0,
  limb: false,
  lain_on: false,
  everything: false,
  side: "any",
};

const ASKS_NOTHING = {
  choice: [],
  places: [],
  complaint: [],
  either: [],
  also: [],
  also_either: [],
  unless: [],
} satisfies Partial<Rule["when"]>;

export function OurRules({ layer, match }: Props) {
  const rules = layer.layer.rules ?? [];
  const change = (next: Rule[]) => layer.change({ rules: next });
  return (
    <div className={css.rules}>
      <Checkbox
        label="Rules that allow it can be overridden with a reason. Every override is audited."
        checked={layer.layer.overrides ?? false}
        onChange={(event) => layer.change({ overrides: event.currentTarget.checked })}
      />
      {rules.length === 0 && <Empty>No practice rules yet. The standard rules are below.</Empty>}
      <ul>
        {rules
          .filter((rule) => match(rule.short, rule.reason))
          .map((rule) => (
            <li key={rule.id}>
              <b>{rule.severity}</b>
              <span>{rule.short}</span>
              <span>{rule.reason}</span>
              <Button
                size="compact-xs"
                variant="default"
                onClick={() => change(rules.filter((one) => one.id !== rule.id))}
              >
                Remove
              </Button>
            </li>
          ))}
      </ul>
      <NewRule taken={rules.map((rule) => rule.id)} onRule={(rule) => change([...rules, rule])} />
    </div>
  );
}

const SEVERITIES = [
  { value: "refuse", label: "leave out" },
  { value: "limit", label: "limit the level" },
  { value: "note", label: "add a note" },
  { value: "refer", label: "needs medical clearance first" },
];
const POSITIONS = ["supine", "half_reclined", "prone", "left_side", "right_side", "seated", "leaning"] as const;

function NewRule({ taken, onRule }: { taken: string[]; onRule: (rule: Rule) => void }) {
  const parts = useQuery(rulePartsQuery);
  const safety = useQuery(safetyQuery);
  const [question, setQuestion] = useState("");
  const [sites, setSites] = useState<string[]>([]);
  const [positions, setPositions] = useState<string[]>([]);
  const [severity, setSeverity] = useState<Rule["severity"]>("refuse");
  const [ceiling, setCeiling] = useState(2);
  const [short, setShort] = useState("");
  const [reason, setReason] = useState("");
  const context = (safety.data?.questions ?? []).flatMap((group) =>
    group.questions.filter((one) => one.severity === "context"),
  );
  const everywhere = sites.length === 0 && positions.length === 0;
  const ready = short.trim() !== "" && reason.trim() !== "" && !(everywhere && severity === "refuse");
  return (
    <form
      className={css.newRule}
      onSubmit={(event) => {
        event.preventDefault();
        onRule({
          id: idFor("house", short, taken),
          when: question ? { ...ASKS_NOTHING, question } : null,
          touches: {
            ...NOTHING,
            sites,
            positions: positions as (typeof POSITIONS)[number][],
            everything: everywhere,
          },
          unplaced: false,
          discreet: false,
          until_answered: [],
          severity: positions.length ? "limit" : severity,
          ceiling: severity === "limit" && positions.length === 0 ? ceiling : null,
          longest_s: null,
          override: "signed",
          clear: "",
          no_stick: false,
          no_glide: false,
          one_side: false,
          consent: false,
          short,
          reason,
          source: "practice",
        });
        setShort("");
        setReason("");
        setSites([]);
        setPositions([]);
      }}
    >
      <h2>New practice rule</h2>
      <NativeSelect
        label="For"
        data={[{ value: "", label: "everyone" }, ...context.map((one) => ({ value: one.id, label: one.ask }))]}
        value={question}
        onChange={(event) => setQuestion(event.currentTarget.value)}
      />
      <MultiSelect
        label="Places"
        placeholder={sites.length ? "" : "everywhere"}
        searchable
        data={(parts.data?.sites ?? []).map((site) => ({ value: site.id, label: site.name }))}
        value={sites}
        onChange={setSites}
      />
      <fieldset>
        <legend>Or positions to avoid</legend>
        {POSITIONS.map((position) => (
          <Checkbox
            key={position}
            label={positionWords[position]}
            checked={positions.includes(position)}
            onChange={(event) =>
              setPositions(
                event.currentTarget.checked ? [...positions, position] : positions.filter((one) => one !== position),
              )
            }
          />
        ))}
      </fieldset>
      <div className={css.then}>
        <NativeSelect
          label="Then"
          data={SEVERITIES}
          value={severity}
          onChange={(event) => setSeverity(event.currentTarget.value as Rule["severity"])}
        />
        {severity === "limit" && (
          <NumberInput
            label="Level"
            w={80}
            min={1}
            max={5}
            value={ceiling}
            onChange={(value) => typeof value === "number" && setCeiling(value)}
          />
        )}
      </div>
      <TextInput label="Short label" value={short} onChange={(event) => setShort(event.currentTarget.value)} />
      <TextInput label="Why" value={reason} onChange={(event) => setReason(event.currentTarget.value)} />
      <Button type="submit" disabled={!ready}>
        Add the rule
      </Button>
    </form>
  );
}
