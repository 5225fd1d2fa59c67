/** Treat: conducted through the score with the hands on somebody. One thing at a time, one key or tap for everything. */
import { useQuery } from "@tanstack/react-query";
import { useNavigate, useParams } from "@tanstack/react-router";
import { lazy, Suspense, useEffect, useState } from "react";
import type { Schema } from "../../api/client";
import { figureQuery, placeQuery, useMe } from "../../api/queries";
import { NearbyPanel } from "../../body/NearbyPanel";
import { ScoreView } from "../../score/ScoreView";
import { isPressed } from "../../score/shapes";
import { type PedalAction, useDevicePrefs } from "../../shared/device-prefs";
import { useDim, useDimFor } from "../../shared/dim";
import { KeyList, TREAT_KEYS } from "../../shared/KeyList";
import { type Keys, useKeys } from "../../shared/keys";
import { LimitStrip, Trouble, Waiting } from "../../shared/parts";
import { useAwake } from "../../shared/screen";
import { setVolume } from "../../shared/sound";
import { setTreating } from "../../shared/treating";
import { hush, setVoiceVolume } from "../../shared/voice";
import { hearRoom } from "../../treatment/device";
import type { Session } from "../../treatment/fold";
import { useTreatment } from "../../treatment/useTreatment";
import { AtTheTable } from "./AtTheTable";
import { ChangeCourse, useChangeCourse } from "./ChangeCourse";
import { after, Device, MOVES_ON, VOICES } from "./Device";
import { Begin, feltOf, Kept, Over, seenOf } from "./Edges";
import { FoundHere, useFoundHere } from "./FoundHere";
import { Jot, Numbers } from "./Jot";
import { type Action, keysNow } from "./keys";
import { order } from "./onward";
import { Seen, seenKeys } from "./Seen";
import { Ready, StopPanel } from "./StopPanel";
import { TheirScreen } from "./TheirScreen";
import css from "./TreatScreen.module.css";
import { type Treatment, useConductor } from "./useConductor";
import type { Now } from "./useNow";
import { chooseByPedal, usePedal } from "./usePedal";
import { askedNow, outcomeOf, WhatToDo, Wrong, wrongKeys } from "./Wrong";

const BodyView = lazy(() => import("../../body/BodyView"));

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
  if (treatment.error) return <Trouble error={treatment.error} retry={() => void treatment.open()} />;
  if (!session || !visit || !person) return <Waiting for="Loading the treatment" />;
  if (session.status === "not_begun") return <Begin treatment={treatment} />;
  if (session.status === "finished" || session.status === "stopped")
    return <Over treatment={treatment} session={session} />;
  return <Conducted treatment={treatment} session={session} person={person} />;
}

type Props = { treatment: Treatment; session: Session; person: Schema["PersonOut"] };

