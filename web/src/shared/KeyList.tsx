/** The keys, as `?` shows them. */
import { Kbd } from "@mantine/core";
import css from "./KeyList.module.css";

export const TREAT_KEYS: [string, string][] = [
  ["Space", "start or hold"],
  ["→ ←", "next, previous"],
  ["0 – 9, Shift+0", "soreness, ten"],
  ["↑ ↓", "pressure"],
  ["L", "later: come back to this stop"],
  ["E", "ease and hold, whatever is proposed"],
  ["R", "circle the rim, whatever is proposed"],
  ["O", "the next number is of the other side"],
  ["Enter", "the sign that was waited for has come"],
  ["S", "seen or said: then a letter"],
  ["W", "something is wrong: then Y or N"],
  ["B", "bracing"],
  ["P", "pulse felt"],
  ["T", "tingling"],
  ["K", "levels as planned again"],
  ["C", "tap at each breath in, five times"],
  ["M", "change course: minutes left, not this side, add"],
  ["N", "a note"],
  ["G", "what the hand found: how it feels, how far beside"],
  ["Z", "take back the last thing"],
  ["A", "moves on: by itself, slowly, by hand"],
  ["V", "voice: off, short, full (treat)"],
  ["Y", "a screen for whoever lies there"],
  ["X", "stop"],
];

const KEYS: [string, string][] = [
  ...TREAT_KEYS,
  ["M", "mute a stop (score)"],
  ["S", "side of a stop (score)"],
  ["Shift + ← →", "move a stop (score)"],
  ["+ −", "longer, shorter (score)"],
  ["C, Delete", "copy a stop, take it out (score)"],
  ["A", "add a stop (score)"],
  ["U, Shift+U", "undo, redo (score)"],
  ["Z", "look closer, see all (score)"],
  ["V", "turn the body back"],
  ["↑ ↓, ← →", "walk the list, change the side (find)"],
  ["N", "next step of the way (find)"],
  ["G", "ghost of bones (find)"],
  ["← →, T", "day or week before and after, today (day, week)"],
  ["B", "book an appointment (day, week)"],
  ["↑ ↓ ← →", "move the chosen appointment (week)"],
  ["Ctrl K, ⌘K", "search anything"],
  ["D", "dim room"],
  ["/", "search"],
  ["?", "this list"],
];

export function KeyList({ keys = KEYS }: { keys?: [string, string][] }) {
  return (
    <dl className={css.keys}>
      {keys.map(([key, words]) => (
        <div key={key}>
          <dt>
            <Kbd>{key}</Kbd>
          </dt>
          <dd>{words}</dd>
        </div>
      ))}
    </dl>
  );
}
