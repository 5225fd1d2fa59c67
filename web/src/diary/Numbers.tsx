/** Numbers from 0 to 10, large enough for any thumb. */
import css from "./Diary.module.css";

type Props = { label: string; low: string; high: string; chosen?: number | null; onChoose: (value: number) => void };

export function Numbers({ label, low, high, chosen, onChoose }: Props) {
  return (
    <fieldset className={css.numbers} aria-label={label}>
      {Array.from({ length: 11 }, (_, value) => value).map((value) => (
        <button key={value} type="button" aria-pressed={chosen === value} onClick={() => onChoose(value)}>
          {value}
          {value === 0 && <small>{low}</small>}
          {value === 10 && <small>{high}</small>}
        </button>
      ))}
    </fieldset>
  );
}
