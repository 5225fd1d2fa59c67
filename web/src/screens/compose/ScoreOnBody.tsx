/** The score on the body: the chosen stop where it is, or the way of the hands; a touch asks what is there. */
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";
import type { Schema } from "../../api/client";
import { figureQuery, placeQuery, STANDING } from "../../api/queries";
import { askWhatIsNear, NearbyPanel } from "../../body/NearbyPanel";
import { isPressed } from "../../score/shapes";
import { Waiting } from "../../shared/parts";
import css from "./ComposeScreen.module.css";
import { HandsList, onTheWay } from "./HandsList";
import type { Composer } from "./useComposer";

const BodyView = lazy(() => import("../../body/BodyView"));
/** The body carries no marks here: it shows the path of the hands, and is touched to add what is there. */
const NO_MARKS: Schema["PlaceOnBody"][] = [];

export function ScoreOnBody({ personId, composer }: { personId: string; composer: Composer }) {
  const { stop, score, add, choose } = composer;
  const figure = useQuery(figureQuery(personId));
  const side = stop?.side === "right" ? "right" : "left";
  const located = useQuery({
    ...placeQuery(personId, stop?.id ?? "", side),
    enabled: stop !== undefined && isPressed(stop),
  });
  const [nearby, setNearby] = useState<Schema["Nearby"][] | null>(null);
  if (!figure.data) return <Waiting for="Fitting the figure" />;
  const { places } = figure.data;
  return (
    <div className={css.bodyAndList}>
      {!stop && <HandsList stops={score.stops} onChoose={choose} />}
      <div className={css.body}>
        <Suspense fallback={<Waiting for="Loading the body" />}>
          <BodyView
            personId={personId}
            figure={figure.data}
            located={stop && located.data?.id === stop.id ? located.data : undefined}
            part={places.find((place) => place.id === stop?.id)?.part}
            path={stop ? undefined : handsPath(score.stops, places)}
            places={NO_MARKS}
            onTouch={(at) => void askWhatIsNear(personId, at, STANDING).then(setNearby)}
          />
          {nearby && (
            <NearbyPanel
              nearby={nearby}
              onClose={() => setNearby(null)}
              onChoose={(id, on) => {
                setNearby(null);
                add(id, undefined, on);
              }}
            />
          )}
        </Suspense>
      </div>
    </div>
  );
}

/** Where the hands go from stop to stop, in cm on the standing figure: one place a stop, as they are numbered. */
function handsPath(stops: Schema["Stop"][], places: Schema["PlaceOnBody"][]): [number, number, number][] {
  return onTheWay(stops).flatMap((one) => {
    const at = places.find((place) => place.id === one.id && (place.side === one.side || one.side !== "right"));
    return at ? [at.position_cm as [number, number, number]] : [];
  });
}
