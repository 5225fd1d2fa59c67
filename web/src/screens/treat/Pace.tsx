/** The pace of a stop as a ring. */
import { phase } from "../../score/pace";
import type { Dose } from "../../score/shapes";
import css from "./TreatScreen.module.css";

export function Pace({ dose, elapsed, running }: { dose: Dose; elapsed: number; running: boolean }) {
  const { open, word } = phase(dose, elapsed);
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
      <text x="60" y="66" textAnchor="middle">
        {running ? word : "held"}
      </text>
    </svg>
  );
}
