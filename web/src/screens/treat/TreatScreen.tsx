/** Treat: conducted through the score with the hands on somebody. One thing at a time, one key or tap for everything. */
import { useNavigate, useParams } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import type { Schema } from "../../api/client";
import { NearbyPanel } from "../../body/NearbyPanel";
import { ScoreView } from "../../score/ScoreView";
import { type PedalAction, useDevicePrefs } from "../../shared/device-prefs";
import { useDim, useDimFor } from "../../shared/dim";
import { type Keys, useKeys } from "../../shared/keys";
import { ErrorPanel, LimitStrip, Waiting } from "../../shared/parts";
import { useAwake } from "../../shared/screen";
import { setVolume } from "../../shared/sound";
import { setTreating } from "../../shared/treating";
import { hush, setVoiceVolume } from "../../shared/voice";
import { hearRoom } from "../../treatment/device";
import type { TreatmentState } from "../../treatment/fold";
import { useTreatment } from "../../treatment/useTreatment";
import { AtTheTable } from "./AtTheTable";
import { after, Device, MOVES_ON, VOICES } from "./Device";
import { Begin, feltOf, Kept, Over, seenOf } from "./Edges";
import { type Action, keysNow } from "./keys";
import { order } from "./onward";
import { useOver, useStandsOver } from "./StandsOver";
import { Ready, StopPanel } from "./StopPanel";
import { TableBody, useLocated } from "./TableBody";
import css from "./TreatScreen.module.css";
import { type Treatment, useConductor } from "./useConductor";
import { chooseByPedal, usePedal } from "./usePedal";
import { askedNow, Outcome, outcomeKeys, outcomeOf, Wrong, wrongKeys } from "./Wrong";

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
  useAwake(underWay);
  if (treatment.error) return <ErrorPanel error={treatment.error} retry={() => void treatment.open()} />;
  if (!session || !visit || !person) return <Waiting for="Loading the treatment" />;
  if (session.status === "not_begun") return <Begin treatment={treatment} />;
  if (session.status === "finished" || session.status === "stopped")
    return <Over treatment={treatment} session={session} />;
  return <Conducted treatment={treatment} session={session} person={person} />;
}

type Props = { treatment: Treatment; session: TreatmentState; person: Schema["PersonOut"] };

