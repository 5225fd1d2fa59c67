/** An answer that asks where: places painted on the figure or named from a list, each kept until it is said to be over. */
import { Button, Modal, MultiSelect } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { lazy, Suspense, useState } from "react";
import type { Schema } from "../../api/client";
import { usePatch } from "../../body/usePatch";
import { Waiting } from "../../shared/parts";
import { partWords } from "../../shared/words";
import css from "./StoryScreen.module.css";

/** Drawing in three dimensions comes as a chunk of its own, once somebody points. */
const PaintBody = lazy(() => import("../../body/PaintBody"));

type Painted = { skin: number[]; words?: string };
type Place = string | Painted;
type Props = {
  personId: string;
  question: Schema["Question"];
  value: unknown;
  onChange: (value: Place[] | true | undefined) => void;
};

/** Parts of the body that an answer may name, each whole or on one side. */
const PARTS = {
  ...partWords,
  low_back: "lower back",
  upper_back: "upper back",
  nape: "nape",
  shoulder_joint: "shoulder",
  shoulder_top: "top of the shoulder",
  chest: "chest",
  upper_belly: "upper abdomen",
  lower_belly: "lower abdomen",
  groin: "groin",
  hip: "hip",
  buttock: "buttock",
  knee_front: "front of the knee",
  knee_back: "behind the knee",
  calf: "calf",
  sole: "sole",
  arm_back: "back of the upper arm",
  arm_inner: "inner upper arm",
  forearm_palm: "inner forearm",
  ear_area: "ear",
  face: "face",
} as const;
const PLACES = Object.entries(PARTS).flatMap(([part, words]) => [
  { value: part, label: words },
  { value: `${part}.left`, label: `${words}, left` },
  { value: `${part}.right`, label: `${words}, right` },
]);

const isPainted = (place: Place): place is Painted => typeof place !== "string";

export function Places({ personId, question, value, onChange }: Props) {
  const [painting, setPainting] = useState(false);
  const places: Place[] = Array.isArray(value) ? (value as Place[]) : [];
  const named = places.filter((one): one is string => !isPainted(one));
  const painted = places.filter(isPainted);
  const keep = (next: Place[]) => onChange(next.length > 0 ? next : true);
  const on = value !== undefined;
  return (
    <div className={`${css.row} ${css.places}`} data-on={on || undefined}>
      <label>
        <input
          type="checkbox"
          checked={on}
          onChange={(event) => onChange(event.currentTarget.checked ? true : undefined)}
        />
        {question.ask}
      </label>
      {on && (
        <>
          {painted.map((one, rank) => (
            <p key={`${one.skin[0]}-${one.skin.length}`} className={css.painted}>
              <span>Marked: {one.words || `${one.skin.length} spots marked, named when saved`}</span>
              <Button
                size="compact-sm"
                variant="default"
                onClick={() => keep([...named, ...painted.filter((_, other) => other !== rank)])}
              >
                No longer applies
              </Button>
            </p>
          ))}
          <div className={css.where}>
            <MultiSelect
              aria-label={`${question.ask}: places`}
              placeholder={places.length > 0 ? "" : "Name a place"}
              searchable
              data={PLACES}
              value={named}
              onChange={(next) => keep([...next, ...painted])}
            />
            <Button variant="default" onClick={() => setPainting(true)}>
              Mark it
            </Button>
          </div>
          {places.length === 0 && <em>Where? Mark the place before you compose.</em>}
        </>
      )}
      <Modal
        opened={painting}
        onClose={() => setPainting(false)}
        title={question.ask}
        size="xl"
        closeButtonProps={{ "aria-label": "Close without saving" }}
      >
        {painting && (
          <Paint
            personId={personId}
            before={painted.flatMap((one) => one.skin)}
            onKeep={(place) => {
              keep([...places, place]);
              setPainting(false);
            }}
          />
        )}
      </Modal>
    </div>
  );
}

/** One place painted on the figure; those that the answer has already show beside it. */
function Paint({ personId, before, onKeep }: { personId: string; before: number[]; onKeep: (place: Painted) => void }) {
  const [painted, setPainted] = useState<ReadonlySet<number>>(new Set());
  const [settled] = useDebouncedValue(painted, 400);
  const patch = usePatch(personId, settled);
  return (
    <div className={css.paint}>
      <Suspense fallback={<Waiting for="Loading the figure" />}>
        <PaintBody personId={personId} painted={painted} before={before} onPaint={setPainted} />
      </Suspense>
      <p role="status">{painted.size > 0 ? (patch.data?.words ?? "") : "Mark the area with one finger."}</p>
      <Button
        disabled={painted.size === 0}
        onClick={() => onKeep({ skin: [...painted].sort((a, b) => a - b), words: patch.data?.words ?? "" })}
      >
        Save area
      </Button>
    </div>
  );
}
