/** The chosen stop: why it is there, and its dose, level, side, what presses. Reasons on demand, not in the way. */
import { Button, NativeSelect, SegmentedControl, TextInput } from "@mantine/core";
import { useState } from "react";
import { type Dose, FORMS, type Form, formWord, isPressed } from "../../score/shapes";
import { minutesAndSeconds, positionWords, shortId } from "../../shared/words";
import css from "./ComposeScreen.module.css";
import type { ScoreOfVisit, Stop, Wish } from "./useScore";
import { toggled } from "./wish";

type Props = {
  stop: Stop | undefined;
  stops: Stop[];
  /** What is said beside the score; it stands here while no stop is chosen. */
  notes: string[];
  score: ScoreOfVisit;
  wish: Wish;
  onWish: (wish: Wish) => void;
};

export function StopEditor({ stop, stops, notes, score, wish, onWish }: Props) {
  const muted = stops.filter((one) => one.muted);
  return (
    <section className={css.editor} aria-label="Stop">
      {!stop && notes.length > 0 && (
        <ul className={css.notes}>
          {notes.map((note) => (
            <li key={note}>{note}</li>
          ))}
        </ul>
      )}
      {!stop && (
        <p className={css.hint}>
          Tap a block, or press Tab. ← → select, Shift moves it, ↑ ↓ pressure, + − time, S side, M mute, C copy, Delete
          removes, A adds, U undoes, Shift+U redoes, Z zooms. Drag a block to reorder or onto another lane for the other
          side, its right edge for time, its top for pressure. Tap the body to add a point.
        </p>
      )}
      {stop && <Chosen key={stop.key} stop={stop} score={score} wish={wish} onWish={onWish} />}
      {muted.length > 0 && (
        <p className={css.muted}>
          Muted:{" "}
          {muted.map((one) => (
            <button key={one.key} type="button" onClick={() => score.change(one.key, { muted: false })}>
              Unmute {shortId(one.id)}
            </button>
          ))}
        </p>
      )}
    </section>
  );
}

const CONTACTS = ["thumb", "finger", "stacked_fingers", "knuckle", "palm", "stick"] as const;

/** The forms to choose from; a compound one is shown where it is, and told in words. */
const formsOf = (stop: Stop): Form[] => (stop.dose.form === "compound" ? [...FORMS, "compound"] : FORMS);

/** A dose in the practitioner's own words, understood by the core. */
function OwnDose({ stop, score }: { stop: Stop; score: ScoreOfVisit }) {
  const [text, setText] = useState("");
  const [failure, setFailure] = useState("");
  const say = () =>
    score.told(stop.key, text).then(
      () => {
        setText("");
        setFailure("");
      },
      (error: unknown) => setFailure(error instanceof Error ? error.message : "Not understood."),
    );
  return (
    <form
      className={css.told}
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim()) void say();
      }}
    >
      <TextInput
        size="xs"
        aria-label="Dose in your own words"
        placeholder="for example: 8 on 2 off for 3 minutes"
        value={text}
        error={failure}
        onChange={(event) => setText(event.currentTarget.value)}
      />
    </form>
  );
}

type ChosenProps = { stop: Stop; score: ScoreOfVisit; wish: Wish; onWish: (wish: Wish) => void };

function Chosen({ stop, score, wish, onWish }: ChosenProps) {
  const pressed = isPressed(stop);
  const warned = stop.warnings ?? [];
  return (
    <>
      <h2>
        {pressed ? shortId(stop.id) : ""} {stop.name}
      </h2>
      <p className={css.facts}>
        {minutesAndSeconds(stop.duration_s)} · {stop.dose_words} · {positionWords[stop.position]}
        {pressed && ` · ${stop.contact.replace("_", " ")}, ${stop.force_n} N`}
        {(stop.entering ?? []).length > 1 && ` · press in at level ${stop.entering?.[0]}`}
        {stop.stand && ` · stand ${stop.stand}`}
      </p>
      {warned.map((warning) => (
        <p key={warning} className={css.warned} role="status">
          {warning}
        </p>
      ))}
      {stop.settle && <p>{stop.settle}</p>}
      {stop.words && <p>{stop.words}</p>}
      <div className={css.controls}>
        <OwnDose stop={stop} score={score} />
        <NativeSelect
          size="xs"
          aria-label="Technique"
          data={formsOf(stop).map((form) => ({ value: form, label: formWord(form) }))}
          value={stop.dose.form}
          onChange={(event) => void score.stretch(stop.key, stop.duration_s, event.currentTarget.value as Form)}
        />
        {pressed && (
          <SegmentedControl
            size="xs"
            aria-label="Pressure level"
            data={[1, 2, 3, 4, 5].map((level) => ({
              value: String(level),
              label: String(level),
              disabled: level > stop.ceiling,
            }))}
            value={String(stop.level)}
            onChange={(level) => score.change(stop.key, { level: Number(level) })}
          />
        )}
        {stop.side !== "midline" && (
          <SegmentedControl
            size="xs"
            aria-label="Side of the stop"
            data={["right", "both", "left"]}
            value={stop.side}
            onChange={(side) => score.change(stop.key, { side: side as Stop["side"] })}
          />
        )}
        {stop.side === "both" && (
          <Button
            size="xs"
            variant="default"
            aria-pressed={stop.dose.together ?? false}
            onClick={() => score.change(stop.key, { dose: { ...stop.dose, together: !stop.dose.together } as Dose })}
          >
            {stop.dose.together ? "one after the other" : "both together"}
          </Button>
        )}
        {pressed && (
          <NativeSelect
            size="xs"
            aria-label="Contact"
            data={CONTACTS.map((contact) => ({ value: contact, label: contact.replace("_", " ") }))}
            value={stop.contact}
            onChange={(event) => score.change(stop.key, { contact: event.currentTarget.value as Stop["contact"] })}
          />
        )}
        <Button size="xs" variant="default" onClick={() => score.change(stop.key, { muted: true })}>
          Mute
        </Button>
        <Button size="xs" variant="default" onClick={() => score.duplicate(stop.key)}>
          Copy
        </Button>
        <Button size="xs" variant="default" onClick={() => score.remove(stop.key)}>
          Remove
        </Button>
        {pressed && (
          <>
            <Button
              size="xs"
              variant="default"
              aria-pressed={wish.pinned.includes(stop.id)}
              onClick={() => onWish({ ...wish, pinned: toggled(wish.pinned, stop.id) })}
            >
              {wish.pinned.includes(stop.id) ? "Pinned" : "Pin"}
            </Button>
            <Button
              size="xs"
              variant="default"
              aria-pressed={wish.avoid.includes(stop.id)}
              onClick={() => onWish({ ...wish, avoid: toggled(wish.avoid, stop.id) })}
            >
              {wish.avoid.includes(stop.id) ? "Avoided" : "Avoid"}
            </Button>
          </>
        )}
      </div>
      <details open={pressed && warned.length === 0}>
        <summary>Why</summary>
        <ul className={css.why}>
          {(stop.why ?? []).map((reason) => (
            <li key={reason}>{reason}</li>
          ))}
          {pressed && (
            <li>
              At most level {stop.ceiling}: {stop.ceiling_reasons.join(" ")}
            </li>
          )}
        </ul>
      </details>
    </>
  );
}
