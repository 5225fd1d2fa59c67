/** Ctrl or ⌘ K while treating: only what helps at the table, a stop of this score or something to say of this one. */
import { Spotlight } from "@mantine/spotlight";
import { isPressed } from "../../score/shapes";
import { shortId, sideWords } from "../../shared/words";
import type { TreatmentState } from "../../treatment/fold";
import type { Action } from "./keys";
import { order } from "./onward";
import type { Conductor } from "./useConductor";

const SAYINGS: [string, Action][] = [
  ["Pause or resume", { does: "hold" }],
  ["Next stop", { does: "onward" }],
  ["Previous stop", { does: "previous" }],
  ["Lighter", { does: "level", by: -1 }],
  ["Deeper", { does: "level", by: 1 }],
  ["Ease and hold", { does: "technique", technique: "ease" }],
  ["Circle the rim", { does: "technique", technique: "rim" }],
  ["Later: come back to this stop", { does: "later" }],
  ["Other side: next rating is for it", { does: "other_side" }],
  ["Sign felt", { does: "sign" }],
  ["Levels as planned again", { does: "as_planned" }],
  ["Undo the last entry", { does: "undo" }],
  ["Note", { does: "note" }],
  ["Finding", { does: "found" }],
  ["Tap the breathing rate", { does: "breath" }],
  ["Advance: automatic, slow, manual", { does: "moves_on" }],
  ["Voice: off, short, full", { does: "voice" }],
  ["Reaction", { does: "seen" }],
  ["Something is wrong", { does: "wrong" }],
  ["Bracing", { does: "reaction", reaction: "bracing" }],
  ["Pulse felt", { does: "reaction", reaction: "pulse_felt" }],
  ["Tingling", { does: "reaction", reaction: "tingling" }],
  ["Dim room", { does: "dim" }],
  ["Stop the session", { does: "stop" }],
];
/** What there is to say before the first stop. */
const BEFORE: Action["does"][] = ["dim", "stop", "wrong"];

export function AtTheTable({ session, conductor }: { session: TreatmentState; conductor: Conductor }) {
  const { start, act, now } = conductor;
  const stops = order(session);
  const sayings = SAYINGS.filter(([, action]) => now.stop || BEFORE.includes(action.does));
  return (
    <Spotlight
      shortcut={["mod + K"]}
      actions={[
        {
          group: "Go to a stop",
          actions: stops
            .filter((stop) => stop.key !== now.stop?.key)
            .map((stop) => ({
              id: stop.key,
              label: isPressed(stop) ? `${shortId(stop.id)} ${stop.name}` : stop.name,
              description: `${sideWords[stop.side]}, ${stop.dose_words}`,
              onClick: () => void start(stop),
            })),
        },
        {
          group: "This stop",
          actions: sayings.map(([label, action]) => ({ id: label, label, onClick: () => void act(action) })),
        },
      ]}
      searchProps={{ placeholder: "A stop or an action", "aria-label": "Search this session" }}
      nothingFound="No match in this session."
      highlightQuery
      scrollable
      maxHeight={420}
    />
  );
}
