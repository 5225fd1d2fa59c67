/** A point of one's own: a rule built from landmarks, and seen on this person's body before it is kept. */
import { Button, NativeSelect, NumberInput, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useEffect, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { ownQuery, refresh, rulePartsQuery } from "../../api/queries";
import { ErrorPanel, Waiting } from "../../shared/parts";
import css from "./RuleEditor.module.css";
import { FORMS, type Form, type FormKind, placeOf, readForm, startOf, unitsFor } from "./rule";

type Parts = Schema["RuleParts"];
type Props = {
  personId: string;
  side: "left" | "right";
  /** Id of the own entry that is changed; a new one if left out. */
  edited: string | undefined;
  onTrial: (located: Schema["Located"] | null) => void;
  onClose: (kept?: string) => void;
};

export function RuleEditor(props: Props) {
  const parts = useQuery(rulePartsQuery);
  const own = useQuery(ownQuery);
  if (!parts.data || !own.data) return <Waiting for="Loading landmarks" />;
  const before = own.data.find((one) => one.id === props.edited);
  return <Editor key={before?.id ?? "new"} {...props} parts={parts.data} before={before} />;
}

/** `form` is null where the rule is none that the fields can show: then it stays as it came. */
type Draft = { name: string; site: string; feel: string; form: Form | null };
type Row = { site?: string; feel?: string; methods?: { name: string; place: unknown }[] };
const AS_IT_IS = "as it is";

function draftOf(before: Schema["OwnOut"] | undefined): Draft {
  if (!before) return { name: "", site: "leg_outer", feel: "", form: startOf("level") };
  const row = before.row as Row;
  return {
    name: before.name,
    site: row.site ?? "",
    feel: row.feel ?? "",
    form: readForm(row.methods?.[0]?.place) ?? null,
  };
}

/** The row to keep: what the fields do not show (further methods, uses, other names) stays as it was. */
function rowOf(draft: Draft, before: Schema["OwnOut"] | undefined, parts: Parts) {
  const old = (before?.row ?? {}) as Row & { names?: Record<string, string> };
  const [first, ...others] = old.methods ?? [];
  const changed = draft.form && { name: FORMS[draft.form.kind], place: placeOf(draft.form, parts) };
  const same = changed && JSON.stringify(changed.place) === JSON.stringify(first?.place);
  const method = same ? first : (changed ?? first);
  return {
    ...old,
    id: before?.id ?? idOf(draft.name || "new point"),
    names: { ...old.names, english: draft.name || "New point" },
    site: draft.site,
    feel: draft.feel || "What you feel there there.",
    ...(method && { methods: [method, ...others] }),
  };
}

const idOf = (name: string) =>
  `own_${name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "_")
    .replace(/^_|_$/g, "")
    .slice(0, 40)}`;

function Editor({
  personId,
  side,
  parts,
  before: now,
  onTrial,
  onClose,
}: Props & { parts: Parts; before?: Schema["OwnOut"] }) {
  // What was there when the editor opened: a change from another window meanwhile is told as a conflict.
  const [before] = useState(now);
  const [draft, setDraft] = useState(() => draftOf(before));
  const queries = useQueryClient();
  const row = rowOf(draft, before, parts);
  const text = JSON.stringify(row);
  const trial = useQuery({
    queryKey: ["person", personId, "figure", "trial", text, side],
    queryFn: () =>
      take(
        api.POST("/api/people/{person_id}/trial", {
          params: { path: { person_id: personId } },
          body: { row, side },
        }),
      ),
    retry: false,
    placeholderData: (previous) => previous,
  });
  const located = trial.isError ? null : (trial.data ?? null);
  useEffect(() => onTrial(located), [located, onTrial]);
  const keep = useMutation({
    mutationFn: () => take(api.PUT("/api/atlas/own", { body: { row, version: before?.version ?? null } })),
    onSuccess: async () => {
      await refresh(queries, ["atlas"]);
      await refresh(queries, ["person", personId, "figure"]);
      onClose(row.id);
    },
  });
  const remove = useMutation({
    mutationFn: () =>
      take(api.DELETE("/api/atlas/own", { params: { query: { id: row.id, version: before?.version ?? 1 } } })),
    onSuccess: async () => {
      await refresh(queries, ["atlas"]);
      await refresh(queries, ["person", personId, "figure"]);
      onClose();
    },
  });
  const change = (part: Partial<Draft>) => setDraft({ ...draft, ...part });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    keep.mutate();
  };
  const sites = parts.sites.map((one) => ({ value: one.id, label: `${one.name} (${one.id.replaceAll("_", " ")})` }));
  return (
    <form className={css.form} onSubmit={submit}>
      <h2>{before ? before.name : "Your own point"}</h2>
      <TextInput
        label="Name"
        required
        maxLength={60}
        value={draft.name}
        onChange={(event) => change({ name: event.currentTarget.value })}
      />
      <NativeSelect
        label="Where on the body"
        data={sites}
        value={draft.site}
        onChange={(event) => change({ site: event.currentTarget.value })}
      />
      <TextInput
        label="What you feel there"
        maxLength={160}
        value={draft.feel}
        onChange={(event) => change({ feel: event.currentTarget.value })}
      />
      <NativeSelect
        label="Rule"
        data={[
          ...(draft.form ? [] : [{ value: AS_IT_IS, label: "As imported" }]),
          ...Object.entries(FORMS).map(([value, label]) => ({ value, label })),
        ]}
        value={draft.form?.kind ?? AS_IT_IS}
        onChange={(event) => change({ form: startOf(event.currentTarget.value as FormKind) })}
      />
      {draft.form && <RuleFields form={draft.form} parts={parts} onChange={(form) => change({ form })} />}
      {trial.isError ? (
        <ErrorPanel error={trial.error} />
      ) : (
        <ol className={css.steps}>
          {trial.data?.steps.map((step) => (
            <li key={step}>{step}</li>
          ))}
        </ol>
      )}
      {keep.isError && <ErrorPanel error={keep.error} />}
      <div className={css.buttons}>
        <Button type="submit" disabled={draft.name === "" || trial.isError} loading={keep.isPending}>
          Save point
        </Button>
        <Button variant="default" onClick={() => onClose()}>
          Cancel
        </Button>
        {before && (
          <Button variant="default" onClick={() => remove.mutate()} loading={remove.isPending}>
            Remove
          </Button>
        )}
      </div>
    </form>
  );
}

