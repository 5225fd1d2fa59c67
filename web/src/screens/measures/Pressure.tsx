/** Pressure, measured: where it begins to hurt on this person, and what the practitioner's own levels weigh. */
import { Button, NativeSelect, NumberInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { refresh, useMe } from "../../api/queries";
import { ErrorPanel } from "../../shared/parts";
import { dayOf, partWords } from "../../shared/words";
import css from "./MeasuresScreen.module.css";

const GRAMS_PER_NEWTON = 101.97;

export function Thresholds({ person }: { person: Schema["PersonOut"] }) {
  const queries = useQueryClient();
  const [part, setPart] = useState("");
  const [value, setValue] = useState<number | "">("");
  const change = useMutation({
    mutationFn: (thresholds: Record<string, number | null>) =>
      take(
        api.PATCH("/api/people/{person_id}", {
          params: { path: { person_id: person.id } },
          body: { version: person.version, measures_cm: {}, thresholds },
        }),
      ),
    onSuccess: () => {
      setValue("");
      setPart("");
    },
    onSettled: () => refresh(queries, ["person", person.id]),
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (part && value !== "") change.mutate({ [part]: value });
  };
  return (
    <form className={css.form} onSubmit={submit}>
      <h2>Pressure pain threshold</h2>
      <p className={css.hint}>
        Measured with an algometer, in N/cm² (1 kg/cm² = 9.8). Levels there stay at least 20% below it.
      </p>
      <ul className={css.thresholds}>
        {Object.entries(person.thresholds).map(([id, taken]) => (
          <li key={id}>
            <b>{partWords[id] ?? id}</b>
            <span>
              {taken.n_per_cm2} N/cm², {dayOf(taken.taken_at)}
            </span>
            <Button
              size="xs"
              variant="default"
              aria-label={`Withdraw: ${partWords[id] ?? id}`}
              onClick={() => change.mutate({ [id]: null })}
            >
              Withdraw
            </Button>
          </li>
        ))}
      </ul>
      <div className={css.grid}>
        <NativeSelect
          label="Part of the body"
          data={[
            { value: "", label: "Choose" },
            ...Object.entries(partWords).map(([id, label]) => ({ value: id, label })),
          ]}
          value={part}
          onChange={(event) => setPart(event.currentTarget.value)}
        />
        <NumberInput
          label="Pressure"
          suffix=" N/cm²"
          decimalScale={1}
          hideControls
          value={value}
          onChange={(next) => setValue(typeof next === "number" ? next : "")}
        />
      </div>
      {change.isError && <ErrorPanel error={change.error} />}
      <Button type="submit" variant="default" disabled={!part || value === ""} loading={change.isPending}>
        Save threshold
      </Button>
    </form>
  );
}

export function OwnPressure() {
  const me = useMe();
  const queries = useQueryClient();
  const [values, setValues] = useState<Record<string, number | "">>({});
  const keep = useMutation({
    mutationFn: () => {
      const scale: Record<string, number> = {};
      for (const [level, grams] of Object.entries({ ...me.data?.scale_g, ...values })) {
        if (grams !== "") scale[level] = grams;
      }
      return take(api.PATCH("/api/me", { body: { scale_g: scale } }));
    },
    onSuccess: (changed) => {
      queries.setQueryData(["me"], changed);
      setValues({});
      void refresh(queries, ["person"]);
      void refresh(queries, ["safety"]);
      notifications.show({ message: "Levels saved. Forces are calculated from them." });
    },
  });
  if (!me.data) return null;
  const { pressure, scale_g } = me.data;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    keep.mutate();
  };
  return (
    <form className={css.form} onSubmit={submit}>
      <h2>Your pressure on a kitchen scale</h2>
      <p className={css.hint}>
        Press the scale with your thumb at each level and enter the reading. Blank levels are estimated.
      </p>
      <div className={css.grid}>
        {pressure.levels.map(({ level, name, n_per_cm2 }) => (
          <NumberInput
            key={level}
            label={`${level}, ${name}`}
            suffix=" g"
            decimalScale={0}
            hideControls
            placeholder={`${Math.round((n_per_cm2 * (pressure.contact_cm2.thumb ?? 1) * GRAMS_PER_NEWTON) / 10) * 10} g`}
            value={values[level] ?? scale_g[level] ?? ""}
            onChange={(value) => setValues({ ...values, [level]: typeof value === "number" ? value : "" })}
          />
        ))}
      </div>
      {keep.isError && <ErrorPanel error={keep.error} />}
      <Button type="submit" variant="default" disabled={Object.keys(values).length === 0} loading={keep.isPending}>
        Save levels
      </Button>
    </form>
  );
}