function Conducted({ treatment, session, person }: Props) {
  const { toggle } = useDim();
  const navigate = useNavigate();
  const { prefs, change } = useDevicePrefs();
  const over = useOver();
  const { setOpen } = over;
  useEffect(() => {
    setVolume(prefs.volume / 100);
    setVoiceVolume(prefs.volume / 100);
    return hush;
  }, [prefs.volume]);
  const conductor = useConductor(treatment, session, {
    dim: toggle,
    open: setOpen,
    movesOn: prefs.movesOn,
    nextMovesOn: () => change({ movesOn: after(MOVES_ON, prefs.movesOn) }),
    nextVoice: () => change({ voice: after(VOICES, prefs.voice) }),
    find: (stop) =>
      void navigate({
        to: "/people/$personId/find",
        params: { personId: person.id },
        search: { id: stop.id, side: undefined },
      }),
  });
  const { now, act } = conductor;
  const { stop, record } = now;
  const stopAll = () => void act({ does: "stop" });
  const step = askedNow(session);
  const { tell } = conductor;
  const { over: shown, changing } = useStandsOver({
    ...over,
    visitId: treatment.visit?.id ?? "",
    personId: person.id,
    session,
    conductor,
  });
  const atTheStop: Keys = {
    ...Object.fromEntries(
      Object.entries(keysNow(stop !== undefined)).map(([key, action]) => [key, () => void act(action)]),
    ),
    "?": () => setOpen("keys"),
    y: () => setOpen("theirs"),
    m: stop && (() => setOpen("change")),
  };
  const outcome = session.advice && !session.running_since ? outcomeOf(session) : undefined;
  const goOn = () => void act({ does: outcome?.then === "leave" ? "onward" : "hold" });
  const ofOutcome = outcome && outcomeKeys(goOn, stopAll);
  useKeys(step ? wrongKeys(step, tell, stopAll) : (ofOutcome ?? shown?.keys ?? atTheStop));
  usePedal(prefs.pedal, (pedal) => {
    if (!chooseByPedal(pedal)) act(MEANT[pedal]);
  });
  const located = useLocated(person.id, now);
  return (
    <main className={css.page}>
      <header className={css.top}>
        <strong>{person.given_name}</strong>
        <LimitStrip limits={person.limits} more={3} />
        {treatment.unsent > 0 && <Kept unsent={treatment.unsent} away={treatment.away} />}
        <NoRoom />
        <ClockWrong offset_s={treatment.offset_s} />
        <div className={css.ways}>
          {stop && (
            <button type="button" className={css.turnOff} onClick={() => setOpen("change")}>
              Adjust session <kbd>M</kbd>
            </button>
          )}
          <button type="button" className={css.stop} data-wrong onClick={() => act({ does: "wrong" })}>
            Something is wrong <kbd>W</kbd>
          </button>
          <button type="button" className={css.stop} onClick={() => act({ does: "stop" })}>
            Stop <kbd>X</kbd>
          </button>
        </div>
      </header>
      <div className={css.body}>
        <TableBody personId={person.id} located={located} now={now} onTouch={changing.touched} />
        {stop && record && <SoreMeans stop={stop} record={record} />}
        {changing.near ? (
          <NearbyPanel nearby={changing.near} onChoose={changing.ways.add} onClose={() => changing.setNear(null)} />
        ) : (
          <Device prefs={prefs} change={change} theirs={() => setOpen("theirs")} />
        )}
      </div>
      <section className={css.panel} aria-label="Stop">
        {shown ? (
          shown.shown
        ) : stop && record ? (
          <StopPanel now={{ ...now, stop, record }} conductor={conductor} session={session} feel={located?.feel} />
        ) : (
          <Ready name={person.given_name} first={order(session)[0]} act={act} />
        )}
      </section>
      <div className={css.score}>
        {session.score && (
          <ScoreView
            score={session.score}
            lane={30}
            playhead_s={stop ? stop.start_s + Math.min(now.elapsed, stop.duration_s) : 0}
            felt={feltOf(session)}
            seen={seenOf(session)}
            flags={session.second_looks}
          />
        )}
      </div>
      <AtTheTable session={session} conductor={conductor} />
      {step && <Wrong session={session} step={step} say={tell} stop={stopAll} />}
      {outcome && !step && <Outcome session={session} outcome={outcome} goOn={goOn} stop={stopAll} />}
    </main>
  );
}

/** What soreness here may mean for this person: beside the stop, where it moves nothing. */
function SoreMeans({ stop, record }: { stop: Schema["Stop"]; record: TreatmentState["records"][string] }) {
  const sorest = Math.max(0, ...record.soreness.map((one) => one.value));
  const told = (stop.sore_means ?? []).filter((one) => sorest >= one.at_least);
  if (told.length === 0) return null;
  return (
    <aside className={css.means} role="status" aria-label="What soreness here may mean">
      {told.map((one) => (
        <p key={one.say}>{one.say}</p>
      ))}
    </aside>
  );
}

/** The device has no room: what is said lives in this page until the server has it. */
function NoRoom() {
  const [enough, setEnough] = useState(true);
  useEffect(() => hearRoom(setEnough), []);
  if (enough) return null;
  return (
    <p className={css.kept} role="status">
      Storage on this device is full. Keep this page open until everything has been sent.
    </p>
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

/** What a pedal means while nothing is to be chosen. */
const MEANT: Record<PedalAction, Action> = {
  next: { does: "onward" },
  hold: { does: "hold" },
  later: { does: "later" },
  sore: { does: "sore" },
  something: { does: "seen" },
};
