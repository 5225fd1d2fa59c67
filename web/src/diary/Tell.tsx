/** Small things to tell: hours slept, a medicine, a note. */
import { useState } from "react";
import css from "./Diary.module.css";
import type { Diary } from "./useDiary";

type Props = { diary: Diary; onDone: () => void };
const HOURS = [3, 4, 5, 6, 7, 8, 9, 10];

export function Sleep({ diary, onDone }: Props) {
  const [half, setHalf] = useState(false);
  const choose = (hours: number) => {
    diary.say({ kind: "sleep", hours }, `Slept ${hours} hours`);
    onDone();
  };
  return (
    <section className={css.panel} aria-label="Sleep">
      <h1>How long did you sleep last night?</h1>
      <fieldset className={css.numbers} aria-label="Hours slept">
        {HOURS.map((hours) => (
          <button key={hours} type="button" onClick={() => choose(hours + (half ? 0.5 : 0))}>
            {hours}
            {half && "½"}
          </button>
        ))}
        <button type="button" onClick={() => choose(0)}>
          0<small>not at all</small>
        </button>
        <button type="button" aria-pressed={half} onClick={() => setHalf(!half)}>
          ½<small>half hours</small>
        </button>
      </fieldset>
    </section>
  );
}

export function Medicine({ diary, onDone }: Props) {
  const [words, setWords] = useState(diary.home?.medicine ?? "");
  const [times, setTimes] = useState(1);
  const save = () => {
    const said = words.trim();
    diary.remember(said);
    diary.say({ kind: "medicine", words: said, times }, `${said}, ${times === 1 ? "once" : `${times} times`}`);
    onDone();
  };
  return (
    <section className={css.panel} aria-label="Medicine">
      <h1>Which medicine did you take?</h1>
      <label className={css.field}>
        Medicine
        <input value={words} maxLength={120} onChange={(event) => setWords(event.currentTarget.value)} />
      </label>
      <fieldset className={css.when} aria-label="How many times">
        {[1, 2, 3, 4].map((one) => (
          <button key={one} type="button" aria-pressed={one === times} onClick={() => setTimes(one)}>
            {one === 1 ? "once" : `${one} times`}
          </button>
        ))}
      </fieldset>
      <button type="button" className={css.big} disabled={words.trim() === ""} onClick={save}>
        Save
      </button>
    </section>
  );
}

export function Note({ diary, onDone }: Props) {
  const [words, setWords] = useState("");
  const save = () => {
    diary.say({ kind: "note", words: words.trim() }, "Note saved");
    onDone();
  };
  return (
    <section className={css.panel} aria-label="A note">
      <h1>What should we know at the next visit?</h1>
      <label className={css.field}>
        In a few words
        <textarea rows={3} maxLength={120} value={words} onChange={(event) => setWords(event.currentTarget.value)} />
      </label>
      <button type="button" className={css.big} disabled={words.trim() === ""} onClick={save}>
        Save note
      </button>
    </section>
  );
}
