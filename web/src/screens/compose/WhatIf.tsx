/** What if: the same wish with one thing otherwise, composed beside the score and taken only when it is wanted. */
import { Button, Loader } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { ErrorPanel } from "../../shared/parts";
import { minutesAndSeconds } from "../../shared/words";
import css from "./ComposeScreen.module.css";
import { Differences } from "./Differences";
import type { ScoreOfVisit, Wish } from "./useScore";
import { type Variation, variations } from "./wish";

type Props = {
  visitId: string;
  score: ScoreOfVisit;
  made: Schema["Score"];
  wish: Wish;
  schools: Schema["SchoolPage"][];
  onTake: (wish: Wish) => void;
};

export function WhatIf({ visitId, score, made, wish, schools, onTake }: Props) {
  const [asked, setAsked] = useState<Variation | null>(null);
  const answer = useQuery({
    queryKey: ["visit", visitId, "what-if", score.visit.data?.version, asked?.wish],
    queryFn: () =>
      take(
        api.POST("/api/visits/{visit_id}/what-if", {
          params: { path: { visit_id: visitId } },
          body: asked?.wish ?? wish,
        }),
      ),
    enabled: asked !== null,
    retry: false,
  });
  return (
    <section className={css.whatIf} aria-label="What if">
      <div className={css.chips}>
        {variations(wish, schools).map((one) => (
          <button
            key={one.words}
            type="button"
            aria-pressed={asked?.words === one.words}
            onClick={() => setAsked(asked?.words === one.words ? null : one)}
          >
            {one.words}
          </button>
        ))}
      </div>
      {asked && answer.isPending && <Loader size="sm" color="var(--later)" />}
      {asked && answer.isError && <ErrorPanel error={answer.error} />}
      {asked && answer.data && (
        <>
          <p>
            <strong>{minutesAndSeconds(answer.data.total_s)}</strong>, {count(answer.data)} stops, value{" "}
            {answer.data.objective.value.toFixed(1)} (now {made.objective.value.toFixed(1)}),{" "}
            {answer.data.objective.position_changes} changes of position.
          </p>
          <Differences from={made} to={answer.data} />
          <Button size="xs" variant="default" onClick={() => onTake(asked.wish)}>
            Apply
          </Button>
        </>
      )}
    </section>
  );
}

const count = (score: Schema["Score"]) =>
  score.stops.filter((stop) => stop.kind === "point" || stop.kind === "area").length;
