/** The stop that the hands are at: what it is, how long still, what was felt, and a large key for everything. */
import { Button } from "@mantine/core";
import type { ReactNode } from "react";
import type { Schema } from "../../api/client";
import { facts } from "../../api/facts.gen";
import { isPressed } from "../../score/shapes";
import { minutesAndSeconds, positionWords, shortId } from "../../shared/words";
import type { TreatmentState } from "../../treatment/fold";
import { anotherWay, leftForLooks, secondVisit } from "../../treatment/second";
import { breathAt } from "./breath";
import type { Action } from "./keys";
import { Pace } from "./Pace";
import { Round, Sides } from "./SoreSpot";
import css from "./TreatScreen.module.css";
import type { Conductor } from "./useConductor";
import { inTurn, type Now } from "./useNow";

type Stop = Schema["Stop"];
type Act = Conductor["act"];
type Shown = Now & { stop: Stop; record: TreatmentState["records"][string] };
const NEXT_S = 8; // before the end, the next place is told large

/** Before the first stop. */
export function Ready({ name, first, act }: { name: string; first: Stop | undefined; act: Act }) {
  return (
    <div className={css.first}>
      <h1>
        Before you start: hands warm, {name} comfortable ({positionWords[first?.position ?? "supine"]}).
      </h1>
      {first?.settle && <p className={css.feel}>{first.settle}</p>}
      <Button size="xl" className={css.now} onClick={() => act({ does: "hold" })}>
        Start <kbd>Space</kbd>
      </Button>
      <Button size="lg" variant="default" onClick={() => act({ does: "wrong" })}>
        Something is wrong <kbd>W</kbd>
      </Button>
    </div>
  );
}

type Props = { now: Shown; conductor: Conductor; session: TreatmentState; feel: string | undefined };

export function StopPanel({ now, conductor, session, feel }: Props) {
  const { stop, record, over_s } = now;
  const { act, next, running, turning } = conductor;
  return (
    <>
      <Title now={now} />
      {turning && over_s >= 0 && next ? (
        <Turn next={next} act={act} />
      ) : (
        <Clock now={now} conductor={conductor} session={session} />
      )}
      {session.loop ? (
        <Round session={session} now={now} />
      ) : session.advice ? (
        <p className={css.advice} role="status" data-follows={session.advice.follows}>
          {session.advice.text}
        </p>
      ) : (
        <How stop={stop} record={record} feel={feel} />
      )}
      <Sides stop={stop} record={record} sided={now.sided} />
      <div className={css.soreness}>
        <span>{now.sided && inTurnOrOther(now) ? now.sided : "Sore"}</span>
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
      <div className={css.big} data-rests={now.rests || undefined}>
        <Key act={act} action={{ does: "previous" }} name="←">
          Back
        </Key>
        <Key act={act} action={{ does: "hold" }} name="Space" now>
          {running ? "Pause" : "Resume"}
        </Key>
        <Key act={act} action={{ does: "onward" }} name="→">
          {next ? "Next" : "Finish"}
        </Key>
      </div>
      <div className={css.small}>
        {SMALL.map(([name, words, action]) => (
          <Key
            key={name}
            act={act}
            action={action}
            name={name}
            disabled={
              (action.does === "level" && action.by > 0 && record.level >= record.ceiling) ||
              (action.does === "undo" && session.past.length === 0)
            }
          >
            {words}
          </Key>
        ))}
      </div>
      <Looks session={session} />
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
  ["S", "Reaction", { does: "seen" }],
  ["Z", "Undo", { does: "undo" }],
];

/** Whether a number needs its side said: two sides are worked, or the hand chose the other. */
const inTurnOrOther = (now: Shown) => inTurn(now.stop) || now.sided !== now.side;

/** What presses and what is looked for; at a second look, how it is worked this time. */
function How({ stop, record, feel }: { stop: Stop; record: Shown["record"]; feel: string | undefined }) {
  if (record.look_s != null)
    return (
      <p className={css.feel}>
        Recheck. {facts.ways[anotherWay(record)]} {stop.side === "both" && "Then compare both sides."}
      </p>
    );
  const lines = [stop.found && `Last finding: ${stop.found}.`, feel, stop.words, stop.hand].filter(Boolean);
  return <p className={css.feel}>{lines.slice(0, 2).join(" ")}</p>;
}

/** The second looks that wait: what they take, what there is for them, and what would have to give way. */
function Looks({ session }: { session: TreatmentState }) {
  const left_s = leftForLooks(session, Date.now());
  const looks = secondVisit(session, left_s);
  if (looks.length === 0) return null;
  const needs = looks.reduce((sum, one) => sum + one.cost_s, 0);
  const name = (key: string) => shortId(key.replace(/-\d+$/, ""));
  const out = looks.filter((one) => !one.fits);
  return (
    <p className={css.looks} data-testid="looks">
      Rechecks: {looks.map((one) => name(one.key)).join(", ")}, {minutesAndSeconds(needs)}.{" "}
      {out.length === 0
        ? "There is time."
        : `${minutesAndSeconds(left_s)} name(one.key)).join(", ")} would take it from the close. => left: ${out.map((one) => name(one.key)).join(", ")} would cut into the close. => name(one.key)).join(", ")} would take it from the close.`}
    </p>
  );
}

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
        <b>{where}</b> · {positionWords[stop.position]}
        {stop.stand && ` · ${stop.stand}`}
      </p>
    </div>
  );
}

/** The person turns: how they are helped, how they lie then; the clock waits for a key. */
function Turn({ next, act }: { next: Stop; act: Act }) {
  return (
    <section className={css.turn} aria-label="Turn">
      <p role="status">
        <b>{next.turn || `Now ${positionWords[next.position]}.`}</b>
      </p>
      {next.settle && <p>{next.settle}</p>}
      <button type="button" className={css.now} onClick={() => act({ does: "onward" })}>
        Comfortable, continue <kbd>→</kbd>
      </button>
    </section>
  );
}

const PART = { enter: "enter", dose: "", release: "release slowly", find: "" };

/** The clock: large enough for an elbow. It holds and goes on; past the end it moves on. */
function Clock({ now, conductor, session }: { now: Shown; conductor: Conductor; session: TreatmentState }) {
  const { stop, record, over_s, second, step } = now;
  const { act, next, running } = conductor;
  const over = over_s >= 0;
  const part = step && running && !over ? PART[step.part] : "";
  return (
    <button type="button" className={css.clock} onClick={() => act({ does: over ? "onward" : "hold" })}>
      <Pace beat={now.beat} running={running} breath={breathAt(now.elapsed, session.breath_s)} />
      <span>
        <span className={css.time} data-testid="left">
          {over ? (next ? "next" : "release") : minutesAndSeconds(-over_s)}
        </span>
        <span>
          {stop.dose_words}
          {now.inTurn && (second ? ", second side" : ", first side")}
        </span>
        <span className={css.level} data-testid="level">
          level {part === "enter" && step ? `${step.level}, then ${record.level}` : record.level}
          {record.ceiling === record.level && ", maximum"}
          {part && `, ${part}`}
        </span>
      </span>
      {stop.dose.form === "until" && !over && <kbd className={css.came}>Enter: sign felt</kbd>}
      {next && (
        <span className={css.next} data-soon={over_s >= -NEXT_S || undefined}>
          Then {shortId(next.id)} {next.name}
          {next.position !== stop.position ? `, ${next.settle || positionWords[next.position]}` : stood(stop, next)}
          {session.second_looks.includes(next.key) && ", recheck"}
        </span>
      )}
    </button>
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
