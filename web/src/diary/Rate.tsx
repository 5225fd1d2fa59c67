/** How is it now: one question, eleven large numbers, and on to the next. */
import { useState } from "react";
import css from "./Diary.module.css";
import type { Shown } from "./device";
import { Numbers } from "./Numbers";
import type { Diary } from "./useDiary";

type Asked = { complaint: string; act?: string; title: string; words: string; low: string; high: string };

function questions(shown: Shown): Asked[] {
  return shown.complaints.flatMap((one) => [
    { complaint: one.id, title: one.name, words: "How is it now?", low: "none", high: "the worst" },
    ...one.acts.map((act) => ({
      complaint: one.id,
      act: act.id,
      title: act.words,
      words: "How hard is it today?",
      low: "no trouble",
      high: "not possible",
    })),
  ]);
}

export function Rate({ shown, diary }: { shown: Shown; diary: Diary }) {
  const asked = questions(shown);
  const [at, setAt] = useState(0);
  const now = asked[at];
  if (asked.length === 0)
    return (
      <section className={css.panel}>
        <h1>Nothing to rate today</h1>
        <p>Your practitioner will ask for ratings here when needed.</p>
      </section>
    );
  if (!now)
    return (
      <section className={css.panel} aria-label="Done">
        <h1>All done</h1>
        <p>Thank you. It is saved for your next visit.</p>
        <button type="button" className={css.big} onClick={() => setAt(0)}>
          Rate again
        </button>
      </section>
    );
  const answer = (value: number) => {
    diary.say(
      { kind: "rating", complaint_id: now.complaint, act_id: now.act ?? null, value },
      `${now.title}: ${value}`,
      () => setAt(at),
    );
    setAt(at + 1);
  };
  return (
    <section className={css.panel} aria-label={now.title}>
      <p className={css.step}>
        {asked.length > 1 ? `${at + 1} of ${asked.length}` : ""}
        {asked.length > 1 && (
          <button type="button" className={css.quiet} onClick={() => setAt(at + 1)}>
            Skip
          </button>
        )}
      </p>
      <h1>{now.title}</h1>
      <p className={css.ask}>{now.words}</p>
      <Numbers label={`${now.title}. ${now.words}`} low={now.low} high={now.high} onChoose={answer} />
    </section>
  );
}
