/** How this device sounds, speaks and moves on, in the head of the screen; all of it is remembered on it. */
import { Slider } from "@mantine/core";
import type { DevicePrefs } from "../../shared/device-prefs";
import { fillScreen } from "../../shared/screen";
import css from "./TreatScreen.module.css";

export const MOVES_ON: DevicePrefs["movesOn"][] = ["automatic", "slow", "manual"];
export const VOICES: DevicePrefs["voice"][] = ["off", "short", "full"];
/** The one after, round and round. */
export function after<T>(all: T[], now: T): T {
  return all[(all.indexOf(now) + 1) % all.length] ?? now;
}

type Props = { prefs: DevicePrefs; change: (to: Partial<DevicePrefs>) => void; theirs: () => void };

export function Device({ prefs, change, theirs }: Props) {
  return (
    <div className={css.device}>
      <button type="button" onClick={() => change({ movesOn: after(MOVES_ON, prefs.movesOn) })}>
        Moves on {prefs.movesOn} <kbd>A</kbd>
      </button>
      <button type="button" onClick={() => change({ voice: after(VOICES, prefs.voice) })}>
        Voice {prefs.voice} <kbd>V</kbd>
      </button>
      <button type="button" onClick={theirs}>
        Their screen <kbd>Y</kbd>
      </button>
      <button type="button" onClick={() => void fillScreen(prefs.turned)}>
        Full screen
      </button>
      <div>
        <span>Sound</span>
        <Slider
          size="sm"
          w={80}
          label={null}
          value={prefs.volume}
          onChange={(volume) => change({ volume })}
          thumbLabel="Volume"
          color="var(--ink)"
        />
      </div>
    </div>
  );
}
