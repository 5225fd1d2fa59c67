/** What this device is set to while treating: its sound, its voice, how it moves on, what its pedal does. Not the
 * practitioner's and not the practice's: a tablet on a stand is set otherwise than a desk. */
import { useLocalStorage } from "@mantine/hooks";

/** What a pedal, a presenter or a spare key can do. */
export const PEDAL_ACTIONS = ["next", "hold", "later", "sore", "something"] as const;
export type PedalAction = (typeof PEDAL_ACTIONS)[number];
export const PEDAL_WORDS: Record<PedalAction, string> = {
  next: "Next, or next choice",
  hold: "Pause or resume, or select the choice",
  later: "Come back later",
  sore: "Soreness: choose a number",
  something: "Reaction or something wrong",
};
export type Voice = "off" | "short" | "full";
export type MovesOn = "automatic" | "slow" | "manual";
export type Turned = "as held" | "landscape" | "portrait";
/** How finely the body is drawn: a slow device turns a light one more smoothly. */
export type FigureDetail = "fine" | "light";
const DETAIL: Record<FigureDetail, number | [number, number]> = { fine: [1, 1.5], light: 0.5 }; // pixels a point
export type DevicePrefs = {
  figure: FigureDetail;
  volume: number;
  voice: Voice;
  movesOn: MovesOn;
  turned: Turned;
  pedal: Record<string, PedalAction>;
};

export const USUAL: DevicePrefs = {
  figure: "fine",
  volume: 50,
  voice: "off",
  movesOn: "automatic",
  turned: "as held",
  // What presenters and most foot switches send.
  pedal: {
    PageDown: "next",
    PageUp: "hold",
    MediaTrackNext: "next",
    MediaPlayPause: "hold",
    F8: "sore",
    F9: "something",
  },
};
/** How earlier versions stored the advance. */
const EARLIER: Record<string, MovesOn> = { "by itself": "automatic", slowly: "slow", "by hand": "manual" };
const KEY = "acuthesis-device-prefs";

export function useDevicePrefs() {
  const [prefs, setPrefs] = useLocalStorage<DevicePrefs>({
    key: KEY,
    defaultValue: USUAL,
    getInitialValueInEffect: false,
    deserialize: (text) => {
      try {
        const stored = text ? (JSON.parse(text) as Partial<DevicePrefs>) : {};
        return { ...USUAL, ...stored, movesOn: EARLIER[stored.movesOn ?? ""] ?? stored.movesOn ?? USUAL.movesOn };
      } catch {
        return USUAL; // written by something else: the usual, and nothing lost but a volume
      }
    },
  });
  const change = (to: Partial<DevicePrefs>) => setPrefs((now) => ({ ...now, ...to }));
  return { prefs, change };
}

/** How many pixels of the canvas a point of the screen gets on this device. */
export const useFigureDetail = () => DETAIL[useDevicePrefs().prefs.figure] ?? DETAIL.fine;
