/** Measures: the few lengths that matter, each shown on the figure where it is taken. */
import { Button, NumberInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { type FormEvent, lazy, Suspense, useState } from "react";
import { ApiError, api, type Schema, take } from "../../api/client";
import { figureQuery, measuresQuery, personQuery, refresh, useMe, worthMeasuringQuery } from "../../api/queries";
import { ErrorPanel, Waiting } from "../../shared/parts";
import css from "./MeasuresScreen.module.css";
import { OwnPressure, Thresholds } from "./Pressure";

const BodyView = lazy(() => import("../../body/BodyView"));
type Person = Schema["PersonOut"];
type Field = Schema["MeasureField"];
const PLAIN = ["height_cm", "weight_kg", "breaths_per_minute"] as const;
type Plain = (typeof PLAIN)[number];
const isPlain = (id: string): id is Plain => (PLAIN as readonly string[]).includes(id);
const FINGERS = ["thumb_width", "two_fingers", "three_fingers", "four_fingers"] as const;
type Finger = (typeof FINGERS)[number];
const FIRST = ["forearm", "lower_leg_inner", "lower_leg_outer"];

export function MeasuresScreen() {
  const { personId } = useParams({ from: "/inside/people/$personId" });
  const person = useQuery(personQuery(personId));
  const fields = useQuery(measuresQuery);
  const figure = useQuery(figureQuery(personId));
  const [shown, setShown] = useState<string | null>(null);
  if (person.isPending || fields.isPending) return <Waiting for="Loading measurements" />;
  if (person.isError) return <ErrorPanel error={person.error} retry={() => void person.refetch()} />;
  if (fields.isError) return <ErrorPanel error={fields.error} />;
  const field = fields.data.find((one) => one.id === shown);
  const segment = figure.data?.segments.find((one) => one.id === field?.segment);
  return (
    <div className={css.page}>
      <div className={css.fields}>
        <MeasureNext personId={personId} onShow={setShown} />
        <MeasureForm person={person.data} fields={fields.data} shown={shown} onShow={setShown} />
        <Thresholds person={person.data} />
        <OwnHands fields={fields.data} />
        <OwnPressure />
      </div>
      <div className={css.body}>
        {figure.isPending && <Waiting for="Fitting the figure" />}
        {figure.isError && <ErrorPanel error={figure.error} retry={() => void figure.refetch()} />}
        {figure.data && (
          <Suspense fallback={<Waiting for="Loading the body" />}>
            <BodyView personId={personId} figure={figure.data} segment={segment} marks={false} />
          </Suspense>
        )}
        <div className={css.note}>
          {field ? (
            <p>
              <strong>{field.name}.</strong> {field.how || "Standing, without shoes."}
              {segment &&
                ` On the figure: ${segment.length_cm.toFixed(1)} cm; 1 cun here = ${segment.cun_cm.toFixed(2)} cm.`}
            </p>
          ) : (
            <p>Choose a field to see on the figure what to measure.</p>
          )}
          {figure.data?.notes.map((note) => (
            <p key={note} className={css.odd}>
              {note}
            </p>
          ))}
        </div>
      </div>
    </div>
  );
}

const NEXT = 3;

/** What to measure next: what would make the points of today's score (or all points) surer, the most useful first. */
function MeasureNext({ personId, onShow }: { personId: string; onShow: (id: string) => void }) {
  const asked = useQuery(worthMeasuringQuery(personId));
  if (!asked.data) return null;
  const show = (id: string) => {
    onShow(id);
    window.setTimeout(() => document.getElementById(`measure-${id}`)?.focus());
  };
  return (
    <section className={css.next}>
      <h2>Measure next</h2>
      {asked.data.length === 0 && <p>No further measurement would make today's points more precise.</p>}
      <ol>
        {asked.data.slice(0, NEXT).map((one) => (
          <li key={one.id}>
            <button type="button" onClick={() => show(one.id)}>
              <b>{one.name}</b>
              <span>
                ±{one.ring_cm.toFixed(1)} becomes ±{one.ring_then_cm.toFixed(1)} cm at {pointsInWords(one.points)}
              </span>
            </button>
          </li>
        ))}
      </ol>
    </section>
  );
}

const pointsInWords = (ids: string[]) =>
  ids.length > 4 ? `${ids.slice(0, 3).join(", ")} and ${ids.length - 3} more` : ids.join(", ");

type FormProps = { person: Person; fields: Field[]; shown: string | null; onShow: (id: string) => void };

function MeasureForm({ person, fields, shown, onShow }: FormProps) {
  const [values, setValues] = useState<Record<string, number | "">>({});
  // The version that was on the screen when typing began: what came in since must not be overwritten unseen.
  const [seen, setSeen] = useState<number | null>(null);
  const [all, setAll] = useState(false);
  const queries = useQueryClient();
  const known = (id: string): number | "" => {
    if (isPlain(id)) return person[id] ?? "";
    if (FINGERS.includes(id as Finger)) return person.fingers[id as Finger] ?? "";
    return person.measures[id]?.value_cm ?? "";
  };
  const keep = useMutation({
    mutationFn: () => {
      const measures: Record<string, number> = {};
      const fingers: Record<string, number | null> = { ...person.fingers };
      const change: Schema["PersonChange"] = { version: seen ?? person.version, measures_cm: measures };
      for (const [id, value] of Object.entries(values)) {
        if (isPlain(id)) change[id] = value === "" ? null : value;
        else if (FINGERS.includes(id as Finger)) fingers[id] = value === "" ? null : value;
        else if (value !== "") measures[id] = value;
      }
      if (Object.keys(values).some((id) => FINGERS.includes(id as Finger))) change.fingers = fingers;
      return take(api.PATCH("/api/people/{person_id}", { params: { path: { person_id: person.id } }, body: change }));
    },
    onSuccess: async () => {
      setValues({});
      setSeen(null);
      void refresh(queries, ["person", person.id]);
      void refresh(queries, ["day"]);
      notifications.show({ message: "Measurements saved. Figure updated." });
    },
    onError: (error) => {
      if (!(error instanceof ApiError) || error.status !== 409) return;
      // What was typed stays; once the newer values are here, keeping again is a choice.
      setSeen(null);
      void refresh(queries, ["person", person.id]);
    },
  });
  const wrong = keep.error instanceof ApiError ? keep.error.problem : null;
  const errorOf = (id: string) =>
    wrong?.where === id || wrong?.where?.endsWith(`.${id}`) || wrong?.message.startsWith(`${id} `)
      ? wrong?.message
      : undefined;
  const input = (id: string, name: string, unit: string) => (
    <NumberInput
      key={id}
      id={`measure-${id}`}
      label={name}
      suffix={unit && ` ${unit}`}
      decimalScale={1}
      step={0.5}
      hideControls
      value={values[id] ?? known(id)}
      onFocus={() => onShow(id)}
      onChange={(value) => {
        setValues({ ...values, [id]: typeof value === "number" ? value : "" });
        setSeen(seen ?? person.version);
      }}
      error={errorOf(id)}
      description={person.unusual[id] && "unusual for this height"}
    />
  );
  const lengths = fields.filter((one) => !FINGERS.includes(one.id as Finger));
  const fingers = fields.filter((one) => FINGERS.includes(one.id as Finger));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    keep.mutate();
  };
  return (
    <form onSubmit={submit} className={css.form}>
      <h2>{person.given_name}</h2>
      <div className={css.grid}>
        {input("height_cm", "Height", "cm")}
        {input("weight_kg", "Weight", "kg")}
        {input("breaths_per_minute", "Breaths per minute", "")}
        {lengths
          .filter((one) => all || FIRST.includes(one.id) || one.id === shown || known(one.id) !== "")
          .map((one) => input(one.id, one.name, "cm"))}
      </div>
      {!all && (
        <button type="button" className={css.more} onClick={() => setAll(true)}>
          Show all lengths
        </button>
      )}
      <h3>Fingers, at the middle joints</h3>
      <div className={css.grid}>{fingers.map((one) => input(one.id, one.name, "cm"))}</div>
      {keep.isError && <ErrorPanel error={keep.error} />}
      {Object.values(person.unusual).map((note) => (
        <p key={note} className={css.odd}>
          {note} Measure again to be sure.
        </p>
      ))}
      <Button type="submit" disabled={Object.keys(values).length === 0} loading={keep.isPending}>
        Save measurements
      </Button>
    </form>
  );
}

function OwnHands({ fields }: { fields: Field[] }) {
  const me = useMe();
  const queries = useQueryClient();
  const [values, setValues] = useState<Record<string, number | "">>({});
  const keep = useMutation({
    mutationFn: () => {
      const fingers: Record<string, number | null> = { ...me.data?.fingers };
      for (const [id, value] of Object.entries(values)) fingers[id] = value === "" ? null : value;
      return take(api.PATCH("/api/me", { body: { fingers } }));
    },
    onSuccess: (changed) => {
      queries.setQueryData(["me"], changed);
      setValues({});
      notifications.show({ message: "Hand measurements saved." });
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    keep.mutate();
  };
  return (
    <form className={css.form} onSubmit={submit}>
      <h2>Your own hand</h2>
      <p className={css.hint}>Measure it once; every distance is then given in your own fingers too.</p>
      <div className={css.grid}>
        {fields
          .filter((one) => FINGERS.includes(one.id as Finger))
          .map((one) => (
            <NumberInput
              key={one.id}
              label={`${one.name} (yours)`}
              suffix=" cm"
              decimalScale={1}
              hideControls
              value={values[one.id] ?? me.data?.fingers[one.id as Finger] ?? ""}
              onChange={(value) => setValues({ ...values, [one.id]: typeof value === "number" ? value : "" })}
            />
          ))}
        <NumberInput
          label="Hand span (yours)"
          suffix=" cm"
          decimalScale={1}
          hideControls
          value={values.hand_span ?? me.data?.fingers.hand_span ?? ""}
          onChange={(value) => setValues({ ...values, hand_span: typeof value === "number" ? value : "" })}
        />
      </div>
      {keep.isError && <ErrorPanel error={keep.error} />}
      <Button type="submit" variant="default" disabled={Object.keys(values).length === 0} loading={keep.isPending}>
        Save hand measurements
      </Button>
    </form>
  );
}
