/** Rating a complaint and what it hinders, 0 to 10, for a moment of a visit or from home. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Schema, take } from "../../api/client";
import { type Complaint, refresh } from "../../api/queries";
import { ErrorPanel, Scale } from "../../shared/parts";
import { newId } from "../../shared/words";

type Rating = Complaint["ratings"][number];
export type Moment = "before" | "after" | "home";

/** The last rating of a moment of a visit; null where none was given. */
export function ratingAt(ratings: readonly Rating[], moment: Moment, visitId: string | undefined): number | null {
  if (moment === "home") return null;
  return ratings.filter((one) => one.moment === moment && one.visit_id === visitId).at(-1)?.value ?? null;
}

/** Something that is rated: a complaint, or what it hinders. */
export type Rated = {
  id: string;
  words: string;
  low?: string;
  high?: string;
  ratings: readonly Rating[];
  send: (body: Schema["NewRating"]) => Promise<Complaint>;
};

/** A complaint and its acts, in the order in which they are always rated. */
export function ratedOf(complaint: Complaint): Rated[] {
  const path = { complaint_id: complaint.id };
  return [
    {
      id: complaint.id,
      words: complaint.name,
      ratings: complaint.ratings,
      send: (body) => take(api.POST("/api/complaints/{complaint_id}/ratings", { params: { path }, body })),
    },
    ...complaint.acts.map(
      (act): Rated => ({
        id: act.id,
        words: act.words,
        low: "no difficulty",
        high: "unable to do it",
        ratings: act.ratings,
        send: (body) =>
          take(
            api.POST("/api/complaints/{complaint_id}/acts/{act_id}/ratings", {
              params: { path: { ...path, act_id: act.id } },
              body,
            }),
          ),
      }),
    ),
  ];
}

/** Keep a rating, and ask anew for what it changes. */
export function useRate(personId: string, moment: Moment, visitId: string | undefined) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ of, value }: { of: Rated; value: number }) =>
      of.send({ id: newId(), value, moment, visit_id: moment === "home" ? null : (visitId ?? null) }),
    onSuccess: () => {
      void refresh(queries, ["person", personId]);
      void refresh(queries, ["day"]);
    },
  });
}

type LineProps = { of: Rated; moment: Moment; visitId: string | undefined; personId: string };

export function RateLine({ of, moment, visitId, personId }: LineProps) {
  const rate = useRate(personId, moment, visitId);
  return (
    <>
      <Scale
        label={`${of.words}, 0 to 10`}
        low={of.low}
        high={of.high}
        value={rate.isPending ? rate.variables.value : ratingAt(of.ratings, moment, visitId)}
        onChange={(value) => rate.mutate({ of, value })}
      />
      {rate.isError && <ErrorPanel error={rate.error} />}
    </>
  );
}
