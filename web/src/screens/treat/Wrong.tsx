/** Something is wrong: the clock stands, one question at a time, then what to do now and what to say on the phone. */

import { facts } from "../../api/facts.gen";
import type { Keys } from "../../shared/keys";
import type { TreatmentState } from "../../treatment/fold";
import { helpOf, type Outcome as OutcomeOf, outcomes, questions, stepsOf } from "../../treatment/watching";
import type { Conductor } from "./useConductor";
import css from "./Wrong.module.css";

/** The question that waits for an answer; undefined where nothing is being asked. */
export function askedNow(session: TreatmentState): string | undefined {
  const last = session.wrong.at(-1);
  if (!last) return undefined;
  if (last.answer === "begun") return facts.wrong.first;
  return questions[last.to] ? last.to : undefined;
}

/** What the questions led to, if that was the last of them. */
export function outcomeOf(session: TreatmentState): OutcomeOf | undefined {
  return outcomes[session.wrong.at(-1)?.to ?? ""];
}

/** Whether something was wrong: not where each time it was only opened by mistake. */
export const wasWrong = ({ wrong }: TreatmentState) =>
  (wrong.at(-1)?.answer ?? "closed") !== "closed" || wrong.some((step) => outcomes[step.to]);

type Say = Conductor["tell"];
const begin = (say: Say) => say({ kind: "wrong", step: "", answer: "begun" });

/** Keys while a question is asked. */
export function wrongKeys(step: string, say: Say, stop: () => void): Keys {
  return {
    y: () => void say({ kind: "wrong", step, answer: "yes" }),
    n: () => void say({ kind: "wrong", step, answer: "no" }),
    w: () => void begin(say),
    escape: () => void say({ kind: "wrong", step, answer: "closed" }),
    x: stop,
  };
}

/** Keys while it is said what to do: those of a question do nothing, so that a last No cannot open something else. */
export const outcomeKeys = (goOn: () => void, stop: () => void): Keys => ({ space: goOn, enter: goOn, x: stop });

type Props = { session: TreatmentState; step: string; say: Say; stop: () => void };

export function Wrong({ session, step, say, stop }: Props) {
  const keys = wrongKeys(step, say, stop);
  return (
    <section role="alertdialog" aria-label="Something is wrong" className={css.wrong}>
      <div className={css.question}>
        <p className={css.stands}>Timer paused. One question at a time.</p>
        <h1>{questions[step]?.ask}</h1>
        <div className={css.answers} data-choices>
          <button type="button" onClick={keys.y}>
            Yes <kbd>Y</kbd>
          </button>
          <button type="button" onClick={keys.n}>
            No <kbd>N</kbd>
          </button>
        </div>
        <div className={css.ways}>
          <button type="button" onClick={keys.w}>
            From the first question <kbd>W</kbd>
          </button>
          <button type="button" onClick={keys.escape}>
            Opened by mistake <kbd>Esc</kbd>
          </button>
          <button type="button" onClick={keys.x}>
            Stop the session <kbd>X</kbd>
          </button>
        </div>
      </div>
      <aside>
        <Call session={session} />
        <Times session={session} />
      </aside>
    </section>
  );
}

/** Whom to call and where to send them: said when the treatment began, so it is here without the server. */
function Call({ session }: { session: TreatmentState }) {
  const help = helpOf(session);
  return (
    <div className={css.call}>
      <h2>Call</h2>
      <p className={css.number}>{help.call || "Your local emergency number."}</p>
      {help.where && <p>Your location: {help.where}</p>}
    </div>
  );
}

const CLOCK: Intl.DateTimeFormatOptions = { hour: "2-digit", minute: "2-digit", second: "2-digit", hour12: false };

function inWords({ step, answer }: TreatmentState["wrong"][number]): string {
  if (answer === "begun") return "Something is wrong";
  return answer === "closed" ? "Opened by mistake" : `${questions[step]?.ask ?? step} ${answer}`;
}

/** What was asked and answered, with its times. */
function Times({ session }: { session: TreatmentState }) {
  return (
    <ol className={css.times} aria-label="Timing">
      {session.wrong.map((one) => (
        <li key={`${one.at}-${one.step}`}>
          <time dateTime={one.at}>{new Date(one.at).toLocaleTimeString([], CLOCK)}</time>
          <span>{inWords(one)}</span>
        </li>
      ))}
    </ol>
  );
}

/** What to do now, with the screen to itself until somebody goes on or stops. */
export function Outcome({
  session,
  outcome,
  goOn,
  stop,
}: {
  session: TreatmentState;
  outcome: OutcomeOf;
  goOn: () => void;
  stop: () => void;
}) {
  return (
    <section role="alertdialog" aria-label="Outcome" className={css.found}>
      <WhatToDo session={session} outcome={outcome} />
      <div className={css.ways} data-choices>
        <button type="button" className={css.goOn} onClick={goOn}>
          Resume <kbd>Space</kbd>
        </button>
        <button type="button" onClick={stop}>
          Stop the session <kbd>X</kbd>
        </button>
      </div>
    </section>
  );
}

/** What to do now for this person, and what to say on the phone. */
export function WhatToDo({ session, outcome }: { session: TreatmentState; outcome: OutcomeOf }) {
  return (
    <section className={css.todo} aria-label="What to do now" data-call={outcome.call || undefined}>
      <div>
        <h1>{outcome.title}</h1>
        <ol className={css.do}>
          {stepsOf(outcome, helpOf(session)).map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ol>
      </div>
      <aside>
        <Call session={session} />
        {outcome.phone.length > 0 && (
          <>
            <h2>Tell the operator</h2>
            <ul>
              {outcome.phone.map((line) => (
                <li key={line}>{line.replace("{who}", helpOf(session).who ?? "Someone")}</li>
              ))}
            </ul>
          </>
        )}
        <Times session={session} />
      </aside>
    </section>
  );
}
