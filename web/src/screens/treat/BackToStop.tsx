/** The way out of whatever stands over the stop. */
import css from "./TreatScreen.module.css";

export function BackToStop({ close }: { close: () => void }) {
  return (
    <button type="button" className={css.close} onClick={close}>
      Back to the stop <kbd>Esc</kbd>
    </button>
  );
}
