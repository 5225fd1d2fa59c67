/** Compose: complaints and minutes in, a score out, with every reason; then edited by hand and by keys. */
import { Button, Menu } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { lazy, Suspense, useEffect, useRef, useState } from "react";
import type { Schema } from "../../api/client";
import {
  catalogueQuery,
  complaintsQuery,
  figureQuery,
  placeQuery,
  STANDING,
  todayQuery,
  useMe,
} from "../../api/queries";
import { askWhatIsHere, type Here, HerePanel } from "../../body/HerePanel";
import { Overview } from "../../score/Overview";
import { ScoreView } from "../../score/ScoreView";
import { around, isPressed } from "../../score/shapes";
import { AddByName } from "../../shared/AddByName";
import { useKeys } from "../../shared/keys";
import { Empty, Trouble, Waiting } from "../../shared/parts";
import { minutesAndSeconds } from "../../shared/words";
import css from "./ComposeScreen.module.css";
import { Drafts } from "./Drafts";
import { onScoreKey, onStopKey, useUndoKeys } from "./keys";
import { LeftOut } from "./LeftOut";
import { Programme } from "./Programme";
import { Protocols } from "./Protocols";
import { StopEditor } from "./StopEditor";
import { useScore, type Wish } from "./useScore";
import { WhatIf } from "./WhatIf";
import { WishBar } from "./WishBar";
import { beginsWith, firstWish, ownFirst } from "./wish";

const BodyView = lazy(() => import("../../body/BodyView"));
/** From here on a score is looked at through a window, with the whole of it in a strip below. */
const MANY_STOPS = 26;
const WINDOW_S = 900;
/** The body carries no marks here: it shows the path of the hands, and is touched to add what is there. */
const NO_MARKS: Schema["PlaceOnBody"][] = [];

export function ComposeScreen() {
  const { personId } = useParams({ from: "/inside/people/$personId" });
  const today = useQuery(todayQuery(personId));
  const complaints = useQuery(complaintsQuery(personId));
  const catalogue = useQuery(catalogueQuery);
  const trouble = [today, complaints, catalogue].find((query) => query.isError);
  if (trouble) return <Trouble error={trouble.error} retry={() => void trouble.refetch()} />;
  if (today.isPending || !complaints.data || !catalogue.data) return <Waiting for="Loading" />;
  if (!today.data) {
    return (
      <div className={css.alone}>
        <Empty>No visit today. Start one now, above, or book one on the overview.</Empty>
      </div>
    );
  }
  const open = complaints.data.filter((complaint) => !complaint.closed_on);
  return (
    <Composer key={personId} personId={personId} today={today.data} complaints={open} catalogue={catalogue.data} />
  );
}

type Props = {
  personId: string;
  today: Schema["DayVisit"];
  complaints: Schema["ComplaintOut"][];
  catalogue: Schema["Catalogue"];
};
type Panel = "drafts" | "protocols" | "programme" | null;

