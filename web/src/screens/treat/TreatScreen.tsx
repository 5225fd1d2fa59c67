/** Treat: conducted through the score with the hands on somebody. One thing at a time, one key or tap for everything. */
import { Button, Slider } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate, useParams } from "@tanstack/react-router";
import { lazy, Suspense, useEffect, useRef, useState } from "react";
import type { Schema } from "../../api/client";
import { facts } from "../../api/facts.gen";
import { figureQuery, placeQuery } from "../../api/queries";
import { ScoreView } from "../../score/ScoreView";
import { isPressed } from "../../score/shapes";
import { useDim, useDimFor } from "../../shared/dim";
import { useKeys } from "../../shared/keys";
import { LimitStrip, SoreRing, Trouble, Waiting } from "../../shared/parts";
import { setTreating } from "../../shared/treating";
import { minutesAndSeconds, positionWords, shortId } from "../../shared/words";
import type { Session } from "../../treatment/fold";
import { useTreatment } from "../../treatment/useTreatment";
import { following, order, preceding } from "./course";
import { Begin, feltOf, Kept, Over, type Treatment } from "./Edges";
import { type KeyAction, keyAction } from "./keys";
import { Pace } from "./Pace";
import { setVolume, sound } from "./sound";
import css from "./TreatScreen.module.css";

const BodyView = lazy(() => import("../../body/BodyView"));
type Stop = Schema["Stop"];

export function TreatScreen() {
  const { visitId } = useParams({ from: "/treat/$visitId" });
  const treatment = useTreatment(visitId);
  useDimFor(treatment.person?.light_sensitive);
  const { session, visit, person } = treatment;
  const underWay = session !== null && ["ready", "running", "paused"].includes(session.status);
  useEffect(() => {
    setTreating(underWay);
    return () => setTreating(false);
  }, [underWay]);
  if (treatment.error) return <Trouble error={treatment.error} retry={() => void treatment.open()} />;
  if (!session || !visit || !person) return <Waiting for="Loading the treatment" />;
  if (session.status === "not_begun") return <Begin treatment={treatment} />;
  if (session.status === "finished" || session.status === "stopped")
    return <Over treatment={treatment} session={session} />;
  return (
    <Conductor
      treatment={treatment}
      session={session}
      personId={person.id}
      name={person.given_name}
      limits={person.limits}
    />
  );
}

/** A clock that is wrong is told; what happens is placed by the server's. */
function ClockWrong({ offset_s }: { offset_s: number }) {
  if (offset_s === 0) return null;
  const minutes = Math.round(Math.abs(offset_s) / 60);
  return (
    <p className={css.kept} role="status">
      This device's clock is {minutes} min {offset_s < 0 ? "fast" : "slow"}. Entries follow the server's clock.
    </p>
  );
}

/** Seconds that the current stop has run, ticking while it runs, by the server's clock. */
function useElapsed(session: Session, offset_s: number): number {
  const [, tick] = useState(0);
  const running = session.running_since;
  useEffect(() => {
    if (!running) return;
    const timer = setInterval(() => tick((n) => n + 1), 200);
    return () => clearInterval(timer);
  }, [running]);
  const record = session.current ? session.records[session.current] : undefined;
  const since = running ? Math.max((Date.now() - Date.parse(running)) / 1000 + offset_s, 0) : 0;
  return (record?.active_s ?? 0) + since;
}

type ConductorProps = { treatment: Treatment; session: Session; personId: string; name: string; limits: string[] };

