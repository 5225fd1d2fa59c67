/** What can stand over the stop: one at a time, each with the keys that mean something while it is there. */
import type { ReactNode } from "react";
import { useRef, useState } from "react";
import { useMe } from "../../api/queries";
import { KeyList, TREAT_KEYS } from "../../shared/KeyList";
import type { Keys } from "../../shared/keys";
import type { TreatmentState } from "../../treatment/fold";
import { BackToStop } from "./BackToStop";
import { ChangeCourse, useChangeCourse } from "./ChangeCourse";
import { FoundHere, useFoundHere } from "./FoundHere";
import { Jot, Numbers } from "./Jot";
import { unlessBounced } from "./keys";
import { Seen, seenKeys } from "./Seen";
import { TheirScreen } from "./TheirScreen";
import css from "./TreatScreen.module.css";
import type { Conductor } from "./useConductor";

const NAMES = ["seen", "own", "note", "sore", "keys", "change", "found", "theirs"] as const;
export type Over = (typeof NAMES)[number];

/** Which of them stands there; null for the stop itself. */
export function useOver() {
  const [open, setNow] = useState<Over | null>(null);
  const opened = useRef(0);
  const setOpen = (what: Over | null) => {
    opened.current = Date.now();
    setNow(what);
  };
  return { open, opened, setOpen, close: () => setOpen(null) };
}

type Props = ReturnType<typeof useOver> & {
  visitId: string;
  personId: string;
  session: TreatmentState;
  conductor: Conductor;
};

export function useStandsOver({ open, opened, setOpen, close, visitId, personId, session, conductor }: Props) {
  const me = useMe();
  const { act, tell } = conductor;
  const finding = useFoundHere({ session, conductor, close });
  const changing = useChangeCourse({ visitId, personId, session, conductor, close });
  const seen = {
    act,
    close,
    own: open === "own",
    setOwn: (own: boolean) => setOpen(own ? "own" : "seen"),
  };
  const letters = seenKeys(seen);
  // S opens it and is a letter of it: sharp pain.
  const choices: Keys = { ...letters, s: letters.s && unlessBounced(letters.s, opened) };
  const plain: Keys = { escape: close, "?": close };
  const all: Record<Over, { keys: Keys; shown: ReactNode }> = {
    seen: { keys: choices, shown: <Seen {...seen} /> },
    own: { keys: choices, shown: <Seen {...seen} /> },
    note: {
      keys: plain,
      shown: <Jot keep={(text) => tell({ kind: "note", text })} close={close} quick={me.data?.quick_words ?? []} />,
    },
    sore: {
      keys: plain,
      shown: <Numbers choose={(value) => [close(), act({ does: "soreness", value })]} close={close} />,
    },
    found: { keys: finding.keys, shown: <FoundHere finding={finding} /> },
    change: { keys: changing.keys, shown: <ChangeCourse changing={changing} /> },
    theirs: { keys: plain, shown: <TheirScreen visitId={visitId} close={close} /> },
    keys: { keys: plain, shown: <AllKeys close={close} /> },
  };
  return { over: open && all[open], changing };
}

function AllKeys({ close }: { close: () => void }) {
  return (
    <section role="alertdialog" aria-label="Keys" className={css.keys} data-choices>
      <KeyList keys={[...TREAT_KEYS, ["D", "dim room"], ["?", "this list"]]} />
      <BackToStop close={close} />
    </section>
  );
}