function RuleFields({ form, parts, onChange }: { form: Form; parts: Parts; onChange: (form: Form) => void }) {
  const options = (rows: { id: string; name: string }[]) => rows.map((one) => ({ value: one.id, label: one.name }));
  const choose = (
    label: string,
    value: string,
    data: { value: string; label: string }[],
    set: (next: string) => Form,
  ) => (
    <NativeSelect
      label={label}
      data={data}
      value={value}
      onChange={(event) => onChange(set(event.currentTarget.value))}
    />
  );
  const count = (label: string, value: number, set: (next: number) => Form) => (
    <NumberInput
      label={label}
      value={value}
      step={0.5}
      decimalScale={2}
      onChange={(next) => typeof next === "number" && onChange(set(next))}
    />
  );
  const landmarks = options(parts.landmarks);
  switch (form.kind) {
    case "level": {
      const segment = parts.segments.find((one) => one.id === form.segment);
      const ends = [segment?.start, segment?.end].map((id) => parts.landmarks.find((one) => one.id === id));
      return (
        <>
          {choose("Segment", form.segment, options(parts.segments), (next) => ({
            ...form,
            segment: next,
            from: parts.segments.find((one) => one.id === next)?.start ?? form.from,
          }))}
          {choose("Measured from", form.from, options(ends.filter((one) => one !== undefined)), (next) => ({
            ...form,
            from: next,
          }))}
          {count(`Cun (of ${segment?.cun ?? 0})`, form.cun, (next) => ({ ...form, cun: next }))}
          {choose("On the line", form.line, options(parts.lines), (next) => ({ ...form, line: next }))}
        </>
      );
    }
    case "between":
      return (
        <>
          {choose("From", form.a, landmarks, (next) => ({ ...form, a: next }))}
          {choose("To", form.b, landmarks, (next) => ({ ...form, b: next }))}
          {count("How far (%)", form.percent, (next) => ({ ...form, percent: next }))}
        </>
      );
    case "beside":
      return (
        <>
          {choose("Level with", form.landmark, landmarks, (next) => ({ ...form, landmark: next }))}
          {count("Cun outwards", form.cun, (next) => ({ ...form, cun: next }))}
          {choose("Segment for cun", form.of, unitsFor(parts), (next) => ({ ...form, of: next }))}
          {choose(
            "On the",
            form.face,
            ["front", "back"].map((value) => ({ value, label: value })),
            (next) => ({ ...form, face: next === "back" ? "back" : "front" }),
          )}
        </>
      );
    case "away": {
      const part = parts.landmarks.find((one) => one.id === form.landmark)?.part ?? "trunk";
      return (
        <>
          {choose("From", form.landmark, landmarks, (next) => ({ ...form, landmark: next, direction: "" }))}
          {choose(
            "Direction",
            form.direction || (DIRECTIONS[part]?.[0] ?? "lateral"),
            (DIRECTIONS[part] ?? []).map((value) => ({ value, label: value })),
            (next) => ({ ...form, direction: next }),
          )}
          {count("Cun", form.cun, (next) => ({ ...form, cun: next }))}
          {choose("Segment for cun", form.of, unitsFor(parts), (next) => ({ ...form, of: next }))}
        </>
      );
    }
  }
}

const LIMB = ["proximal", "distal", "lateral", "medial", "anterior", "posterior"];
const TRUNK = ["superior", "inferior", "lateral", "medial", "anterior", "posterior"];
const DIRECTIONS: Record<string, string[]> = {
  trunk: TRUNK,
  head: TRUNK,
  thigh: LIMB,
  lower_leg: LIMB,
  upper_arm: LIMB,
  forearm: LIMB,
  hand: ["proximal", "distal", "radial", "ulnar", "dorsal", "palmar"],
  foot: ["proximal", "distal", "lateral", "medial", "dorsal", "plantar"],
};
