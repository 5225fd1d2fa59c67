/** The keys, as `?` shows them. */
import { Kbd } from "@mantine/core";
import css from "./Shell.module.css";

const KEYS: [string, string][] = [
  ["Space", "start or hold"],
  ["→ ←", "next, previous"],
  ["0 – 9, Shift+0", "soreness, ten"],
  ["↑ ↓", "pressure"],
  ["L", "later: come back to this stop"],
  ["E", "ease and hold"],
  ["R", "circle the rim"],
  ["S", "seen or said: then a letter"],
  ["W", "something is wrong: then Y or N"],
  ["B", "bracing"],
  ["P", "pulse felt"],
  ["T", "tingling"],
  ["X", "stop"],
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

export function KeyList() {
  return (
    <dl className={css.keys}>
      {KEYS.map(([key, words]) => (
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
