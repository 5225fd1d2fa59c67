/** The pace of a stop as a ring: the beat that is due, and which of how many; a hold goes with the breath. */
import { type Breath, HELD } from "./breath";
import css from "./TreatScreen.module.css";
import type { Now } from "./useNow";

type Props = { beat: Now["beat"]; running: boolean; breath: Breath };

export function Pace({ beat, running, breath }: Props) {
  const { open, word, nth, of } = beat;
  const held = HELD.has(word);
  const under = of > 1 ? `${nth} of ${of}` : held && running ? breath.word : "";
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
      {held && running && <circle cx="60" cy="60" r={24 + 24 * breath.open} className={css.paceBreath} />}
      <text x="60" y={under ? 58 : 66} textAnchor="middle">
        {running ? word : "held"}
      </text>
      {under && (
        <text x="60" y="80" textAnchor="middle" className={css.counted}>
          {under}
        </text>
      )}
    </svg>
  );
}
