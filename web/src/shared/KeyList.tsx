/** The keys, as `?` shows them. */
import { Kbd } from "@mantine/core";
import css from "./KeyList.module.css";

export const TREAT_KEYS: [string, string][] = [
  ["Space", "start or pause"],
  ["→ ←", "next, previous"],
  ["0 – 9, Shift+0", "soreness, ten"],
  ["↑ ↓", "pressure"],
  ["L", "later: come back to this stop"],
  ["E", "ease and hold"],
  ["R", "circle the rim"],
  ["O", "next rating is for the other side"],
  ["Enter", "sign felt"],
  ["S", "reaction: then a letter"],
  ["W", "something is wrong: then Y or N"],
  ["B", "bracing"],
  ["P", "pulse felt"],
  ["T", "tingling"],
  ["K", "levels as planned again"],
  ["C", "tap at each breath in, five times"],
  ["M", "adjust session: minutes left, skip this side, add a point"],
  ["N", "a note"],
  ["G", "finding: how it feels, how far off"],
  ["Z", "undo the last entry"],
  ["A", "advance: automatic, slow, manual"],
  ["V", "voice: off, short, full (treat)"],
  ["Y", "screen for the person"],
  ["X", "stop"],
];

const KEYS: [string, string][] = [
  ...TREAT_KEYS,
  ["M", "mute a stop (score)"],
  ["S", "side of a stop (score)"],
  ["Shift + ← →", "move a stop (score)"],
  ["+ −", "longer, shorter (score)"],
  ["C, Delete", "copy or remove a stop (score)"],
  ["A", "add a stop (score)"],
  ["U, Shift+U", "undo, redo (score)"],
  ["Z", "zoom in, show all (score)"],
  ["V", "reset the view"],
  ["↑ ↓, ← →", "move through the list, switch side (find)"],
  ["N", "next locating step (find)"],
  ["G", "show bones (find)"],
  ["← →, T", "previous or next day or week, today (day, week)"],
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
