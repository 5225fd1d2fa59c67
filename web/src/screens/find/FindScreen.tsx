/** Find: one body; a point by name or by touch; the place, the way there, in centimetres and in fingers. */
import "@fontsource/noto-sans-tc/400.css";
import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { lazy, Suspense, useRef, useState } from "react";
import { ApiError, type Schema } from "../../api/client";
import { contentsQuery, figureQuery, STANDING } from "../../api/queries";
import { askWhatIsNear, NearbyPanel } from "../../body/NearbyPanel";
import { useKeys } from "../../shared/keys";
import { ErrorPanel, Waiting } from "../../shared/parts";
import css from "./FindScreen.module.css";
import { FindTools } from "./FindTools";
import { PlaceList } from "./PlaceList";
import { PlaceSheet } from "./PlaceSheet";
import { RuleEditor } from "./RuleEditor";
import { SheetView } from "./SheetView";
import { ALL, mapOf } from "./shown";
import { type Choice, type Side, useChoice } from "./useChoice";
import { type OnBody, useItsPose, useOnBody } from "./useOnBody";

const BodyView = lazy(() => import("../../body/BodyView"));

export function FindScreen() {
  const { personId } = useParams({ from: "/inside/people/$personId/find" });
  const contents = useQuery(contentsQuery);
  const standing = useQuery(figureQuery(personId));
  const choice = useChoice(personId, standing.data?.places, contents.data);
  const { id, side, group, view } = choice;
  const [editing, setEditing] = useState(false);
  const [trial, setTrial] = useState<Schema["Located"] | null>(null);
  // A pose that was chosen by hand stays; otherwise each place is shown the way it is reached.
  const [wantedPose, setWantedPose] = useState<string | null>(null);
  const itsPose = useItsPose(personId, id);
  // A rule is tried out standing, and sheets are drawn on the standing figure.
  const pose = editing || view === "sheets" ? STANDING : (wantedPose ?? itsPose);
  const way = useWay(`${id}-${side}`);
  const onBody = useOnBody(personId, choice, { pose, trial, step: way.step });
  const { chosen, located, place } = onBody;
  const [bones, setBones] = useState(false);
  const [nearby, setNearby] = useState<Schema["Nearby"][] | null>(null);
  const search = useRef<HTMLInputElement>(null);

  const choose = (next: string, on: Side) => {
    setNearby(null);
    choice.choose(next, on);
  };
  const askAround = async (at: number[]) => {
    const around = await askWhatIsNear(personId, at, pose);
    if (around) setNearby(around);
  };
  const steps = chosen?.steps.length ?? 0;
  useKeys({
    "/": () => search.current?.focus(),
    arrowDown: () => choice.walk(1),
    arrowUp: () => choice.walk(-1),
    arrowLeft: choice.otherSide,
    arrowRight: choice.otherSide,
    g: () => setBones(!bones),
    n: steps > 0 ? () => way.onward(steps) : undefined,
  });

  return (
    <div className={css.page}>
      <PlaceList
        personId={personId}
        places={choice.shown}
        everywhere={standing.data?.places ?? []}
        group={group}
        groups={contents.data?.groups ?? []}
        planned={choice.plan.length > 0}
        side={side}
        chosen={id}
        onGroup={choice.inGroup}
        onChoose={(next) => choose(next, side)}
        input={search}
      />
      <div className={css.body}>
        <Picture
          personId={personId}
          choice={choice}
          onBody={onBody}
          bones={bones}
          nudged={way.nudged}
          both={way.both}
          onChoose={choose}
          onTouch={(at) => (way.nudging ? way.setNudged(at) : void askAround(at))}
        />
        <FindTools
          choice={choice}
          poses={contents.data?.poses ?? []}
          wantedPose={wantedPose}
          itsPose={itsPose}
          onPose={setWantedPose}
          bones={bones}
          onBones={() => setBones(!bones)}
        />
        {nearby && <NearbyPanel nearby={nearby} onChoose={choose} onClose={() => setNearby(null)} />}
      </div>
      <aside className={css.sheet} aria-live="polite">
        {editing && (
          <RuleEditor
            personId={personId}
            side={side}
            edited={id?.startsWith("own_") ? id : undefined}
            onTrial={setTrial}
            onClose={(saved) => {
              setEditing(false);
              setTrial(null);
              if (saved) choose(saved, side);
            }}
          />
        )}
        {!editing && place.isError && (
          <NotThere error={place.error} retry={() => void place.refetch()} onSearch={() => search.current?.focus()} />
        )}
        {!editing && located && (
          <PlaceSheet
            located={located}
            personId={personId}
            step={way.step}
            onStep={way.setStep}
            pose={pose}
            felt={onBody.felt}
            nudging={way.nudging}
            nudged={way.nudged}
            onNudge={(on) => {
              way.setNudging(on);
              if (on && view === "sheets") choice.inView(undefined); // it is touched on the body
            }}
            onNudged={way.setNudged}
            onEdit={() => setEditing(true)}
            onNear={() => void askAround(located.position_cm)}
            both={way.both}
            onBoth={way.setBoth}
          />
        )}
        {!editing && !located && !place.isError && (
          <Nothing waiting={id !== undefined} group={group} onNew={() => setEditing(true)} />
        )}
      </aside>
    </div>
  );
}