function Conductor({ treatment, session, personId, name, limits }: ConductorProps) {
  const { say } = treatment;
  const { toggle } = useDim();
  const navigate = useNavigate();
  const stops = order(session);
  const current = stops.find((stop) => stop.key === session.current);
  const elapsed = useElapsed(session, treatment.offset_s);
  const next = following(session);
  const record = current ? session.records[current.key] : undefined;
  const both = current?.side === "both";
  const second = both && current && !current.dose.together ? elapsed >= current.duration_s / 2 : false;
  const side: "left" | "right" = current?.side === "left" || (both && second) ? "left" : "right";
  const figure = useQuery(figureQuery(personId));
  const pressed = current !== undefined && isPressed(current);
  const shownSide = current?.side === "midline" ? "left" : side;
  const located = useQuery({ ...placeQuery(personId, current?.id ?? "", shownSide), enabled: pressed });
  const start = (stop: Stop | undefined) => stop && say({ kind: "start_stop", key: stop.key });
  useSounds(current, elapsed, session.running_since !== null);

  // At the end of a stop the conductor moves on by itself: the hands have five seconds to find the next place.
  const over = current ? elapsed - current.duration_s : 0;
  const advanced = useRef("");
  useEffect(() => {
    if (!current || !session.running_since || over < facts.move_s) return;
    const turn = `${current.key}-${record?.started}`;
    if (advanced.current === turn) return;
    advanced.current = turn;
    if (next) say({ kind: "start_stop", key: next.key });
    else say({ kind: "end", reason: "finished" });
  }, [over, current, record?.started, next, say, session.running_since]);

  const hold = () => {
    if (!current) start(stops[0]);
    else say({ kind: session.running_since ? "pause" : "resume" });
  };
  const level = (by: number) => {
    if (!current || !record) return;
    const wanted = record.level + by;
    if (wanted >= 1 && wanted <= record.ceiling) say({ kind: "level", level: wanted });
  };
  const sore = (value: number) =>
    current && say({ kind: "soreness", value, side: current.side === "midline" ? null : side });
  const react = (reaction: Schema["Reacted"]["reaction"]) => say({ kind: "reaction", reaction });
  const previous = () => start(preceding(session));
  const stop = () => say({ kind: "end", reason: "stopped" });
  const onward = () => (next ? start(next) : say({ kind: "end", reason: "finished" }));

  const find = () =>
    void navigate({ to: "/people/$personId/find", params: { personId }, search: { id: current?.id, side: undefined } });
  const act = (action: KeyAction) => {
    switch (action.does) {
      case "soreness":
        return sore(action.value);
      case "level":
        return level(action.by);
      case "technique":
        return say({ kind: "technique", technique: action.technique });
      case "reaction":
        return react(action.reaction);
      case "later":
        return say({ kind: "later" });
      default:
        return { hold, onward, previous, stop, dim: toggle, find }[action.does]();
    }
  };
  useKeys((event) => {
    const action = keyAction(event, session.current != null);
    if (!action) return;
    act(action);
    return true;
  });

  const part = figure.data?.places.find((place) => place.id === current?.id)?.part;
  const levels = current ? `level ${record?.level}${record?.ceiling === record?.level ? ", the ceiling" : ""}` : "";
  return (
    <main className={css.page}>
      <header className={css.top}>
        <strong>{name}</strong>
        <LimitStrip limits={limits} more={4} />
        {treatment.unsent > 0 && <Kept unsent={treatment.unsent} away={treatment.away} />}
        <ClockWrong offset_s={treatment.offset_s} />
        <Volume />
        <button type="button" className={css.stop} onClick={stop}>
          Stop <kbd>X</kbd>
        </button>
      </header>
      <div className={css.body}>
        {figure.data ? (
          <Suspense fallback={<Waiting for="Loading the body" />}>
            <BodyView
              personId={personId}
              figure={figure.data}
              located={pressed && located.data?.point === current?.id ? located.data : undefined}
              part={part}
              marks={false}
            />
          </Suspense>
        ) : (
          <Waiting for="Fitting the figure" />
        )}
      </div>
      <section className={css.panel} aria-label="Stop">
        {!current && (
          <div className={css.first}>
            <h1>
              Hands warm, {name} settled {positionWords[stops[0]?.position ?? "supine"]}.
            </h1>
            <Button size="xl" className={css.now} onClick={() => start(stops[0])}>
              Start <kbd>Space</kbd>
            </Button>
          </div>
        )}
        {current && record && (
          <>
            <div className={css.title}>
              <h1 data-testid="stop" data-named={!pressed || undefined}>
                {pressed ? shortId(current.id) : current.name}
              </h1>
              <p>
                {pressed && `${current.name}, `}
                {current.side === "midline" ? "middle" : both && current.dose.together ? "both sides" : side} ·{" "}
                {positionWords[current.position]}
              </p>
            </div>
            <div className={css.clock}>
              <Pace dose={current.dose} elapsed={elapsed} running={session.running_since !== null} />
              <div>
                <div className={css.time} data-testid="left">
                  {over < 0 ? minutesAndSeconds(-over) : next ? "move on" : "let go"}
                </div>
                <p>
                  {current.dose_words}
                  {both && !current.dose.together && (second ? ", second side" : ", first side")}
                </p>
                <p className={css.level} data-testid="level">
                  {levels}
                </p>
              </div>
              <div className={css.felt} data-testid="felt">
                {record.soreness.map((one) => (
                  <SoreRing key={one.at} value={one.value} size={40} />
                ))}
              </div>
            </div>
            {session.advice && (
              <p className={css.advice} role="status" data-follows={session.advice.follows}>
                {session.advice.text}
              </p>
            )}
            {!session.advice && current.words && <p className={css.feel}>{current.words}</p>}
            {!session.advice && pressed && located.data && <p className={css.feel}>{located.data.feel}</p>}
            <div className={css.big}>
              <button type="button" onClick={previous}>
                Back <kbd>←</kbd>
              </button>
              <button type="button" className={css.now} onClick={hold}>
                {session.running_since ? "Hold" : "Go on"} <kbd>Space</kbd>
              </button>
              <button type="button" onClick={onward}>
                {next ? "Next" : "Finish"} <kbd>→</kbd>
              </button>
            </div>
            <div className={css.soreness}>
              <span>Sore</span>
              {Array.from({ length: 11 }, (_, n) => n).map((n) => (
                <button key={n} type="button" onClick={() => sore(n)} aria-label={`Soreness ${n}`}>
                  {n}
                </button>
              ))}
            </div>
            <div className={css.small}>
              <button type="button" onClick={() => level(-1)}>
                Lighter <kbd>↓</kbd>
              </button>
              <button type="button" onClick={() => level(1)} disabled={record.level >= record.ceiling}>
                Deeper <kbd>↑</kbd>
              </button>
              <button type="button" onClick={() => say({ kind: "technique", technique: "ease" })}>
                Ease <kbd>E</kbd>
              </button>
              <button type="button" onClick={() => say({ kind: "technique", technique: "rim" })}>
                Rim <kbd>R</kbd>
              </button>
              <button type="button" onClick={() => say({ kind: "later" })}>
                Later <kbd>L</kbd>
              </button>
              <button type="button" onClick={() => react("bracing")}>
                Bracing <kbd>B</kbd>
              </button>
              <button type="button" onClick={() => react("pulse_felt")}>
                Pulse <kbd>P</kbd>
              </button>
              <button type="button" onClick={() => react("tingling")}>
                Tingling <kbd>T</kbd>
              </button>
            </div>
            {next && (
              <p className={css.next}>
                Then {shortId(next.id)} {next.name}
                {next.position !== current.position && `, ${positionWords[next.position]}`}
                {session.second_looks.includes(next.key) && ", second look"}
              </p>
            )}
          </>
        )}
      </section>
      <div className={css.score}>
        {session.score && (
          <ScoreView
            score={session.score}
            lane={34}
            playhead_s={current ? current.start_s + Math.min(elapsed, current.duration_s) : 0}
            felt={feltOf(session)}
            flags={session.second_looks}
          />
        )}
      </div>
    </main>
  );
}

/** Start, change of side, the last five seconds, the end: each once. */
function useSounds(stop: Stop | undefined, elapsed: number, running: boolean) {
  const last = useRef({ key: "", at: 0 });
  useEffect(() => {
    if (!stop || !running) return;
    const before = last.current.key === stop.key ? last.current.at : -1;
    const passed = (mark: number) => before < mark && elapsed >= mark;
    if (passed(0)) sound.start();
    else if (passed(stop.duration_s / 2)) stop.side === "both" && !stop.dose.together ? sound.side() : sound.half();
    else if (passed(stop.duration_s)) sound.done();
    else for (let n = 1; n <= 5; n++) if (passed(stop.duration_s - n)) sound.tick();
    last.current = { key: stop.key, at: elapsed };
  }, [stop, elapsed, running]);
}

function Volume() {
  const [value, setValue] = useState(50);
  useEffect(() => setVolume(value / 100), [value]);
  return (
    <div className={css.volume}>
      <span id="volume">Sound</span>
      <Slider size="sm" w={90} label={null} value={value} onChange={setValue} thumbLabel="Volume" color="var(--ink)" />
    </div>
  );
}
