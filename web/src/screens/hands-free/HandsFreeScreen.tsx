/** This device while treating: how it sounds, speaks, moves on and stands, and what a pedal on it does. A pedal is learnt
 * by pressing it. All of it stays on this device. */
import { Button, SegmentedControl, Select, Slider } from "@mantine/core";
import { useEffect, useState } from "react";
import desk from "../../shared/desk.module.css";
import {
  type FigureDetail,
  type MovesOn,
  PEDAL_ACTIONS,
  PEDAL_WORDS,
  type PedalAction,
  type Turned,
  USUAL,
  useDevicePrefs,
  type Voice,
} from "../../shared/device-prefs";
import { setVolume, sound } from "../../shared/sound";
import { hasVoice, setVoiceVolume, speak } from "../../shared/voice";
import { pedalName } from "../treat/usePedal";

const MOVES: MovesOn[] = ["automatic", "slow", "manual"];
const VOICES: Voice[] = ["off", "short", "full"];
const FIGURES: FigureDetail[] = ["fine", "light"];
const TURNED: Turned[] = ["as held", "landscape", "portrait"];
const SOUNDS = [
  ["start", "Hands on"],
  ["half", "Half"],
  ["side", "Other side"],
  ["tick", "Five left"],
  ["done", "Done"],
  ["second", "Ask again"],
  ["turn", "Turn"],
] as const;

export function HandsFreeScreen() {
  const { prefs, change } = useDevicePrefs();
  useEffect(() => {
    setVolume(prefs.volume / 100);
    setVoiceVolume(prefs.volume / 100);
  }, [prefs.volume]);
  return (
    <div className={desk.page}>
      <div className={desk.head}>
        <div>
          <h1>Hands-free treatment</h1>
          <p className={desk.note}>Settings for this device only.</p>
        </div>
      </div>
      <div className={desk.two}>
        <section className={desk.section}>
          <h2>Moving on and speaking</h2>
          <Choice
            label="Moves on at the end of a stop"
            all={MOVES}
            value={prefs.movesOn}
            set={(movesOn) => change({ movesOn })}
          />
          <Choice
            label={hasVoice() ? "Voice" : "Voice (this browser has none)"}
            all={VOICES}
            value={prefs.voice}
            set={(voice) => {
              change({ voice });
              if (voice !== "off") speak("Next: left ankle, inside. Stay face up.");
            }}
          />
          <Choice
            label="Screen orientation in full screen"
            all={TURNED}
            value={prefs.turned}
            set={(turned) => change({ turned })}
          />
          <Choice
            label="Figure detail (light is faster on a slow device)"
            all={FIGURES}
            value={prefs.figure}
            set={(figure) => change({ figure })}
          />
          <div>
            <p id="volume">Sound and voice</p>
            <Slider
              label={null}
              value={prefs.volume}
              onChange={(volume) => change({ volume })}
              thumbLabel="Volume"
              color="var(--ink)"
            />
          </div>
          <div className={desk.buttons}>
            {SOUNDS.map(([name, words]) => (
              <Button key={name} variant="default" onClick={() => sound[name]()}>
                {words}
              </Button>
            ))}
          </div>
        </section>
        <Pedals pedal={prefs.pedal} set={(pedal) => change({ pedal })} />
      </div>
    </div>
  );
}

type ChoiceProps<T extends string> = { label: string; all: T[]; value: T; set: (value: T) => void };

function Choice<T extends string>({ label, all, value, set }: ChoiceProps<T>) {
  return (
    <div>
      <p>{label}</p>
      <SegmentedControl fullWidth aria-label={label} data={all} value={value} onChange={(now) => set(now as T)} />
    </div>
  );
}

type PedalsProps = { pedal: Record<string, PedalAction>; set: (pedal: Record<string, PedalAction>) => void };
const DATA = PEDAL_ACTIONS.map((value) => ({ value, label: PEDAL_WORDS[value] }));
/** Keys that a page needs itself, and that no pedal has to itself. */
const TAKEN = new Set(["Tab", "ShiftLeft", "ShiftRight", "ControlLeft", "AltLeft", "MetaLeft", "Escape"]);

function Pedals({ pedal, set }: PedalsProps) {
  const [learning, setLearning] = useState(false);
  const [pressed, setPressed] = useState<string | null>(null);
  useEffect(() => {
    const hear = (event: KeyboardEvent) => {
      const name = pedalName(event);
      if (learning) {
        event.preventDefault();
        event.stopPropagation();
        if (TAKEN.has(name)) return;
        setLearning(false);
        setPressed(name);
      } else if (pedal[name]) {
        event.preventDefault();
        setPressed(name);
      }
    };
    window.addEventListener("keydown", hear, true);
    return () => window.removeEventListener("keydown", hear, true);
  });
  const rows = [...new Set([...Object.keys(pedal), ...(pressed ? [pressed] : [])])];
  const without = (name: string) => Object.fromEntries(Object.entries(pedal).filter(([key]) => key !== name));
  return (
    <section className={desk.section}>
      <h2>Foot switch, presenter, spare keys</h2>
      <p className={desk.note}>
        Press the pedal, then choose what it does. In a list, "next" moves and "pause" selects.
      </p>
      <div className={desk.buttons}>
        <Button size="lg" onClick={() => setLearning(true)} data-testid="learn">
          {learning ? "Press the pedal now" : "Learn a pedal"}
        </Button>
        <Button variant="default" onClick={() => set(USUAL.pedal)}>
          Restore default
        </Button>
      </div>
      <table className={desk.table}>
        <thead>
          <tr>
            <th scope="col">Key sent</th>
            <th scope="col">Action</th>
            <th scope="col">
              <span className={desk.small}>Forget</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((name) => (
            <tr key={name} aria-current={name === pressed || undefined}>
              <th scope="row">
                {name}
                {name === pressed && ", just pressed"}
              </th>
              <td>
                <Select
                  aria-label={`Action for ${name}`}
                  data={DATA}
                  placeholder="No action yet"
                  value={pedal[name] ?? null}
                  onChange={(does) => does && set({ ...pedal, [name]: does as PedalAction })}
                />
              </td>
              <td>
                <Button variant="subtle" onClick={() => [set(without(name)), name === pressed && setPressed(null)]}>
                  Forget
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
