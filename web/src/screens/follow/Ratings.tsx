/** The ratings as a table: for whoever reads with a screen reader, wants the numbers, or has to correct one. */
import { Button } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { refresh } from "../../api/queries";
import { ErrorPanel, Scale } from "../../shared/parts";
import { clock, dateOf, newId } from "../../shared/words";
import { BringIn } from "./BringIn";
import css from "./FollowScreen.module.css";

const MOMENTS: Record<Schema["RatingPoint"]["moment"], string> = {
  before: "before a session",
  after: "after a session",
  home: "from home",
};

export function Ratings({ complaint, personId }: { complaint: Schema["ComplaintCourse"]; personId: string }) {
  const writes = useMay("write_health");
  const [correcting, setCorrecting] = useState<string>();
  const base = `/api/complaints/${complaint.id}/course`;
  return (
    <details className={css.ratings}>
      <summary>
        {complaint.ratings.length} ratings of {complaint.name.toLowerCase()}, as a table
      </summary>
      <p className={css.files}>
        <a href={`${base}.csv`} download>
          Save as CSV
        </a>
        <a href={`${base}.svg`} download>
          Save the chart as SVG
        </a>
      </p>
      {writes && <BringIn complaint={complaint} personId={personId} />}
      <table>
        <thead>
          <tr>
            <th scope="col">When</th>
            <th scope="col">Rating</th>
            <th scope="col">Moment</th>
            <th scope="col">
              <span className={css.hidden}>Correct</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {[...complaint.ratings].reverse().map((one) => (
            <tr key={one.id}>
              <td>
                {dateOf(one.at)}, {clock(one.at)}
              </td>
              <td>{one.value}</td>
              <td>{MOMENTS[one.moment]}</td>
              <td>
                {writes &&
                  (correcting === one.id ? (
                    <Correct rating={one} personId={personId} done={() => setCorrecting(undefined)} />
                  ) : (
                    <Button size="compact-xs" variant="subtle" onClick={() => setCorrecting(one.id)}>
                      Correct
                    </Button>
                  ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}

function Correct({ rating, personId, done }: { rating: Schema["RatingPoint"]; personId: string; done: () => void }) {
  const queries = useQueryClient();
  const correct = useMutation({
    mutationFn: (value: number | null) =>
      take(
        api.POST("/api/ratings/{rating_id}/corrections", {
          params: { path: { rating_id: rating.id } },
          body: { id: newId(), value },
        }),
      ),
    onSuccess: async () => {
      await refresh(queries, ["person", personId]);
      done();
    },
  });
  return (
    <div>
      <Scale label="Correct value" value={rating.value} onChange={(value) => correct.mutate(value)} />
      <Button size="compact-xs" variant="default" onClick={() => correct.mutate(null)}>
        Delete rating
      </Button>{" "}
      <Button size="compact-xs" variant="subtle" onClick={done}>
        Cancel
      </Button>
      {correct.isError && <ErrorPanel error={correct.error} />}
    </div>
  );
}
