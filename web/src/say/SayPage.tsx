/** One's own say while lying on the table: a breath to go along with, how sore it is, less, and stop. Nothing else. */
import { type FormEvent, useEffect, useState } from "react";
import { breathOf } from "../shared/breath";
import css from "./Say.module.css";
import { useSay } from "./useSay";

const NUMBERS = Array.from({ length: 11 }, (_, n) => n);
const LETTERS = 8;

export function SayPage() {
  const { joined, seen, failure, told, join, say } = useSay();
  if (!joined) return <Join join={join} failure={failure} />;
  if (seen?.moment.status === "over")
    return (
      <main className={css.page}>
        <h1>The session has ended</h1>
        <p>Stay lying down for a moment. You can close this page.</p>
      </main>
    );
  const waits = !seen || seen.moment.status === "waiting";
  return (
    <main className={css.page}>
      <Circle seen={seen} />
      <section aria-labelledby="how">
        <h1 id="how">How sore is it now?</h1>
        <div className={css.numbers}>
          {NUMBERS.map((value) => (
            <button
              key={value}
              type="button"
              disabled={waits}
              onClick={() => void say({ says: "sore", value }, `${value}. Thank you.`)}
            >
              {value}
            </button>
          ))}
        </div>
        <p className={css.ends}>
          <span>0, not at all</span>
          <span>10, the worst</span>
        </p>
      </section>
      <p className={css.told} role="status">
        {failure || told || (waits ? "Starting in a moment." : "")}
      </p>
      <div className={css.doors}>
        <button
          type="button"
          disabled={waits}
          onClick={() => void say({ says: "lighter", value: null }, "Sent: lighter.")}
        >
          Lighter
        </button>
        <button
          type="button"
          className={css.stop}
          onClick={() => void say({ says: "stop", value: null }, "Sent: stop.")}
        >
          Stop
        </button>
      </div>
    </main>
  );
}

function Join({ join, failure }: { join: (code: string) => Promise<void>; failure: string }) {
  const [code, setCode] = useState("");
  const submit = (event: FormEvent) => {
    event.preventDefault();
    void join(code);
  };
  return (
    <main className={css.page}>
      <form onSubmit={submit} className={css.join}>
        <h1>Join the session</h1>
        <label htmlFor="code">Code from the practitioner's screen</label>
        <input
          id="code"
          autoCapitalize="characters"
          spellCheck={false}
          autoComplete="off"
          maxLength={LETTERS + 2}
          value={code}
          onChange={(event) => setCode(event.currentTarget.value.toUpperCase().replace(/[^0-9A-Z -]/g, ""))}
        />
        {failure && <p role="alert">{failure}</p>}
        <button type="submit" disabled={code.replace(/[ -]/g, "").length !== LETTERS}>
          Join
        </button>
      </form>
    </main>
  );
}

type Seen = ReturnType<typeof useSay>["seen"];

/** The breath, as the conductor has it; between two looks by this device's own clock. */
function Circle({ seen }: { seen: Seen }) {
  const running = seen?.moment.status === "pressing";
  const [at, setAt] = useState(0);
  useEffect(() => {
    if (!running) return;
    let frame = 0;
    const draw = () => {
      setAt(performance.now());
      frame = requestAnimationFrame(draw);
    };
    frame = requestAnimationFrame(draw);
    return () => cancelAnimationFrame(frame);
  }, [running]);
  if (!seen || !running)
    return (
      <svg viewBox="0 0 120 120" className={css.circle} role="img" aria-label="No breath to follow now">
        <circle cx="60" cy="60" r="52" className={css.rim} />
      </svg>
    );
  const { at_s, breath_s, in_share } = seen.moment;
  const { word, open } = breathOf(at_s + Math.max(at - seen.at, 0) / 1000, breath_s, in_share);
  return (
    <svg viewBox="0 0 120 120" className={css.circle} role="img" aria-label={`Breathe ${word}`}>
      <circle cx="60" cy="60" r="52" className={css.rim} />
      <circle cx="60" cy="60" r={20 + 30 * open} className={css.breath} />
      <text x="60" y="66" textAnchor="middle">
        {word}
      </text>
    </svg>
  );
}