function Composer({ personId, today, complaints, catalogue }: Props) {
  const score = useScore(today.visit_id, personId);
  const figure = useQuery(figureQuery(personId));
  const navigate = useNavigate();
  const made = score.visit.data?.score;
  const own = useMe().data?.schools ?? [];
  const [wish, setWish] = useState<Wish>(() =>
    firstWish(complaints, today.minutes, beginsWith(own, catalogue.schools)),
  );
  const [chosen, setChosen] = useState<string | null>(null);
  const [panel, setPanel] = useState<Panel>(null);
  const [asking, setAsking] = useState(false);
  const [closer, setCloser] = useState<boolean | null>(null);
  const [middle, setMiddle] = useState(0);
  const [here, setHere] = useState<Here | null>(null);
  const adding = useRef<HTMLInputElement>(null);
  const stop = score.stops.find((one) => one.key === chosen);
  const side = stop?.side === "right" ? "right" : "left";
  const located = useQuery({
    ...placeQuery(personId, stop?.id ?? "", side),
    enabled: stop !== undefined && isPressed(stop),
  });
  // The school of the score that is here is the one to go on with.
  const school = made?.school;
  useEffect(() => {
    if (school) setWish((before) => ({ ...before, school }));
  }, [school]);
  useUndoKeys(score.undo, score.redo);
  useKeys((event) => {
    if (panel !== null || !made?.stops.length) return;
    const look = { closer: () => setCloser(!(closer ?? many)), add: () => adding.current?.focus() };
    return (stop && onStopKey(event, stop, score, setChosen)) || onScoreKey(event, score, look);
  });
  const many = (made?.stops.length ?? 0) > MANY_STOPS;
  const chosenAt = stop ? stop.start_s + stop.duration_s / 2 : undefined;
  useEffect(() => {
    if (chosenAt !== undefined) setMiddle(chosenAt);
  }, [chosenAt]);

  if (score.visit.isPending) return <Waiting for="Loading the score" />;
  if (score.visit.isError) return <Trouble error={score.visit.error} retry={() => void score.visit.refetch()} />;
  const budget = today.minutes * 60;
  const whole = Math.max(made?.total_s ?? 0, budget);
  const window = (closer ?? many) && whole > WINDOW_S ? around(middle, WINDOW_S, whole * 1.01) : undefined;
  const places = figure.data?.places ?? [];
  const path = score.stops.flatMap((one) => {
    if (one.muted || !isPressed(one)) return [];
    const at = places.find((place) => place.id === one.id && (place.side === one.side || one.side !== "right"));
    return at ? [at.position_cm as [number, number, number]] : [];
  });
  const part = places.find((place) => place.id === stop?.id)?.part;
  const compose = (next: Wish) => {
    setWish(next);
    setChosen(null);
    score.compose.mutate(next);
  };
  const add = (id: string, override = "", on?: "left" | "right") =>
    void score.add(id, chosen, on ? { override, side: on } : { override }).then(setChosen, () => undefined); // said already
  const touch = (at: number[]) => void askWhatIsHere(personId, at, STANDING).then(setHere);
  return (
    <div className={css.page}>
      <div className={css.wish}>
        {complaints.length === 0 && (
          <Link to="/people/$personId/complaints" params={{ personId }}>
            Add a complaint first
          </Link>
        )}
        <WishBar complaints={complaints} schools={ownFirst(own, catalogue.schools)} wish={wish} onWish={setWish} />
        <Button
          disabled={wish.complaint_ids.length === 0}
          loading={score.compose.isPending}
          variant={made ? "default" : "filled"}
          onClick={() => compose(wish)}
        >
          {made ? "Compose again" : "Compose"}
        </Button>
        {!made && <More onPanel={setPanel} visitId={today.visit_id} made={false} />}
        {made && made.decision === "ok" && (
          <>
            <Total total_s={made.total_s} budget_s={budget} />
            <Button
              className={css.go}
              onClick={() => void navigate({ to: "/treat/$visitId", params: { visitId: today.visit_id } })}
            >
              Treat
            </Button>
          </>
        )}
      </div>
      {score.compose.isError && <Trouble error={score.compose.error} />}
      {made && made.decision !== "ok" && (
        <div className={css.stopped} role="alert">
          {made.reasons?.map((reason) => (
            <p key={reason.rule}>{reason.text}</p>
          ))}
        </div>
      )}
      {!made && (
        <Empty>Choose what to work on and for how long, then compose. You can change everything afterwards.</Empty>
      )}
      {made && made.decision === "ok" && (
        <>
          <div className={css.score} data-busy={score.busy || undefined}>
            <ScoreView
              score={made}
              lane={62}
              budget_s={budget}
              window={window}
              chosen={chosen}
              onChoose={setChosen}
              onMove={score.move}
              onStretch={(key, seconds) => void score.stretch(key, seconds)}
              onRaise={(key, level) => score.change(key, { level })}
              onSide={score.side}
            />
            {window && <Overview score={made} budget_s={budget} window={window} onWindow={setMiddle} />}
          </div>
          <div className={css.tools}>
            <AddByName
              label="Add a stop"
              placeholder="Add: SP6, inner wrist, calf strokes"
              techniques={catalogue.techniques}
              onAdd={add}
              input={adding}
            />
            <Button variant="default" disabled={!score.canUndo} onClick={score.undo}>
              Undo
            </Button>
            <Button variant="default" disabled={!score.canRedo} onClick={score.redo}>
              Redo
            </Button>
            <Button variant="default" aria-pressed={asking} onClick={() => setAsking(!asking)}>
              What if
            </Button>
            <More onPanel={setPanel} visitId={today.visit_id} made />
            {whole > WINDOW_S && (
              <Button
                variant="default"
                aria-pressed={window !== undefined}
                onClick={() => setCloser(window === undefined)}
              >
                {window ? "See all of it" : "Look closer"}
              </Button>
            )}
            <Worth objective={made.objective} />
          </div>
          {asking && (
            <WhatIf
              visitId={today.visit_id}
              score={score}
              made={made}
              wish={wish}
              schools={catalogue.schools}
              onTake={(next) => {
                setAsking(false);
                compose(next);
              }}
            />
          )}
          <div className={css.below} hidden={asking}>
            <StopEditor stop={stop} stops={score.stops} score={score} wish={wish} onWish={setWish} />
            <LeftOut made={made} onAdd={add} onPin={(id) => compose({ ...wish, pinned: [...wish.pinned, id] })} />
            <div className={css.body}>
              {figure.data ? (
                <Suspense fallback={<Waiting for="Loading the body" />}>
                  <BodyView
                    personId={personId}
                    figure={figure.data}
                    located={stop && located.data?.point === stop.id ? located.data : undefined}
                    part={part}
                    path={stop ? undefined : path}
                    places={NO_MARKS}
                    onTouch={touch}
                  />
                  {here && (
                    <HerePanel
                      here={here}
                      onClose={() => setHere(null)}
                      onChoose={(id, on) => {
                        setHere(null);
                        add(id, undefined, on);
                      }}
                    />
                  )}
                </Suspense>
              ) : (
                <Waiting for="Fitting the figure" />
              )}
            </div>
          </div>
        </>
      )}
      {panel === "drafts" && made && (
        <Drafts visitId={today.visit_id} score={score} made={made} budget_s={budget} onClose={() => setPanel(null)} />
      )}
      {panel === "protocols" && (
        <Protocols
          visitId={today.visit_id}
          score={score}
          hasScore={Boolean(made?.stops.length)}
          onClose={() => setPanel(null)}
        />
      )}
      {panel === "programme" && <Programme visitId={today.visit_id} wish={wish} onClose={() => setPanel(null)} />}
    </div>
  );
}

