/** Feel and record: where the hand found the place, how sore it is, how it feels. Kept in the person's own map. */
import { Button, NativeSelect, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { refresh } from "../../api/queries";
import { ErrorPanel, Scale, SoreRing } from "../../shared/parts";
import { dayOf, newId } from "../../shared/words";
import css from "./PlaceSheet.module.css";

type Texture = NonNullable<Schema["FindingIn"]["texture"]>;
const TEXTURES: Texture[] = ["hollow", "cord", "knot", "grit", "hard", "soft", "warm", "cold"];
type Props = {
  located: Schema["Located"];
  personId: string;
  pose: string;
  felt: Schema["FoundOut"][];
  nudging: boolean;
  nudged: number[] | null;
  onNudge: (on: boolean) => void;
  onNudged: (at: number[] | null) => void;
};

export function FeltIt({ located, personId, pose, felt, nudging, nudged, onNudge, onNudged }: Props) {
  const [soreness, setSoreness] = useState<number | null>(null);
  const [texture, setTexture] = useState<Texture | "">("");
  const [note, setNote] = useState("");
  // One id for one finding, however often it is sent.
  const id = useRef(newId());
  const queries = useQueryClient();
  const keep = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/people/{person_id}/findings", {
          params: { path: { person_id: personId } },
          body: {
            id: id.current,
            entry: located.id,
            side: located.side,
            offset: { mm: {} },
            pose,
            found_cm: nudged as [number, number, number] | null,
            soreness,
            texture: texture || null,
            note,
          },
        }),
      ),
    onSuccess: async (kept) => {
      await refresh(queries, ["person", personId, "figure", "findings"]);
      id.current = newId();
      setSoreness(null);
      setTexture("");
      setNote("");
      onNudge(false);
      onNudged(null);
      notifications.show({ message: `Saved: ${kept.words}.` });
    },
  });
  const off = nudged && Math.hypot(...nudged.map((value, axis) => value - (located.position_cm[axis] ?? 0)));
  const something = soreness !== null || texture !== "" || note !== "" || nudged !== null;
  return (
    <section className={css.felt}>
      <h3>Your finding</h3>
      <Button variant={nudging ? "filled" : "default"} aria-pressed={nudging} onClick={() => onNudge(!nudging)}>
        {nudging ? "Tap the body where you found it" : "Mark a different spot"}
      </Button>
      {off !== null && (
        <p>
          {(off * 10).toFixed(0)} mm from the calculated spot.{" "}
          <button type="button" className={css.plain} onClick={() => onNudged(null)}>
            Reset to calculated spot
          </button>
        </p>
      )}
      <Scale label="Soreness, 0 to 10" value={soreness} onChange={setSoreness} />
      <div className={css.pair}>
        <NativeSelect
          label="How it feels"
          data={[{ value: "", label: "—" }, ...TEXTURES]}
          value={texture}
          onChange={(event) => setTexture(event.currentTarget.value as Texture | "")}
        />
        <TextInput label="Note" maxLength={120} value={note} onChange={(event) => setNote(event.currentTarget.value)} />
      </div>
      {keep.isError && <ErrorPanel error={keep.error} />}
      <Button disabled={!something} loading={keep.isPending} onClick={() => keep.mutate()}>
        Save finding
      </Button>
      {felt.length > 0 && (
        <ul className={css.map} aria-label="Earlier findings">
          {felt
            .slice(-5)
            .reverse()
            .map((one) => (
              <li key={one.id}>
                {one.soreness !== null && <SoreRing value={one.soreness} size={26} />}
                <span>
                  {one.words}
                  {one.note && `: ${one.note}`}
                </span>
                <small>{dayOf(one.at)}</small>
              </li>
            ))}
        </ul>
      )}
    </section>
  );
}
