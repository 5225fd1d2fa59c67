/** Today's set, conducted: where the place is on their own figure, how to press, the time, the breath; then the next. */
import { liveQuery } from "dexie";
import { useEffect, useRef, useState } from "react";
import { beatAt } from "../score/pace";
import { sound } from "../shared/sound";
import css from "./Diary.module.css";
import { device, type Shown } from "./device";
import { here, type Press, pressesOf, setOn } from "./turn";
import type { Diary } from "./useDiary";

type Plan = NonNullable<Shown["plan"]>;
const TICK_MS = 200;
const LAST_S = 3;
const POSITIONS: Record<Plan["position"], string> = {
  seated: "Sit comfortably, with your back supported.",
  supine: "Lie on your back.",
  left_side: "Lie on your left side.",
  right_side: "Lie on your right side.",
};

export function HomeSet({
  shown,
  plan,
  diary,
  onDone,
}: {
  shown: Shown;
  plan: Plan;
  diary: Diary;
  onDone: () => void;
}) {
  const set = setOn(plan, shown.plan_first_day ?? shown.today, here());
  const [at, setAt] = useState(-1);
  const seconds = useRef(0);
  const done = useRef(new Set<string>());
  if (!set) return null;
  const presses = pressesOf(set.points);
  const finish = () => {
    const pressed = [...done.current];
    const minutes = Math.max(Math.round(seconds.current / 6) / 10, 0.1);
    if (pressed.length > 0)
      diary.say(
        { kind: "pressed", pressed, minutes },
        `Saved: ${minutes < 1 ? "less than a minute" : `${Math.round(minutes)} min`} of pressing`,
      );
    onDone();
  };
  const press = presses[at];
  if (at < 0)
    return (
      <section className={css.panel} aria-label="Press now">
        <h1>{plan.sets.length > 1 ? `Today: set ${set.name}` : "Press now"}</h1>
        <p>{POSITIONS[plan.position]} Press in slowly. You may feel it, but it must not hurt.</p>
        <ol className={css.places}>
          {set.points.map((place) => (
            <li key={place.id}>
              {place.name}
              {place.side === "both" ? ", both sides" : ""}
            </li>
          ))}
        </ol>
        <button type="button" className={css.big} onClick={() => setAt(0)}>
          Start pressing
        </button>
        <details className={css.not}>
          <summary>Do not press if</summary>
          <ul>
            {plan.not_when.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
        </details>
      </section>
    );
  if (!press)
    return (
      <section className={css.panel} aria-label="Done">
        <h1>Done</h1>
        <p>Take three breaths, breathing out more slowly than in. Then have something to drink.</p>
        <button type="button" className={css.big} onClick={finish}>
          Save
        </button>
      </section>
    );
  return (
    <One
      key={at}
      press={press}
      number={at + 1}
      of={presses.length}
      breathsPerMinute={shown.breaths_per_minute}
      onSecond={(ran) => {
        seconds.current += ran;
        done.current.add(press.place.id);
      }}
      onNext={() => setAt(at + 1)}
      onStop={finish}
    />
  );
}

type OneProps = {
  press: Press;
  number: number;
  of: number;
  breathsPerMinute: number;
  onSecond: (ran: number) => void;
  onNext: () => void;
  onStop: () => void;
};

function One({ press, number, of, breathsPerMinute, onSecond, onNext, onStop }: OneProps) {
  const { place, side } = press;
  const [svg, setSvg] = useState("");
  const [ran, setRan] = useState(0);
  const [running, setRunning] = useState(false);
  const heard = useRef({ half: false, last: 0, told: 0 });
  useEffect(() => {
    // It may still be on its way when the first place is begun.
    const shown = liveQuery(() => device.drawings.get(place.id)).subscribe((row) => setSvg(row?.svg ?? ""));
    return () => shown.unsubscribe();
  }, [place.id]);
  useEffect(() => {
    if (!running) return;
    let then = performance.now();
    const timer = setInterval(() => {
      const now = performance.now();
      const step = (now - then) / 1000;
      then = now;
      setRan((before) => before + step);
    }, TICK_MS);
    return () => clearInterval(timer);
  }, [running]);
  const left = Math.max(0, place.seconds - ran);
  const over = left === 0;
  useEffect(() => {
    const told = heard.current;
    if (ran - told.told >= 1 || (over && ran > told.told)) {
      onSecond(ran - told.told);
      told.told = ran;
    }
    if (!told.half && ran >= place.seconds / 2 && !over) {
      told.half = true;
      sound.half();
    }
    const second = Math.ceil(left);
    if (running && second <= LAST_S && second > 0 && told.last !== second) {
      told.last = second;
      sound.tick();
    }
    if (over && running) {
      setRunning(false);
      sound.done();
    }
  }, [ran, left, over, running, place.seconds, onSecond]);
  const { open, word } = beatAt(place.rhythm, ran, 60 / breathsPerMinute);
  const shownWord = place.dose.form === "hold" ? `breathe ${word}` : word;
  return (
    <section className={css.pressing} aria-label={`${place.name}${side ? `, ${side}` : ""}`}>
      <p className={css.step}>
        {number} of {of}
        <button type="button" className={css.quiet} onClick={onStop}>
          Stop here
        </button>
      </p>
      <h1>
        {place.name}
        {side && <span>{side}</span>}
      </h1>
      {svg && (
        <img
          className={css.drawing}
          data-mirrored={(place.side === "both" && side === "right") || undefined}
          src={`data:image/svg+xml;utf8,${encodeURIComponent(svg)}`}
          alt=""
        />
      )}
      <p>
        {place.where[0]?.toUpperCase()}
        {place.where.slice(1)}. {place.measure}
      </p>
      <p>
        <b>{place.dose_words}.</b> {place.how_hard} With {place.press_with}.
      </p>
      <svg className={css.ring} viewBox="0 0 120 120" role="img" aria-label={`${Math.ceil(left)} seconds left`}>
        <circle cx="60" cy="60" r="56" className={css.rim} />
        <circle cx="60" cy="60" r={14 + 42 * (running ? open : 0.3)} className={css.breath} />
        <text x="60" y="62" textAnchor="middle" className={css.left}>
          {Math.ceil(left)}
        </text>
        <text x="60" y="80" textAnchor="middle" className={css.word}>
          {over ? "done" : running ? shownWord : "ready"}
        </text>
      </svg>
      {over ? (
        <button type="button" className={css.big} onClick={onNext}>
          Next
        </button>
      ) : (
        <div className={css.pair}>
          <button
            type="button"
            className={css.big}
            onClick={() => {
              if (!running) sound.start();
              setRunning(!running);
            }}
          >
            {running ? "Pause" : ran > 0 ? "Continue" : "Start"}
          </button>
          <button type="button" className={css.quiet} onClick={onNext}>
            Skip
          </button>
        </div>
      )}
    </section>
  );
}
