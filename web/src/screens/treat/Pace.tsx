/** The pace of a stop as a ring: the beat that is due, and which of how many. */
import css from "./TreatScreen.module.css";
import type { Now } from "./useConductor";

export function Pace({ beat, running }: { beat: Now["beat"]; running: boolean }) {
  const { open, word, nth, of } = beat;
  return (
    <svg
      className={css.pace}
      viewBox="0 0 120 120"
      role="img"
      aria-label={running ? word : "held"}
      data-running={running}
    >
      <circle cx="60" cy="60" r="54" fill="none" stroke="var(--line-strong)" strokeWidth="2" />
      <circle cx="60" cy="60" r={10 + 44 * open} className={css.paceFill} />
      <text x="60" y={of > 1 ? 58 : 66} textAnchor="middle">
        {running ? word : "held"}
      </text>
      {of > 1 && (
        <text x="60" y="80" textAnchor="middle" className={css.counted}>
          {nth} of {of}
        </text>
      )}
    </svg>
  );
}