function More({ onPanel, visitId, made }: { onPanel: (panel: Panel) => void; visitId: string; made: boolean }) {
  return (
    <Menu position="bottom-start">
      <Menu.Target>
        <Button variant="default">More</Button>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item disabled={!made} onClick={() => onPanel("drafts")}>
          Drafts: keep, compare
        </Menu.Item>
        <Menu.Item onClick={() => onPanel("protocols")}>Protocols: keep, share, apply</Menu.Item>
        <Menu.Item onClick={() => onPanel("programme")}>Several visits, and home</Menu.Item>
        {made && (
          <Menu.Item component="a" href={`/api/visits/${visitId}/score.pdf`} target="_blank" rel="noreferrer">
            Print for the table
          </Menu.Item>
        )}
      </Menu.Dropdown>
    </Menu>
  );
}

function Total({ total_s, budget_s }: { total_s: number; budget_s: number }) {
  const left = budget_s - total_s;
  return (
    <p className={css.total} data-over={left < 0 || undefined}>
      <strong>{minutesAndSeconds(total_s)}</strong>
      <span>
        of {minutesAndSeconds(budget_s)}
        {left < 0 && `, ${minutesAndSeconds(-left)} over the slot`}
      </span>
    </p>
  );
}

/** How good the composition is proven to be. */
function Worth({ objective }: { objective: Schema["Objective"] }) {
  if (!objective.value) return null;
  const gap = objective.gap ?? 0;
  return (
    <p className={css.worth}>
      score {objective.value.toFixed(1)},{" "}
      {gap < 0.0005 ? "proven best" : `within ${(gap * 100).toFixed(1)} % of the best`}; {objective.position_changes}{" "}
      {objective.position_changes === 1 ? "turn" : "turns"}
    </p>
  );
}
