/** A choice on the person's body: the figure in its pose, the place located there, and what is shown along with it. */
import { useQuery } from "@tanstack/react-query";
import { api, type Schema, take } from "../../api/client";
import { figureQuery, findingsQuery, landmarksQuery, lastOf, placeQuery, STANDING } from "../../api/queries";
import { useShownPlaces } from "./shown";
import type { Choice, Side } from "./useChoice";

type Located = Schema["Located"];
/** `trial`: where a rule that is still being written puts its point. `step`: the step of the way that is shown. */
type Looked = { pose: string; trial: Located | null; step: number | null };

export function useOnBody(personId: string, choice: Choice, { pose, trial, step }: Looked) {
  const { id, side, group, known } = choice;
  const figure = useQuery({ ...figureQuery(personId, pose), placeholderData: lastOf(personId) });
  const shown = useShownPlaces(figure.data?.places, group, choice.plan);
  const place = useQuery({
    ...placeQuery(personId, id ?? "", side, pose),
    enabled: id !== undefined,
    placeholderData: lastOf(personId),
  });
  const located = id !== undefined && place.data?.id === id && place.data.side === side ? place.data : undefined;
  // Between two poses the figure is still in the old one: what is already in the new one waits for it.
  const settled = !figure.isPlaceholderData && !place.isPlaceholderData;
  const chosen = trial ?? (settled ? located : undefined);
  const landmarks = useQuery({ ...landmarksQuery(personId, pose), enabled: step !== null });
  const wanted = step === null ? null : (chosen?.step_landmarks[step] ?? null);
  const channel = useChannel(personId, group, side, pose);
  const findings = useQuery(findingsQuery(personId, pose));
  return {
    figure,
    /** The places of the group, in that pose. */
    shown,
    place,
    located,
    chosen,
    /** The pose that the figure is shown in: while another is on its way, still the one before. */
    pose: figure.isPlaceholderData ? figure.data?.key.split("-").at(-1) : pose,
    part: known?.part ?? (trial && figure.data ? partAt(trial.position_cm, figure.data) : undefined),
    focus: landmarkOn(landmarks.data, wanted, side),
    channel: settled ? channel : undefined,
    felt: findings.data?.filter((one) => one.entry === id && one.side === side) ?? [],
  };
}
export type OnBody = ReturnType<typeof useOnBody>;

/** The pose that a place is reached in. */
export function useItsPose(personId: string, id: string | undefined): string {
  const standing = useQuery(figureQuery(personId));
  return standing.data?.places.find((one) => one.id === id)?.pose ?? STANDING;
}

function useChannel(personId: string, group: string, side: Side, pose: string): number[][][] | undefined {
  const line = useQuery({
    queryKey: ["person", personId, "figure", "channel", group, side, pose],
    queryFn: () =>
      take(
        api.GET("/api/people/{person_id}/channels/{channel}", {
          params: { path: { person_id: personId, channel: group }, query: { side, pose } },
        }),
      ),
    enabled: /^[A-Z]{2}$/.test(group) && group !== "EX",
    staleTime: 300_000,
  });
  return line.data;
}

/** A landmark where it is on a side; figures are symmetric, so the right is the left's mirror image. */
function landmarkOn(landmarks: Schema["LandmarkOnBody"][] | undefined, id: string | null, side: Side) {
  const one = landmarks?.find((landmark) => landmark.id === id);
  if (!one) return undefined;
  const mirrored = (at: number[]) => (side === "right" ? [-(at[0] ?? 0), at[1] ?? 0, at[2] ?? 0] : at);
  return { position_cm: mirrored(one.position_cm), normal: mirrored(one.normal), name: one.name };
}

/** The body part of a point that is still being made: that of the nearest known one. */
function partAt([x = 0, y = 0, z = 0]: number[], figure: Schema["FigureOut"]): string | undefined {
  let best: { part: string; away: number } | undefined;
  for (const one of figure.places) {
    const [a = 0, b = 0, c = 0] = one.position_cm;
    const away = Math.hypot(a - x, b - y, c - z);
    if (!best || away < best.away) best = { part: one.part, away };
  }
  return best?.part;
}
