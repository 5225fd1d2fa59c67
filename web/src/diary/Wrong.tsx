/** Something is wrong: what it is, and at once what to do, with or without a network. */
import { useState } from "react";
import css from "./Diary.module.css";
import type { Shown } from "./device";
import type { Diary } from "./useDiary";

type Warning = Shown["warnings"][number];

/** The first number in the practice's words that can be called. */
const numberIn = (words: string) => /\+?\d[\d /-]{1,18}\d/.exec(words)?.[0].replaceAll(/[ /-]/g, "");

export function Wrong({ shown, diary, onDone }: { shown: Shown; diary: Diary; onDone: () => void }) {
  const [is, setIs] = useState<Warning | null>(null);
  if (is) return <Now warning={is} emergency={shown.emergency} onDone={onDone} />;
  const choose = (warning: Warning) => {
    diary.say({ kind: "flag", question: warning.id }, `${warning.ask}: noted for your practitioner`, () => setIs(null));
    setIs(warning);
  };
  return (
    <section className={css.panel} aria-label="Something is wrong">
      <h1>Something is wrong</h1>
      <p>Tap what is wrong to see what to do now.</p>
      <ul className={css.warnings}>
        {shown.warnings.map((warning) => (
          <li key={warning.id}>
            <button type="button" onClick={() => choose(warning)}>
              {warning.ask}
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Now({ warning, emergency, onDone }: { warning: Warning; emergency: string; onDone: () => void }) {
  const number = numberIn(emergency);
  return (
    <section className={css.now} data-emergency={warning.emergency || undefined} role="alert">
      <p>{warning.ask}</p>
      <h1>{warning.say}</h1>
      {warning.emergency && (
        <>
          {number ? (
            <a className={css.call} href={`tel:${number}`}>
              Call {number}
            </a>
          ) : (
            <p className={css.call}>Call the emergency services where you are.</p>
          )}
          {emergency && <p>{emergency}</p>}
        </>
      )}
      <p>
        This diary is not monitored: your practitioner sees this only when they next look. Do not press any points until
        you have been seen.
      </p>
      <button type="button" className={css.big} onClick={onDone}>
        Back
      </button>
    </section>
  );
}
