/** The chosen stop: why it is there, and its dose, level, side, mute. */
import { Button, SegmentedControl } from "@mantine/core";
import { doseWords, FORMS, formWord } from "../../score/shapes";
import { minutesAndSeconds, positionWords, shortId } from "../../shared/words";
import css from "./ComposeScreen.module.css";
import type { Stop, useScore } from "./useScore";

type Props = { stop: Stop | undefined; stops: Stop[]; score: ReturnType<typeof useScore> };

export function StopEditor({ stop, stops, score }: Props) {
  const muted = stops.filter((one) => one.muted);
  return (
    <section className={css.editor} aria-label="Stop">
      {!stop && (
        <p className={css.hint}>
          Touch a block, or press Tab: ← → walk, Shift moves it, ↑ ↓ pressure, + − time, S side, M mute. Drag a block to
          reorder, its right edge for time.
        </p>
      )}
      {stop && <Chosen stop={stop} score={score} />}
      {muted.length > 0 && (
        <p className={css.muted}>
          Muted:{" "}
          {muted.map((one) => (
            <button key={one.key} type="button" onClick={() => score.change(one.key, { muted: false })}>
              {shortId(one.id)} sound again
            </button>
          ))}
        </p>
      )}
    </section>
  );
}

function Chosen({ stop, score }: { stop: Stop; score: ReturnType<typeof useScore> }) {
  const pressed = stop.kind === "point" || stop.kind === "area";
  return (
    <>
      <h2>
        {pressed ? shortId(stop.id) : ""} {stop.name}
      </h2>
      <p className={css.facts}>
        {minutesAndSeconds(stop.duration_s)} · {doseWords(stop.dose)} · {positionWords[stop.position]} ·{" "}
        {stop.contact.replace("_", " ")}, {stop.force_n} N
      </p>
      <ul className={css.why}>
        {stop.why.map((reason) => (
          <li key={reason}>{reason}</li>
        ))}
      </ul>
      <div className={css.controls}>
        <SegmentedControl
          size="xs"
          aria-label="Way of pressing"
          data={FORMS.map((form) => ({ value: form, label: formWord(form) }))}
          value={stop.dose.form}
          onChange={(form) => void score.stretch(stop.key, stop.duration_s, form)}
        />
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
        {stop.side !== "midline" && (
          <SegmentedControl
            size="xs"
            aria-label="Side of the stop"
            data={["right", "both", "left"]}
            value={stop.side}
            onChange={(side) => score.change(stop.key, { side: side as Stop["side"] })}
          />
        )}
        <Button size="xs" variant="default" onClick={() => score.change(stop.key, { muted: true })}>
          Mute
        </Button>
      </div>
      <p className={css.hint}>
        At most level {stop.ceiling}: {stop.ceiling_reasons.join(" ")}
      </p>
    </>
  );
}
