/** The stop that the hands are at: what it is, how long still, what was felt, and a large key for everything. */
import { Button } from "@mantine/core";
import type { ReactNode } from "react";
import type { Schema } from "../../api/client";
import { isPressed } from "../../score/shapes";
import { SoreRing } from "../../shared/parts";
import { minutesAndSeconds, positionWords, shortId } from "../../shared/words";
import type { Session } from "../../treatment/fold";
import type { Action } from "./keys";
import { Pace } from "./Pace";
import css from "./TreatScreen.module.css";
import type { Conductor, Now } from "./useConductor";

type Stop = Schema["Stop"];
type Act = Conductor["act"];
type Shown = Now & { stop: Stop; record: Session["records"][string] };

/** Before the first stop. */
export function Ready({ name, first, act }: { name: string; first: Stop | undefined; act: Act }) {
  return (
    <div className={css.first}>
      <h1>
        Hands warm, {name} settled {positionWords[first?.position ?? "supine"]}.
      </h1>
      <Button size="xl" className={css.now} onClick={() => act({ does: "hold" })}>
        Start <kbd>Space</kbd>
      </Button>
      <Button size="lg" variant="default" onClick={() => act({ does: "wrong" })}>
        Something is wrong <kbd>W</kbd>
      </Button>
    </div>
  );
}

type Props = { now: Shown; conductor: Conductor; session: Session; feel: string | undefined };

export function StopPanel({ now, conductor, session, feel }: Props) {
  const { stop, record } = now;
  const { act, next, running } = conductor;
  return (
    <>
      <Title now={now} />
      <Clock now={now} last={!next} running={running} />
      {session.advice ? (
        <p className={css.advice} role="status" data-follows={session.advice.follows}>
          {session.advice.text}
        </p>
      ) : (
        <>
          {stop.words && <p className={css.feel}>{stop.words}</p>}
          {feel && <p className={css.feel}>{feel}</p>}
        </>
      )}
      <div className={css.big}>
        <Key act={act} action={{ does: "previous" }} name="←">
          Back
        </Key>
        <Key act={act} action={{ does: "hold" }} name="Space" now>
          {running ? "Hold" : "Go on"}
        </Key>
        <Key act={act} action={{ does: "onward" }} name="→">
          {next ? "Next" : "Finish"}
        </Key>
      </div>
      <div className={css.soreness}>
        <span>Sore</span>
        {Array.from({ length: 11 }, (_, n) => n).map((n) => (
          <button
            key={n}
            type="button"
            onClick={() => act({ does: "soreness", value: n })}
            aria-label={`Soreness ${n}`}
          >
            {n}
          </button>
        ))}
      </div>
      <div className={css.small}>
        {SMALL.map(([name, words, action]) => (
          <Key
            key={name}
            act={act}
            action={action}
            name={name}
            disabled={action.does === "level" && action.by > 0 && record.level >= record.ceiling}
          >
            {words}
          </Key>
        ))}
      </div>
      <div className={css.wide}>
        <Key act={act} action={{ does: "seen" }} name="S">
          Seen or said
        </Key>
        <button type="button" data-wrong onClick={() => act({ does: "wrong" })}>
          Something is wrong <kbd>W</kbd>
        </button>
      </div>
      {next && (
        <p className={css.next}>
          Then {shortId(next.id)} {next.name}
          {next.position !== stop.position ? `, ${next.settle || positionWords[next.position]}` : stood(stop, next)}
          {session.second_looks.includes(next.key) && ", second look"}
        </p>
      )}
    </>
  );
}

/** What is said now and then: key, words, meaning. */
const SMALL: [string, string, Action][] = [
  ["↓", "Lighter", { does: "level", by: -1 }],
  ["↑", "Deeper", { does: "level", by: 1 }],
  ["E", "Ease", { does: "technique", technique: "ease" }],
  ["R", "Rim", { does: "technique", technique: "rim" }],
  ["L", "Later", { does: "later" }],
];

/** Where to stand for the next stop, where that is elsewhere. */
const stood = (stop: Stop, next: Stop) => (next.stand && next.stand !== stop.stand ? `, ${next.stand}` : "");

function Title({ now: { stop, side } }: { now: Shown }) {
  const pressed = isPressed(stop);
  const where = stop.side === "midline" ? "middle" : stop.side === "both" && stop.dose.together ? "both sides" : side;
  return (
    <div className={css.title}>
      <h1 data-testid="stop" data-named={!pressed || undefined}>
        {pressed ? shortId(stop.id) : stop.name}
      </h1>
      <p>
        {pressed && `${stop.name}, `}
        {where} · {positionWords[stop.position]}
        {stop.stand && ` · ${stop.stand}`}
      </p>
      {stop.settle && <p className={css.settle}>{stop.settle}</p>}
    </div>
  );
}

function Clock({ now, last, running }: { now: Shown; last: boolean; running: boolean }) {
  const { stop, record, over_s, inTurn, second } = now;
  return (
    <div className={css.clock}>
      <Pace dose={stop.dose} elapsed={now.elapsed} running={running} />
      <div>
        <div className={css.time} data-testid="left">
          {over_s < 0 ? minutesAndSeconds(-over_s) : last ? "let go" : "move on"}
        </div>
        <p>
          {stop.dose_words}
          {inTurn && (second ? ", second side" : ", first side")}
        </p>
        <p className={css.level} data-testid="level">
          level {record.level}
          {record.ceiling === record.level && ", the ceiling"}
        </p>
      </div>
      <div className={css.felt} data-testid="felt">
        {record.soreness.map((one) => (
          <SoreRing key={one.at} value={one.value} size={40} />
        ))}
      </div>
    </div>
  );
}

type KeyProps = {
  act: Act;
  action: Action;
  name: string;
  now?: boolean;
  disabled?: boolean;
  children: ReactNode;
};

/** A button that says its key. */
function Key({ act, action, name, now = false, disabled = false, children }: KeyProps) {
  return (
    <button type="button" className={now ? css.now : undefined} disabled={disabled} onClick={() => act(action)}>
      {children} <kbd>{name}</kbd>
    </button>
  );
}
