/** What is seen on the person or said by them, in three groups: fine, lighten, stop. Two keys: S, then a letter. */
import { TextInput } from "@mantine/core";
import { type FormEvent, useState } from "react";
import { facts } from "../../api/facts.gen";
import type { Keys } from "../../shared/keys";
import { BackToStop } from "./BackToStop";
import type { Action } from "./keys";
import css from "./TreatScreen.module.css";

type Reaction = keyof typeof facts.reactions;
// In the order of the table: what is seen most comes first.
const ALL = [...facts.reaction_order].map((name) => [name as Reaction, facts.reactions[name]] as const);
const GROUPS = [
  ["fine", "Fine"],
  ["lighten", "Lighten"],
  ["stop", "Stop"],
] as const;
const OWN: Reaction = "own_word";

type Props = { act: (action: Action) => unknown; close: () => void; own: boolean; setOwn: (own: boolean) => void };

/** Keys while the groups are open. */
export function seenKeys({ act, close, setOwn }: Props): Keys {
  const letters = ALL.map(([reaction, one]) => [one.key, () => choose(reaction, act, close, setOwn)] as const);
  return { ...Object.fromEntries(letters), escape: close };
}

function choose(reaction: Reaction, act: Props["act"], close: () => void, setOwn: Props["setOwn"]) {
  if (reaction === OWN) return setOwn(true);
  act({ does: "reaction", reaction });
  close();
}

export function Seen(props: Props) {
  const { act, close, own, setOwn } = props;
  const [words, setWords] = useState("");
  const keep = (event: FormEvent) => {
    event.preventDefault();
    if (!words.trim()) return;
    act({ does: "reaction", reaction: OWN, words: words.trim() });
    close();
  };
  return (
    <section role="alertdialog" aria-label="Reaction" className={css.seen} data-choices>
      {own ? (
        <form onSubmit={keep}>
          <TextInput
            label="In their own words"
            size="lg"
            maxLength={200}
            autoFocus
            value={words}
            onChange={(event) => setWords(event.currentTarget.value)}
            onKeyDown={(event) => event.key === "Escape" && close()}
          />
          <button type="submit">Save</button>
        </form>
      ) : (
        GROUPS.map(([group, name]) => (
          <div key={group} data-group={group}>
            <h2>{name}</h2>
            {ALL.filter(([, one]) => one.group === group).map(([reaction, one]) => (
              <button key={reaction} type="button" onClick={() => choose(reaction, act, close, setOwn)}>
                {one.name} <kbd>{one.key.toUpperCase()}</kbd>
              </button>
            ))}
          </div>
        ))
      )}
      {!own && (
        <button
          type="button"
          className={css.close}
          data-wrong
          onClick={() => {
            act({ does: "wrong" });
            close();
          }}
        >
          Something is wrong <kbd>W</kbd>
        </button>
      )}
      <BackToStop close={close} />
    </section>
  );
}
