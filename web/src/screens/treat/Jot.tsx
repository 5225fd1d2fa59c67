/** A note while hands are busy: a line, or one of the practice's quick words. */
import { TextInput } from "@mantine/core";
import { type FormEvent, useEffect, useRef, useState } from "react";
import { BackToStop } from "./BackToStop";
import css from "./TreatScreen.module.css";

type Props = { keep: (text: string) => void; close: () => void; quick: readonly string[] };

export function Jot({ keep, close, quick }: Props) {
  const [text, setText] = useState("");
  const kept = (words: string) => {
    if (!words.trim()) return;
    keep(words.trim());
    close();
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    kept(text);
  };
  return (
    <section role="alertdialog" aria-label="Note" className={css.seen} data-choices>
      <form onSubmit={submit}>
        <TextInput
          label="Note"
          size="lg"
          maxLength={300}
          autoFocus
          value={text}
          onChange={(event) => setText(event.currentTarget.value)}
          onKeyDown={(event) => event.key === "Escape" && close()}
        />
        <button type="submit">Save</button>
      </form>
      {quick.length > 0 && (
        <div className={css.quick}>
          {quick.map((words) => (
            <button key={words} type="button" onClick={() => kept(words)}>
              {words}
            </button>
          ))}
        </div>
      )}
      <BackToStop close={close} />
    </section>
  );
}

/** Numbers for a pedal or a knuckle: it begins in the middle, each step is one more. */
export function Numbers({ choose, close }: { choose: (value: number) => void; close: () => void }) {
  const first = useRef<HTMLButtonElement>(null);
  useEffect(() => first.current?.focus(), []);
  return (
    <section role="alertdialog" aria-label="How sore" className={css.numbers} data-choices>
      <h2>How sore, 0 to 10?</h2>
      <div>
        {[5, 6, 7, 8, 9, 10, 0, 1, 2, 3, 4].map((value) => (
          <button key={value} type="button" ref={value === 5 ? first : undefined} onClick={() => choose(value)}>
            {value}
          </button>
        ))}
      </div>
      <BackToStop close={close} />
    </section>
  );
}
