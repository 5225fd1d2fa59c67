/** Compose: complaints and minutes in, a score out, with every reason; then edited by hand and by keys. */
import { Button, Checkbox, NumberInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { lazy, Suspense, useState } from "react";
import type { Schema } from "../../api/client";
import { complaintsQuery, figureQuery, placeQuery, todayQuery } from "../../api/queries";
import { ScoreView } from "../../score/ScoreView";
import { useKeys } from "../../shared/keys";
import { Empty, Trouble, Waiting } from "../../shared/parts";
import { minutesAndSeconds, shortId, sideWords } from "../../shared/words";
import css from "./ComposeScreen.module.css";
import { StopEditor } from "./StopEditor";
import { type Stop, useScore } from "./useScore";

const BodyView = lazy(() => import("../../body/BodyView"));

export function ComposeScreen() {
  const { personId } = useParams({ from: "/inside/people/$personId" });
  const today = useQuery(todayQuery(personId));
  const complaints = useQuery(complaintsQuery(personId));
  if (today.isPending || complaints.isPending) return <Waiting for="Loading" />;
  if (today.isError) return <Trouble error={today.error} retry={() => void today.refetch()} />;
  if (complaints.isError) return <Trouble error={complaints.error} retry={() => void complaints.refetch()} />;
  if (!today.data) {
    return (
      <div className={css.alone}>
        <Empty>There is no visit today, so there is nothing to compose for.</Empty>
      </div>
    );
  }
  return <Composer personId={personId} today={today.data} complaints={complaints.data} />;
}

function Composer(props: { personId: string; today: Schema["DayVisit"]; complaints: Schema["ComplaintOut"][] }) {
  const { personId, today, complaints } = props;
  const score = useScore(today.visit_id, personId);
  const figure = useQuery(figureQuery(personId));
  const navigate = useNavigate();
  const [wanted, setWanted] = useState<string[]>(complaints.map((complaint) => complaint.id));
  const [minutes, setMinutes] = useState(today.minutes - 10 > 3 ? today.minutes - 10 : today.minutes);
  const [chosen, setChosen] = useState<string | null>(null);
  const stop = score.stops.find((one) => one.key === chosen);
  const side = stop?.side === "right" ? "right" : "left";
  const located = useQuery({
    ...placeQuery(personId, stop?.id ?? "", side),
    enabled: stop !== undefined && (stop.kind === "point" || stop.kind === "area"),
  });
  useKeys((event) => stop !== undefined && onKey(event, stop, score, setChosen));

  if (score.visit.isPending) return <Waiting for="Loading the score" />;
  if (score.visit.isError) return <Trouble error={score.visit.error} retry={() => void score.visit.refetch()} />;
  const made = score.visit.data.score;
  const budget = today.minutes * 60;
  const places = figure.data?.places ?? [];
  const path = score.stops.flatMap((one) => {
    if (one.muted || (one.kind !== "point" && one.kind !== "area")) return [];
    const at = places.find((place) => place.id === one.id && (place.side === one.side || one.side !== "right"));
    return at ? [at.position_cm as [number, number, number]] : [];
  });
  const part = places.find((place) => place.id === stop?.id)?.part;
  return (
    <div className={css.page}>
      <div className={css.wish}>
        <div className={css.complaints}>
          {complaints.length === 0 && (
            <Link to="/people/$personId/complaints" params={{ personId }}>
              Add a complaint first
            </Link>
          )}
          {complaints.map((complaint) => (
            <Checkbox
              key={complaint.id}
              label={`${complaint.name}, ${sideWords[complaint.side]}`}
              checked={wanted.includes(complaint.id)}
              onChange={(event) =>
                setWanted(
                  event.currentTarget.checked ? [...wanted, complaint.id] : wanted.filter((id) => id !== complaint.id),
                )
              }
            />
          ))}
        </div>
        <NumberInput
          aria-label="Minutes to press"
          suffix=" min"
          w={104}
          min={3}
          max={120}
          value={minutes}
          onChange={(value) => typeof value === "number" && setMinutes(value)}
        />
        <Button
          disabled={wanted.length === 0}
          loading={score.compose.isPending}
          variant={made ? "default" : "filled"}
          onClick={() =>
            score.compose.mutate({ complaint_ids: wanted, minutes, positions_excluded: [], avoid: [], pinned: [] })
          }
        >
          {made ? "Compose again" : "Compose"}
        </Button>
        {made && made.decision === "ok" && (
          <>
            <Total total_s={made.total_s} budget_s={budget} />
            <Button variant="default" disabled={!score.canUndo} onClick={score.undo}>
              Undo
            </Button>
            <Button variant="default" disabled={!score.canRedo} onClick={score.redo}>
              Redo
            </Button>
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
          {made.reasons.map((reason) => (
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
              budget_s={budget}
              chosen={chosen}
              onChoose={setChosen}
              onMove={score.move}
              onStretch={(key, seconds) => void score.stretch(key, seconds)}
            />
          </div>
          <div className={css.below}>
            <StopEditor stop={stop} stops={score.stops} score={score} />
            <LeftOut rows={made.left_out} />
            <div className={css.body}>
              {figure.data ? (
                <Suspense fallback={<Waiting for="Loading the body" />}>
                  <BodyView
                    personId={personId}
                    figure={figure.data}
                    located={stop && located.data?.point === stop.id ? located.data : undefined}
                    part={part}
                    path={stop ? undefined : path}
                    marks={false}
                  />
                </Suspense>
              ) : (
                <Waiting for="Fitting the figure" />
              )}
            </div>
          </div>
        </>
      )}
    </div>
  );
}

function Total({ total_s, budget_s }: { total_s: number; budget_s: number }) {
  const left = budget_s - total_s;
  return (
    <p className={css.total}>
      <strong>{minutesAndSeconds(total_s)}</strong>
      <span>
        {left >= 0 ? `fits, ${minutesAndSeconds(left)} for talk and rest` : `${minutesAndSeconds(-left)} over the slot`}
      </span>
    </p>
  );
}

function LeftOut({ rows }: { rows: Schema["LeftOut"][] }) {
  return (
    <section className={css.leftOut} aria-label="Left out">
      <h2>Left out{rows.length > 0 && `: ${rows.length}`}</h2>
      {rows.length === 0 && <p>Nothing. Everything that is traditionally used fits.</p>}
      <ul>
        {rows.map((row) => (
          <li key={`${row.id}-${row.side}`} data-severity={row.severity}>
            <b>{shortId(row.id)}</b> <small>{sideWords[row.side]}</small> {row.reason}
          </li>
        ))}
      </ul>
    </section>
  );
}

const SIDES = ["left", "both", "right"] as const;

/** Keys on the chosen stop. Returns true where a key was used. */
function onKey(
  event: KeyboardEvent,
  stop: Stop,
  score: ReturnType<typeof useScore>,
  choose: (key: string | null) => void,
) {
  const index = score.stops.findIndex((one) => one.key === stop.key);
  const neighbour = (step: number) => score.stops[index + step];
  switch (event.key) {
    case "ArrowRight":
    case "ArrowLeft": {
      const step = event.key === "ArrowRight" ? 1 : -1;
      if (!event.shiftKey) {
        choose(neighbour(step)?.key ?? stop.key);
        return true;
      }
      if (neighbour(step)) score.move(stop.key, step > 0 ? (neighbour(2)?.key ?? null) : (neighbour(-1)?.key ?? null));
      return true;
    }
    case "ArrowUp":
      if (stop.level < stop.ceiling) score.change(stop.key, { level: stop.level + 1 });
      return true;
    case "ArrowDown":
      if (stop.level > 1) score.change(stop.key, { level: stop.level - 1 });
      return true;
    case "+":
    case "=":
      void score.stretch(stop.key, stop.duration_s + 10 * (stop.side === "both" ? 2 : 1));
      return true;
    case "-":
      void score.stretch(stop.key, stop.duration_s - 10 * (stop.side === "both" ? 2 : 1));
      return true;
    case "m":
    case "M":
      score.change(stop.key, { muted: !stop.muted });
      return true;
    case "s":
    case "S":
      if (stop.side !== "midline") {
        const next = SIDES[(SIDES.indexOf(stop.side) + 1) % SIDES.length];
        if (next) score.change(stop.key, { side: next });
      }
      return true;
    case "Escape":
      choose(null);
      return true;
    case "u":
      score.undo();
      return true;
  }
  return false;
}