/** The way to one place: the step that is shown, and where hands found it instead. Another place begins anew. */
function useWay(place: string) {
  const none = { place, step: null as number | null, nudging: false, nudged: null as number[] | null, both: false };
  const [way, setWay] = useState(none);
  const now = way.place === place ? way : none;
  return {
    ...now,
    setStep: (step: number | null) => setWay({ ...now, step }),
    setNudging: (nudging: boolean) => setWay({ ...now, nudging }),
    setNudged: (nudged: number[] | null) => setWay({ ...now, nudged }),
    setBoth: (both: boolean) => setWay({ ...now, both }),
    /** The next of so many steps; after the last one none. */
    onward: (steps: number) => {
      const next = now.step === null ? 0 : now.step + 1;
      setWay({ ...now, step: next < steps ? next : null });
    },
  };
}

type PictureProps = {
  personId: string;
  choice: Choice;
  onBody: OnBody;
  bones: boolean;
  nudged: number[] | null;
  both: boolean;
  onChoose: (id: string, side: Side) => void;
  onTouch: (at: number[]) => void;
};

/** The body, or the flat sheets of a map. */
function Picture({ personId, choice, onBody, bones, nudged, both, onChoose, onTouch }: PictureProps) {
  const { figure, felt } = onBody;
  if (figure.isError) return <ErrorPanel error={figure.error} retry={() => void figure.refetch()} />;
  if (!figure.data) return <Waiting for="Fitting the figure" />;
  if (choice.view === "sheets" && choice.sheets.length > 0) {
    return (
      <SheetView
        key={mapOf(choice.group)}
        personId={personId}
        figureKey={figure.data.key}
        sheets={choice.sheets}
        side={choice.side}
        chosen={choice.id}
        onChoose={(next) => onChoose(next, choice.side)}
      />
    );
  }
  return (
    <Suspense fallback={<Waiting for="Loading the body" />}>
      <BodyView
        personId={personId}
        figure={figure.data}
        pose={onBody.pose}
        located={onBody.chosen}
        part={onBody.part}
        places={onBody.shown}
        focus={onBody.focus}
        bones={bones}
        line={onBody.channel}
        found={[
          ...felt.slice(-1).map((one) => one.position_cm),
          ...(nudged ? [nudged] : []),
          ...(both ? (onBody.chosen?.alternatives ?? []).map((one) => one.position_cm) : []),
        ]}
        onPick={(picked) => onChoose(picked.id, picked.side)}
        onTouch={onTouch}
      />
    </Suspense>
  );
}

/** A place that cannot be shown. Of an id that there is not, a search is the way on; trying again is not. */
function NotThere({ error, retry, onSearch }: { error: unknown; retry: () => void; onSearch: () => void }) {
  if (!(error instanceof ApiError && error.problem.code === "unknown_id"))
    return <ErrorPanel error={error} retry={retry} />;
  return (
    <div className={css.hint} role="alert">
      <p>{error.message}</p>
      <Button rightSection={<kbd>/</kbd>} onClick={onSearch}>
        Search
      </Button>
    </div>
  );
}

function Nothing({ waiting, group, onNew }: { waiting: boolean; group: string; onNew: () => void }) {
  if (waiting) return <p className={css.hint}>Locating</p>;
  return (
    <div className={css.hint}>
      <p>
        Choose a point from the list or tap it on the body. ↑ ↓ move through the list, ← → switch side. Tap the skin to
        see nearby points.
      </p>
      {(group === "own" || group === ALL) && (
        <Button variant="default" onClick={onNew}>
          Add your own point
        </Button>
      )}
    </div>
  );
}
