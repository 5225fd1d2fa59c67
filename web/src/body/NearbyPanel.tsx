/** Nearby: points, areas and landmarks around a touch on bare skin, the nearest first. */
import { CloseButton } from "@mantine/core";
import { api, type Schema, take } from "../api/client";
import { shortId } from "../shared/words";
import css from "./NearbyPanel.module.css";

/** What lies around a place of a person's body, in a pose, the nearest first; null where it cannot be asked. */
export async function askWhatIsNear(person_id: string, at: number[], pose: string): Promise<Schema["Nearby"][] | null> {
  const [x = 0, y = 0, z = 0] = at;
  return take(
    api.GET("/api/people/{person_id}/nearby", { params: { path: { person_id }, query: { x, y, z, pose } } }),
  ).catch(() => null);
}

type Props = {
  nearby: Schema["Nearby"][];
  onChoose: (id: string, side: "left" | "right") => void;
  onClose: () => void;
};

export function NearbyPanel({ nearby, onChoose, onClose }: Props) {
  const places = nearby.filter((one) => one.kind !== "landmark");
  const marks = nearby.filter((one) => one.kind === "landmark");
  return (
    <section className={css.panel} aria-label="Nearby" aria-live="polite">
      <header>
        <h3>Here</h3>
        <CloseButton aria-label="Close" onClick={onClose} />
      </header>
      {places.length === 0 && <p>No point or area within 4 cm.</p>}
      <ul>
        {places.map((one) => (
          <li key={`${one.id}-${one.side}`}>
            <button type="button" onClick={() => onChoose(one.id, one.side)}>
              <b>{shortId(one.id)}</b> {one.name}
              {paired(one, places) && `, ${one.side}`}
              <span>{one.distance_cm === 0 ? "inside" : `${one.distance_cm.toFixed(1)} cm`}</span>
            </button>
          </li>
        ))}
      </ul>
      {marks.map((one) => (
        <p key={one.id}>
          {one.distance_cm.toFixed(1)} cm from the {one.name}
        </p>
      ))}
    </section>
  );
}

/** Whether both sides of one thing are near: then each says which it is. */
const paired = (one: Schema["Nearby"], all: Schema["Nearby"][]) =>
  all.some((other) => other.id === one.id && other.side !== one.side);