function Conducted({ treatment, session, person }: Props) {
  const { toggle } = useDim();
  const navigate = useNavigate();
  const { prefs, change } = useDevicePrefs();
  const me = useMe();
  const [open, setOpen] = useState<"seen" | "own" | "note" | "sore" | "keys" | "change" | "found" | "theirs" | null>(
    null,
  );
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
  const seen = {
    act,
    close: () => setOpen(null),
    own: open === "own",
    setOwn: (own: boolean) => setOpen(own ? "own" : "seen"),
  };
  const close = () => setOpen(null);
  const { tell } = conductor;
  const finding = useFoundHere({ session, conductor, close });
  const changing = useChangeCourse({
    visitId: treatment.visit?.id ?? "",
    personId: person.id,
    session,
    conductor,
    close,
  });
  const atTheStop: Keys = {
    ...Object.fromEntries(
      Object.entries(keysNow(stop !== undefined)).map(([key, action]) => [key, () => void act(action)]),
    ),
    "?": () => setOpen("keys"),
    y: () => setOpen("theirs"),
    m: stop && (() => setOpen("change")),
  };
  const plain: Keys = { escape: close, "?": close };
  const inside =
    open === "seen" || open === "own"
      ? seenKeys(seen)
      : open === "change"
        ? changing.keys
        : open === "found"
          ? finding.keys
          : plain;
  useKeys(step ? wrongKeys(step, tell, stopAll) : open ? inside : atTheStop);
  usePedal(prefs.pedal, (pedal) => {
    if (!chooseByPedal(pedal)) act(MEANT[pedal]);
  });
  const outcome = session.advice && !session.running_since ? outcomeOf(session) : undefined;
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
              Change course <kbd>M</kbd>
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
        <Body
          personId={person.id}
          located={located}
          stop={stop}
          walking={stationOf(now, located)}
          onTouch={changing.touched}
        />
        {changing.near ? (
          <NearbyPanel nearby={changing.near} onChoose={changing.ways.add} onClose={() => changing.setNear(null)} />
        ) : (
          <Device prefs={prefs} change={change} theirs={() => setOpen("theirs")} />
        )}
      </div>
      <section className={css.panel} aria-label="Stop">
        {outcome && <WhatToDo session={session} outcome={outcome} />}
        {open === "note" ? (
          <Jot keep={(text) => tell({ kind: "note", text })} close={close} quick={me.data?.quick_words ?? []} />
        ) : open === "sore" ? (
          <Numbers choose={(value) => [close(), act({ does: "soreness", value })]} close={close} />
        ) : open === "theirs" ? (
          <TheirScreen visitId={treatment.visit?.id ?? ""} close={close} />
        ) : open === "found" ? (
          <FoundHere finding={finding} />
        ) : open === "change" ? (
          <ChangeCourse changing={changing} />
        ) : open === "keys" ? (
          <section role="alertdialog" aria-label="Keys" className={css.keys} data-choices>
            <KeyList keys={[...TREAT_KEYS, ["D", "dim room"], ["?", "this list"]]} />
            <button type="button" className={css.close} onClick={close}>
              Back to the stop <kbd>Esc</kbd>
            </button>
          </section>
        ) : open ? (
          <Seen {...seen} />
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
    </main>
  );
}

/** The place of the current stop on this person, on the side that the hands are on. */
function useLocated(personId: string, { stop, side }: Now): Schema["Located"] | undefined {
  const pressed = stop !== undefined && isPressed(stop);
  const place = useQuery({
    ...placeQuery(personId, stop?.id ?? "", stop?.side === "midline" ? "left" : side),
    enabled: pressed,
  });
  return pressed && place.data?.id === stop.id ? place.data : undefined;
}

type BodyProps = {
  personId: string;
  located: Schema["Located"] | undefined;
  stop: Schema["Stop"] | undefined;
  walking: number | undefined;
  onTouch: ((at: number[]) => void) | undefined;
};

/** Along an area: the station of its way that is due by now. Not while a sore spot on it is worked. */
function stationOf({ stop, beat, loop }: Now, located: Schema["Located"] | undefined): number | undefined {
  const stations = located?.walk_cm?.length ?? 0;
  if (!stop || !GOES_ALONG.has(stop.dose.form) || stations === 0 || loop !== null) return undefined;
  return Math.min(Math.floor(beat.done * stations), stations - 1);
}
const GOES_ALONG = new Set(["walk", "glide"]);

function Body({ personId, located, stop, walking, onTouch }: BodyProps) {
  const figure = useQuery(figureQuery(personId));
  if (!figure.data) return <Waiting for="Fitting the figure" />;
  const part = figure.data.places.find((place) => place.id === stop?.id)?.part;
  return (
    <Suspense fallback={<Waiting for="Loading the body" />}>
      <BodyView
        personId={personId}
        figure={figure.data}
        located={located}
        part={part}
        marks={false}
        walking={walking}
        draped
        {...(onTouch && { onTouch })}
      />
    </Suspense>
  );
}

/** The device has no room: what is said lives in this page until the server has it. */
function NoRoom() {
  const [enough, setEnough] = useState(true);
  useEffect(() => hearRoom(setEnough), []);
  if (enough) return null;
  return (
    <p className={css.kept} role="status">
      No room left on this device: keep this page open until all is sent.
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
