/** Where teachers or editions differ: the other places of a point, shown beside the drawn one, and preferred on request. */
import { Button } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { ErrorPanel } from "../../shared/parts";
import css from "./PlaceSheet.module.css";

type Props = { id: string; places: Schema["AlternativePlace"][]; both: boolean; onBoth: (on: boolean) => void };

export function Elsewhere({ id, places, both, onBoth }: Props) {
  const client = useQueryClient();
  const mayPrefer = useMay("manage");
  const prefer = useMutation({
    mutationFn: (alternative: string | null) =>
      take(api.PUT("/api/practice/preferred/{id}", { params: { path: { id } }, body: { alternative } })),
    onSuccess: () => client.invalidateQueries(),
  });
  return (
    <section>
      <h3>Other locations taught</h3>
      <ul className={css.methods}>
        {places.map((place) => (
          <li key={place.id}>
            <p>{place.name}</p>
            <p>
              <b>{place.off_cm.toFixed(1)} cm from the location shown</b> {place.school}
            </p>
            {mayPrefer && (
              <Button
                variant="default"
                size="compact-xs"
                loading={prefer.isPending}
                onClick={() => prefer.mutate(place.id === "standard" ? null : place.id)}
              >
                Use this location in this practice
              </Button>
            )}
          </li>
        ))}
      </ul>
      <Button variant="default" size="compact-sm" aria-pressed={both} onClick={() => onBoth(!both)}>
        {both ? "Show only the main location" : "Show both on the body"}
      </Button>
      {prefer.isError && <ErrorPanel error={prefer.error} />}
    </section>
  );
}
