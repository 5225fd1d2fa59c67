/** Find: one body; a point by name or by touch; the place, the way there, in centimetres and in fingers. */
import "@fontsource/noto-sans-tc/400.css";
import { Button, NativeSelect, SegmentedControl } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import {
  contentsQuery,
  figureQuery,
  findingsQuery,
  landmarksQuery,
  lastOf,
  placeQuery,
  STANDING,
} from "../../api/queries";
import { askWhatIsHere, type Here, HerePanel } from "../../body/HerePanel";
import { useKeys } from "../../shared/keys";
import { Trouble, Waiting } from "../../shared/parts";
import css from "./FindScreen.module.css";
import { PlaceList } from "./PlaceList";
import { PlaceSheet } from "./PlaceSheet";
import { RuleEditor } from "./RuleEditor";
import { SheetView } from "./SheetView";
import { ALL, usePlan, useShownPlaces } from "./shown";

const BodyView = lazy(() => import("../../body/BodyView"));
type Side = "left" | "right";

export function FindScreen() {
  const { personId } = useParams({ from: "/inside/people/$personId/find" });
  const { id, side: wantedSide, group: wantedGroup, view } = useSearch({ from: "/inside/people/$personId/find" });
  const side: Side = wantedSide ?? "left";
  const navigate = useNavigate({ from: "/people/$personId/find" });
  const [editing, setEditing] = useState(false);
  // A pose that was chosen by hand stays; otherwise each place is shown the way it is reached.
  const [wantedPose, setWantedPose] = useState<string | null>(null);
  const standing = useQuery(figureQuery(personId));
  const itsPose = standing.data?.places.find((one) => one.id === id)?.pose;
  // A rule is tried out standing, and sheets are drawn on the standing figure.
  const pose = editing || view === "sheets" ? STANDING : (wantedPose ?? itsPose ?? STANDING);
  const figure = useQuery({ ...figureQuery(personId, pose), placeholderData: lastOf(personId) });
  const contents = useQuery(contentsQuery);
  const plan = usePlan(personId);
  const place = useQuery({
    ...placeQuery(personId, id ?? "", side, pose),
    enabled: id !== undefined,
    placeholderData: lastOf(personId),
  });
  const [step, setStep] = useState<number | null>(null);
  const [bones, setBones] = useState(false);
  const [here, setHere] = useState<Here | null>(null);
  const [nudging, setNudging] = useState(false);
  const [nudged, setNudged] = useState<number[] | null>(null);
  const [trial, setTrial] = useState<Schema["Located"] | null>(null);

  const known = figure.data?.places.find((one) => one.id === id && one.side === side);
  const group = wantedGroup ?? known?.group ?? (plan.length > 0 ? "plan" : ALL);
  const shown = useShownPlaces(figure.data?.places, group, plan);
  const sheets = contents.data?.sheets.filter((sheet) => sheet.group === mapOf(group)) ?? [];
  const located = id !== undefined && place.data?.point === id && place.data.side === side ? place.data : undefined;
  // Between two poses the figure is still in the old one: what is already in the new one waits for it.
  const settled = !figure.isPlaceholderData && !place.isPlaceholderData;
  const chosen = trial ?? (settled ? located : undefined);

  // What was chosen last, also while the screen is still turning to it: keys may come faster than pictures.
  const last = useRef({ id, side });
  useEffect(() => {
    last.current = { id, side };
  }, [id, side]);
  const go = (next: { id?: string; side?: Side; group?: string; view?: "sheets" }) =>
    void navigate({
      search: { id: next.id, side: next.side === "right" ? "right" : undefined, group: next.group, view: next.view },
    });
  const choose = (next: string, on: Side) => {
    setHere(null);
    last.current = { id: next, side: on };
    // The group stays while the walk goes through it (or its other map); a place from elsewhere brings its own.
    const its = figure.data?.places.find((one) => one.id === next)?.group;
    const stays = shown.some((one) => one.id === next) || (its !== undefined && mapOf(its) === mapOf(group));
    go({ id: next, side: on, group: stays ? wantedGroup : undefined, view: stays ? view : undefined });
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: another place begins its way anew
  useEffect(() => {
    setStep(null);
    setNudging(false);
    setNudged(null);
  }, [id, side]);

  const inOrder = [...new Set(shown.map((one) => one.id))];
  const search = useRef<HTMLInputElement>(null);
  const steps = chosen?.steps.length ?? 0;
  useKeys((event) => {
    if (event.key === "/") {
      search.current?.focus();
      return true;
    }
    const walk = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (walk && inOrder.length) {
      const at = last.current.id ? inOrder.indexOf(last.current.id) : -1;
      const next = inOrder[(at + walk + inOrder.length) % inOrder.length];
      if (next) choose(next, last.current.side);
      return true;
    }
    if (event.key === "ArrowLeft" || event.key === "ArrowRight") {
      const now = figure.data?.places.find((one) => one.id === last.current.id);
      if (now?.paired) choose(now.id, last.current.side === "left" ? "right" : "left");
      return true;
    }
    if (event.key === "g" || event.key === "G") {
      setBones(!bones);
      return true;
    }
    if ((event.key === "n" || event.key === "N") && steps) {
      setStep(step === null ? 0 : step + 1 < steps ? step + 1 : null);
      return true;
    }
  });

  const marks = useQuery({ ...landmarksQuery(personId, pose), enabled: step !== null });
  const wanted = step === null ? null : (chosen?.step_landmarks[step] ?? null);
  const focus = landmarkOn(marks.data, wanted, side);
  const channel = useChannel(personId, group, side, pose);
  const findings = useQuery(findingsQuery(personId, pose));
  const felt = findings.data?.filter((one) => one.entry === id && one.side === side) ?? [];
  const lozenges = [...felt.slice(-1).map((one) => one.position_cm), ...(nudged ? [nudged] : [])];

  const touch = (at: number[]) => {
    if (nudging) setNudged(at);
    else void askWhatIs(at);
  };
  const askWhatIs = async (at: number[]) => {
    const around = await askWhatIsHere(personId, at, pose);
    if (around) setHere(around);
  };

  return (
    <div className={css.page}>
      <PlaceList
        personId={personId}
        places={shown}
        everywhere={figure.data?.places ?? []}
        group={group}
        groups={contents.data?.groups ?? []}
        planned={plan.length > 0}
        side={side}
        chosen={id}
        onGroup={(next) =>
          go({
            group: next,
            side,
            view: contents.data?.sheets.some((sheet) => sheet.group === mapOf(next)) ? "sheets" : undefined,
          })
        }
        onChoose={(next) => choose(next, side)}
        input={search}
      />
      <div className={css.body}>
        {figure.isPending && <Waiting for="Fitting the figure" />}
        {figure.isError && <Trouble error={figure.error} retry={() => void figure.refetch()} />}
        {figure.data && view === "sheets" && sheets.length > 0 && (
          <SheetView
            key={mapOf(group)}
            personId={personId}
            figureKey={figure.data.key}
            sheets={sheets}
            side={side}
            chosen={id}
            onChoose={(next) => choose(next, side)}
          />
        )}
        {figure.data && !(view === "sheets" && sheets.length > 0) && (
          <Suspense fallback={<Waiting for="Loading the body" />}>
            <BodyView
              personId={personId}
              figure={figure.data}
              pose={figure.isPlaceholderData ? figure.data.key.split("-").at(-1) : pose}
              located={chosen}
              part={known?.part ?? (trial ? editedPart(trial, figure.data) : undefined)}
              places={shown}
              focus={focus}
              bones={bones}
              line={settled ? channel : undefined}
              found={lozenges}
              onPick={(picked) => choose(picked.id, picked.side)}
              onTouch={touch}
            />
          </Suspense>
        )}
        <div className={css.tools}>
          {(known ? known.paired : true) && (
            <SegmentedControl
              aria-label="Side"
              data={["right", "left"]}
              value={side}
              onChange={(next) => go({ id, side: next as Side, group: wantedGroup, view })}
            />
          )}
          {sheets.length > 0 && (
            <SegmentedControl
              aria-label="View"
              data={[
                { value: "body", label: "body" },
                { value: "sheets", label: "sheets" },
              ]}
              value={view ?? "body"}
              onChange={(next) =>
                go({ id, side, group: wantedGroup ?? group, view: next === "sheets" ? next : undefined })
              }
            />
          )}
          {view !== "sheets" && (
            <NativeSelect
              aria-label="Pose"
              data={[
                { value: "", label: `${poseName(contents.data, itsPose ?? STANDING)}, as reached` },
                ...(contents.data?.poses.map((one) => ({ value: one.id, label: one.name })) ?? []),
              ]}
              value={wantedPose ?? ""}
              onChange={(event) => setWantedPose(event.currentTarget.value || null)}
            />
          )}
          {view !== "sheets" && (
            <Button
              variant={bones ? "filled" : "default"}
              aria-pressed={bones}
              rightSection={<kbd>G</kbd>}
              onClick={() => setBones(!bones)}
            >
              Bones
            </Button>
          )}
        </div>
        {here && <HerePanel here={here} onChoose={choose} onClose={() => setHere(null)} />}
      </div>
      <aside className={css.sheet} aria-live="polite">
        {editing ? (
          <RuleEditor
            personId={personId}
            side={side}
            edited={id?.startsWith("own_") ? id : undefined}
            onTrial={setTrial}
            onClose={(kept) => {
              setEditing(false);
              setTrial(null);
              if (kept) choose(kept, side);
            }}
          />
        ) : (
          <>
            {place.isError && <Trouble error={place.error} retry={() => void place.refetch()} />}
            {located ? (
              <PlaceSheet
                located={located}
                personId={personId}
                step={step}
                onStep={setStep}
                pose={pose}
                felt={felt}
                nudging={nudging}
                nudged={nudged}
                onNudge={(on) => {
                  setNudging(on);
                  if (on && view === "sheets") go({ id, side, group: wantedGroup }); // it is touched on the body
                }}
                onNudged={setNudged}
                onEdit={() => setEditing(true)}
                onNear={() => void askWhatIs(located.position_cm)}
              />
            ) : (
              !place.isError && <Nothing waiting={id !== undefined} group={group} onNew={() => setEditing(true)} />
            )}
          </>
        )}
      </aside>
    </div>
  );
}

/** The group whose sheets a group shares: both maps of the foot are drawn on the same ones. */
const mapOf = (group: string) => group.replace("2", "");

function Nothing({ waiting, group, onNew }: { waiting: boolean; group: string; onNew: () => void }) {
  if (waiting) return <p className={css.hint}>Locating</p>;
  return (
    <div className={css.hint}>
      <p>
        Choose a point from the list, or touch one on the body. ↑ ↓ walk the list, ← → change the side. Touch bare skin
        to ask what is there.
      </p>
      {(group === "own" || group === ALL) && (
        <Button variant="default" onClick={onNew}>
          Make a point of your own
        </Button>
      )}
    </div>
  );
}

const poseName = (contents: Schema["Contents"] | undefined, id: string) =>
  contents?.poses.find((one) => one.id === id)?.name ?? id;

function useChannel(personId: string, group: string, side: Side, pose: string): number[][][] | undefined {
  const line = useQuery({
    queryKey: ["person", personId, "figure", "channel", group, side, pose],
    queryFn: () =>
      take(
        api.GET("/api/people/{person_id}/channels/{channel}", {
          params: { path: { person_id: personId, channel: group }, query: { side, pose } },
        }),
      ),
    enabled: /^[A-Z]{2}$/.test(group) && group !== "EX",
    staleTime: 300_000,
  });
  return line.data;
}

/** A landmark where it is on a side; figures are symmetric, so the right is the left's mirror image. */
function landmarkOn(marks: Schema["LandmarkOnBody"][] | undefined, id: string | null, side: Side) {
  const mark = marks?.find((one) => one.id === id);
  if (!mark) return undefined;
  const mirrored = (at: number[]) => (side === "right" ? [-(at[0] ?? 0), at[1] ?? 0, at[2] ?? 0] : at);
  return { position_cm: mirrored(mark.position_cm), normal: mirrored(mark.normal), name: mark.name };
}

/** The body part of a point that is still being made: that of the nearest known one. */
function editedPart(trial: Schema["Located"], figure: Schema["FigureOut"]): string | undefined {
  const [x = 0, y = 0, z = 0] = trial.position_cm;
  let best: { part: string; away: number } | undefined;
  for (const one of figure.places) {
    const [a = 0, b = 0, c = 0] = one.position_cm;
    const away = Math.hypot(a - x, b - y, c - z);
    if (!best || away < best.away) best = { part: one.part, away };
  }
  return best?.part;
}
