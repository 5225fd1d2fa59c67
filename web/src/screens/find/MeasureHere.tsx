/** What to measure to make this place surer, and the field to enter it: the figure follows at once. */
import { Button, NumberInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, take } from "../../api/client";
import { personQuery, refresh, worthMeasuringQuery } from "../../api/queries";
import { ErrorPanel } from "../../shared/parts";
import css from "./PlaceSheet.module.css";

const FINGERS = ["thumb_width", "two_fingers", "three_fingers", "four_fingers"];

export function MeasureHere({ personId, id, ring }: { personId: string; id: string; ring: number }) {
  const asked = useQuery(worthMeasuringQuery(personId, [id]));
  const person = useQuery(personQuery(personId));
  const queries = useQueryClient();
  const [value, setValue] = useState<number | "">("");
  const first = asked.data?.[0];
  const keep = useMutation({
    mutationFn: ({ measure, length }: { measure: string; length: number }) =>
      take(
        api.PATCH("/api/people/{person_id}", {
          params: { path: { person_id: personId } },
          body: {
            version: person.data?.version ?? 0,
            ...(FINGERS.includes(measure)
              ? { measures_cm: {}, fingers: { ...person.data?.fingers, [measure]: length } }
              : { measures_cm: { [measure]: length } }),
          },
        }),
      ),
    onSuccess: async () => {
      setValue("");
      void refresh(queries, ["person", personId]);
    },
  });
  if (!first || id.includes("_")) return null;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (value !== "") keep.mutate({ measure: first.id, length: value });
  };
  return (
    <form className={css.measure} onSubmit={submit}>
      <NumberInput
        label={`Measure: ${first.name.toLowerCase()}`}
        description={`${first.how} This narrows the search radius from ${ring.toFixed(2)} to about ${first.ring_then_cm.toFixed(2)} cm.`}
        suffix=" cm"
        decimalScale={1}
        hideControls
        value={value}
        onChange={(next) => setValue(typeof next === "number" ? next : "")}
      />
      <Button type="submit" variant="default" disabled={value === ""} loading={keep.isPending}>
        Save measurement
      </Button>
      {keep.isError && <ErrorPanel error={keep.error} />}
    </form>
  );
}
