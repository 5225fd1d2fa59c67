/** The body at the table: turned to the place of the current stop, on the side that the hands are on. */
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense } from "react";
import type { Schema } from "../../api/client";
import { figureQuery, placeQuery } from "../../api/queries";
import { isPressed } from "../../score/shapes";
import { Waiting } from "../../shared/parts";
import type { Now } from "./useNow";

const BodyView = lazy(() => import("../../body/BodyView"));
/** Forms of a dose that go along an area. */
const GOES_ALONG = new Set(["walk", "glide"]);

/** The place of the current stop on this person. */
export function useLocated(personId: string, { stop, side }: Now): Schema["Located"] | undefined {
  const pressed = stop !== undefined && isPressed(stop);
  const place = useQuery({
    ...placeQuery(personId, stop?.id ?? "", stop?.side === "midline" ? "left" : side),
    enabled: pressed,
  });
  return pressed && place.data?.id === stop.id ? place.data : undefined;
}

type Props = {
  personId: string;
  located: Schema["Located"] | undefined;
  now: Now;
  onTouch: ((at: number[]) => void) | undefined;
};

export function TableBody({ personId, located, now, onTouch }: Props) {
  const figure = useQuery(figureQuery(personId));
  if (!figure.data) return <Waiting for="Fitting the figure" />;
  const part = figure.data.places.find((place) => place.id === now.stop?.id)?.part;
  return (
    <Suspense fallback={<Waiting for="Loading the body" />}>
      <BodyView
        personId={personId}
        figure={figure.data}
        located={located}
        part={part}
        marks={false}
        walking={stationOf(now, located)}
        draped
        {...(onTouch && { onTouch })}
      />
    </Suspense>
  );
}

/** Along an area: the station of its way that is due by now. Not while a sore spot on it is worked. */
function stationOf({ stop, beat, loop }: Now, located: Schema["Located"] | undefined): number | undefined {
  const stations = located?.walk_cm?.length ?? 0;
  if (!stop || !GOES_ALONG.has(stop.dose.form) || stations === 0 || loop !== null) return undefined;
  return Math.min(Math.floor(beat.done * stations), stations - 1);
}
