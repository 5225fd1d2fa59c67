/** How the body is seen: side, body or sheets, pose, bones. */
import { Button, NativeSelect, SegmentedControl } from "@mantine/core";
import type { Schema } from "../../api/client";
import css from "./FindScreen.module.css";
import type { Choice, Side } from "./useChoice";

type Props = {
  choice: Choice;
  poses: Schema["Contents"]["poses"];
  /** The pose that was chosen by hand, and the one that the place is reached in. */
  wantedPose: string | null;
  itsPose: string;
  onPose: (pose: string | null) => void;
  bones: boolean;
  onBones: () => void;
};

export function FindTools({ choice, poses, wantedPose, itsPose, onPose, bones, onBones }: Props) {
  const { side, view, known, sheets } = choice;
  const itsName = poses.find((one) => one.id === itsPose)?.name ?? itsPose;
  return (
    <div className={css.tools}>
      {(known ? known.paired : true) && (
        <SegmentedControl
          aria-label="Side"
          data={["right", "left"]}
          value={side}
          onChange={(next) => choice.onSide(next as Side)}
        />
      )}
      {sheets.length > 0 && (
        <SegmentedControl
          aria-label="View"
          data={["body", "sheets"]}
          value={view ?? "body"}
          onChange={(next) => choice.inView(next === "sheets" ? next : undefined)}
        />
      )}
      {view !== "sheets" && (
        <>
          <NativeSelect
            aria-label="Pose"
            data={[
              { value: "", label: `${itsName}, as treated` },
              ...poses.map((one) => ({ value: one.id, label: one.name })),
            ]}
            value={wantedPose ?? ""}
            onChange={(event) => onPose(event.currentTarget.value || null)}
          />
          <Button
            variant={bones ? "filled" : "default"}
            aria-pressed={bones}
            rightSection={<kbd>G</kbd>}
            onClick={onBones}
          >
            Bones
          </Button>
        </>
      )}
    </div>
  );
}
