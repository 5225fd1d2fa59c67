/** Changing course: fewer minutes, not this side, what is under the hand; the rest is composed anew and shown, and one
 * key takes it or leaves it. */
import { TextInput } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { STANDING } from "../../api/queries";
import { askWhatIsNear } from "../../body/NearbyPanel";
import { isPressed } from "../../score/shapes";
import type { Keys } from "../../shared/keys";
import { ErrorPanel } from "../../shared/parts";
import { minutesAndSeconds, shortId, sideWords } from "../../shared/words";
import type { TreatmentState } from "../../treatment/fold";
import { BackToStop } from "./BackToStop";
import css from "./TreatScreen.module.css";
import type { Conductor } from "./useConductor";

type Wish = Schema["RestWish"];
type Offer = Schema["RestOffer"];
const MINUTES = [5, 10, 15, 20];

export type ChangeProps = {
  visitId: string;
  personId: string;
  session: TreatmentState;
  conductor: Conductor;
  close: () => void;
};

/** Everything of changing course that the screen needs: what is asked, what was offered, and the keys of both. */
export function useChangeCourse({ visitId, personId, session, conductor, close }: ChangeProps) {
  const [why, setWhy] = useState("");
  const [adding, setAdding] = useState(false);
  const [near, setNear] = useState<Schema["Nearby"][] | null>(null);
  const ask = useMutation({
    mutationFn: (wish: Wish) =>
      take(api.POST("/api/visits/{visit_id}/rest", { params: { path: { visit_id: visitId } }, body: wish })),
  });
  const { now, act, tell } = conductor;
  const wanted = (words: string, wish: Partial<Wish>) => {
    setWhy(words);
    ask.mutate({ minutes: minutesLeft(session), ...wish } as Wish);
  };
  const leave = () => {
    ask.reset();
    setAdding(false);
    setNear(null);
    close();
  };
  const touched = async (at: number[]) => setNear(await askWhatIsNear(personId, at, STANDING));
  const offered = ask.data;
  const taken = () => {
    if (offered) tell({ kind: "rest", stops: offered.stops, why });
    leave();
  };
  const side = now.sided;
  const notSide = side && now.stop && isPressed(now.stop) ? side : undefined;
  const ways = {
    minutes: (minutes: number) => wanted(`${minutes} minutes left`, { minutes }),
    notSide: notSide && (() => wanted(`skip the ${notSide} side here`, { not_side: notSide, not_key: now.stop?.key })),
    add: (id: string) => {
      setNear(null);
      wanted(`${shortId(id)} added`, { add: id });
    },
    later: () => [act({ does: "later" }), leave()],
    stop: () => act({ does: "stop" }),
  };
  const keys: Keys = offered
    ? { enter: taken, space: taken, arrowRight: taken, escape: leave }
    : adding
      ? { escape: leave }
      : {
          ...Object.fromEntries(MINUTES.map((minutes, n) => [`Digit${n + 1}`, () => ways.minutes(minutes)])),
          n: ways.notSide,
          a: () => setAdding(true),
          l: () => void ways.later(),
          x: () => void ways.stop(),
          escape: leave,
        };
  return {
    ask,
    offered,
    taken,
    leave,
    ways,
    keys,
    adding,
    setAdding,
    why,
    near,
    setNear,
    touched: adding && !offered ? touched : undefined,
  };
}

/** Minutes that are left of those that were asked for; one at least. */
function minutesLeft(session: TreatmentState): number {
  const began = session.began_at ? Date.parse(session.began_at) : Date.now();
  const gone = (Date.now() - began) / 60_000;
  return Math.max(Math.round(((session.score?.minutes ?? 0) - gone) * 10) / 10, 1);
}

type Changing = ReturnType<typeof useChangeCourse>;

export function ChangeCourse({ changing }: { changing: Changing }) {
  const { ask, offered, taken, leave, ways, adding, setAdding, why } = changing;
  const [id, setId] = useState("");
  if (offered) return <Offered offer={offered} why={why} taken={taken} leave={leave} />;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (id.trim()) ways.add(id.trim());
  };
  return (
    <section role="alertdialog" aria-label="Adjust session" className={css.change} data-choices>
      <h2>Adjust session</h2>
      {ask.isError && <ErrorPanel error={ask.error} />}
      {adding ? (
        <form onSubmit={submit}>
          <TextInput
            label="Point under your hand: enter its code or tap the body"
            placeholder="LI4, foot_kidney"
            size="lg"
            autoFocus
            value={id}
            onChange={(event) => setId(event.currentTarget.value)}
            onKeyDown={(event) => event.key === "Escape" && leave()}
          />
          <button type="submit">Recompose the remaining time</button>
        </form>
      ) : (
        <div>
          {MINUTES.map((minutes, n) => (
            <button key={minutes} type="button" disabled={ask.isPending} onClick={() => ways.minutes(minutes)}>
              {minutes} minutes left <kbd>{n + 1}</kbd>
            </button>
          ))}
          <button type="button" disabled={!ways.notSide || ask.isPending} onClick={ways.notSide}>
            Skip this side <kbd>N</kbd>
          </button>
          <button type="button" onClick={() => setAdding(true)}>
            Add the point under my hand <kbd>A</kbd>
          </button>
          <button type="button" onClick={() => void ways.later()}>
            Recheck at the end <kbd>L</kbd>
          </button>
          <button type="button" onClick={() => void ways.stop()}>
            Stop here <kbd>X</kbd>
          </button>
        </div>
      )}
      <BackToStop close={leave} />
    </section>
  );
}

/** What the rest would be. */
function Offered({ offer, why, taken, leave }: { offer: Offer; why: string; taken: () => void; leave: () => void }) {
  return (
    <section role="alertdialog" aria-label="New plan for the remaining time" className={css.change} data-choices>
      <h2>
        {why}: {minutesAndSeconds(offer.seconds)} from here{offer.proven && ", proven best"}
      </h2>
      <ol>
        {offer.stops.map((stop) => (
          <li key={stop.key}>
            <b>{isPressed(stop) ? shortId(stop.id) : stop.name}</b>
            <span>
              {stop.side !== "midline" && `${sideWords[stop.side]}, `}
              {minutesAndSeconds(stop.duration_s)}
              {stop.turn && ", turn over"}
            </span>
          </li>
        ))}
      </ol>
      {offer.gives_way.length > 0 && (
        <p>
          Dropped: {offer.gives_way.map((one) => `${shortId(one.id)} ${sideWords[one.side as "left"]}`).join(", ")}.
        </p>
      )}
      <div>
        <button type="button" className={css.now} onClick={taken}>
          Apply <kbd>Enter</kbd>
        </button>
        <button type="button" onClick={leave}>
          Keep current score <kbd>Esc</kbd>
        </button>
      </div>
    </section>
  );
}
