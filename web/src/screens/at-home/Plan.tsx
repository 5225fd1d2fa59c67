/** The plan for home: proposed, changed place by place, given; then on paper, as a calendar, and in the diary. */
import { Button, NativeSelect, NumberInput, Switch, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { IconArrowUp, IconX } from "@tabler/icons-react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { givenPlanQuery, homePlanQuery, type Wish } from "../../api/between";
import { api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { personQuery, refresh } from "../../api/queries";
import { AddByName } from "../../shared/AddByName";
import { DayInput } from "../../shared/DayInput";
import desk from "../../shared/desk.module.css";
import { ErrorPanel, Waiting } from "../../shared/parts";
import { dateOf, minutesAndSeconds, newId, shortId } from "../../shared/words";
import css from "./AtHomeScreen.module.css";

type Place = Schema["HomePlace"];
type Proposed = Schema["Proposed"];
const POSITIONS: [Wish["position"], string][] = [
  ["seated", "Seated"],
  ["supine", "Lying face up"],
  ["left_side", "Lying on the left side"],
  ["right_side", "Lying on the right side"],
];
const MOST = 5;
const SIDES: Record<string, string> = { both: "both sides", left: "left", right: "right", midline: "middle" };

const placesOf = (plan: Schema["HomePlan"]): Place[] => [
  ...new Map(plan.sets.flatMap((set) => set.points.map((place) => [place.id, place] as const))).values(),
];

const USUAL: Wish = { position: "seated", times_a_day: 2 };

export function Plan({ personId }: { personId: string }) {
  const given = useQuery(givenPlanQuery(personId));
  if (given.isPending) return <Waiting for="Loading the plan" />;
  if (given.isError) return <ErrorPanel error={given.error} retry={() => void given.refetch()} />;
  return <Planning personId={personId} given={given.data} />;
}

/** What was given is what is gone on from. */
const wishOf = ({ plan }: Schema["GivenPlan"]): Wish => ({
  position: plan.position,
  times_a_day: plan.times_a_day,
  weak_hands: plan.weak_hands,
  reaches_feet: plan.reaches_feet,
  places: placesOf(plan).map((place) => place.id),
});

function Planning({ personId, given }: { personId: string; given: Schema["GivenPlan"] | null }) {
  const [wish, setWish] = useState<Wish>(() => (given ? wishOf(given) : USUAL));
  const person = useQuery(personQuery(personId));
  const proposed = useQuery(homePlanQuery(personId, wish));
  const writes = useMay("write_health");
  const set = (change: Partial<Wish>) => setWish({ ...wish, ...change });
  const name = person.data?.given_name ?? "they";
  return (
    <section className={desk.section} aria-label="Home plan">
      <h2>Home plan</h2>
      {given && <Given given={given} personId={personId} />}
      {proposed.isPending && <Waiting for="Choosing points" />}
      {proposed.isError && <ErrorPanel error={proposed.error} retry={() => setWish(USUAL)} />}
      {proposed.data && (
        <>
          <div className={desk.row}>
            <NativeSelect
              label={`Position when ${name} presses`}
              value={wish.position}
              onChange={(event) => set({ position: event.currentTarget.value as Wish["position"], places: undefined })}
              data={POSITIONS.map(([value, label]) => ({ value, label }))}
            />
            <NumberInput
              label="Times a day"
              min={1}
              max={6}
              clampBehavior="strict"
              value={wish.times_a_day}
              onChange={(value) => typeof value === "number" && set({ times_a_day: value })}
            />
          </div>
          <div className={css.switches}>
            <Switch
              label="Weak or stiff hands"
              checked={proposed.data.plan.weak_hands}
              onChange={(event) => set({ weak_hands: event.currentTarget.checked })}
            />
            <Switch
              label="Can reach their feet"
              checked={proposed.data.plan.reaches_feet}
              onChange={(event) => set({ reaches_feet: event.currentTarget.checked, places: undefined })}
            />
          </div>
          <Sets proposed={proposed.data} onPlaces={(places) => set({ places })} />
          {writes && <Give personId={personId} proposed={proposed.data} key={proposed.data.plan.times_a_day} />}
        </>
      )}
    </section>
  );
}

function Sets({ proposed, onPlaces }: { proposed: Proposed; onPlaces: (ids: string[]) => void }) {
  const { plan, stopped } = proposed;
  const places = placesOf(plan);
  const ids = places.map((one) => one.id);
  if (stopped.length > 0)
    return (
      <div className={css.stopped} role="alert">
        <p>No home pressing for now.</p>
        {stopped.map((line) => (
          <p key={line}>{line}</p>
        ))}
      </div>
    );
  if (places.length === 0)
    return (
      <p className={desk.note}>No open complaint has a point that can be reached in this position. Add one below.</p>
    );
  const inSets = (id: string) =>
    plan.sets.filter((set) => set.points.some((one) => one.id === id)).map((one) => one.name);
  return (
    <>
      <ol className={css.places}>
        {places.map((place, rank) => (
          <li key={place.id}>
            <div className={css.set}>{plan.sets.length > 1 ? inSets(place.id).join(" ") : rank + 1}</div>
            <div>
              <p>
                <b>
                  {shortId(place.id)} {place.name}
                </b>
                , {SIDES[place.side]} · {minutesAndSeconds(place.seconds)}
                {place.side === "both" && " a side"} · level {place.level}
              </p>
              <p className={desk.small}>
                {place.dose_words}, with {place.press_with}. {place.why}
              </p>
            </div>
            <div className={css.tools}>
              {rank > 0 && (
                <button
                  type="button"
                  aria-label={`Move ${place.name} up`}
                  onClick={() => onPlaces(ids.with(rank, ids[rank - 1] ?? "").with(rank - 1, place.id))}
                >
                  <IconArrowUp size={18} />
                </button>
              )}
              {places.length > 1 && (
                <button
                  type="button"
                  aria-label={`Remove ${place.name}`}
                  onClick={() => onPlaces(ids.filter((id) => id !== place.id))}
                >
                  <IconX size={18} />
                </button>
              )}
            </div>
          </li>
        ))}
      </ol>
      {plan.sets.length > 1 && (
        <p className={desk.note}>Sets A and B alternate daily. The first point is pressed every day.</p>
      )}
      {places.length < MOST && (
        <div className={css.others}>
          {plan.others.slice(0, 4).map((place) => (
            <Button key={place.id} size="compact-sm" variant="default" onClick={() => onPlaces([...ids, place.id])}>
              Add {shortId(place.id)} {place.name}
            </Button>
          ))}
          <AddByName label="Add a point" placeholder="another point" onAdd={(id) => onPlaces([...ids, id])} />
        </div>
      )}
    </>
  );
}

function Give({ personId, proposed }: { personId: string; proposed: Proposed }) {
  const [hours, setHours] = useState(proposed.hours);
  const [until, setUntil] = useState(proposed.until);
  const queries = useQueryClient();
  const { plan } = proposed;
  const give = useMutation({
    mutationFn: () => {
      const wish: Schema["HomeWish"] = {
        position: plan.position,
        weak_hands: plan.weak_hands,
        reaches_feet: plan.reaches_feet,
        times_a_day: plan.times_a_day,
        places: placesOf(plan).map((one) => one.id),
      };
      const body = { id: newId(), wish, hours, first_day: proposed.first_day, until };
      return take(api.POST("/api/people/{person_id}/home-plans", { params: { path: { person_id: personId } }, body }));
    },
    onSuccess: async () => {
      await refresh(queries, ["person", personId, "home-plan", "given"]);
      notifications.show({ message: "Home plan saved. Print it or open a diary; it appears in both." });
    },
  });
  if (plan.sets.length === 0) return null;
  return (
    <form
      className={desk.form}
      aria-label="Save home plan"
      onSubmit={(event) => {
        event.preventDefault();
        give.mutate();
      }}
    >
      <div className={desk.row}>
        {hours.map((hour, rank) => (
          <TextInput
            // biome-ignore lint/suspicious/noArrayIndexKey: the hours are as many as the times a day, in their order
            key={rank}
            type="time"
            label={rank === 0 ? "At" : "and at"}
            value={hour}
            onChange={(event) => setHours(hours.with(rank, event.currentTarget.value))}
          />
        ))}
        <DayInput label="Until" required value={until} onChange={setUntil} />
      </div>
      {give.isError && <ErrorPanel error={give.error} />}
      <div className={desk.buttons}>
        <Button type="submit" loading={give.isPending}>
          Save home plan
        </Button>
      </div>
    </form>
  );
}

function Given({ given, personId }: { given: Schema["GivenPlan"]; personId: string }) {
  const at = `/api/people/${personId}`;
  return (
    <article className={css.given}>
      <p>
        <b>Saved {dateOf(given.given_at)}</b> by {given.given_by}, until {dateOf(given.until)}:{" "}
        {placesOf(given.plan)
          .map((one) => shortId(one.id))
          .join(", ")}
        , at {given.hours.join(" and ")}.
      </p>
      <div className={css.papers}>
        <a href={`${at}/home.pdf`} target="_blank" rel="noreferrer">
          Home sheet
        </a>
        <a href={`${at}/home.pdf?large=true`} target="_blank" rel="noreferrer">
          Large print
        </a>
        <a href={`${at}/home.ics`} download="home.ics">
          Calendar
        </a>
      </div>
    </article>
  );
}
