/** Story and screening: groups that follow a conversation; what stops the work stops it here. */
import { Button } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { refresh, safetyQuery, screeningsQuery, storyQuery } from "../../api/queries";
import { ErrorPanel, LimitStrip, Waiting } from "../../shared/parts";
import { dayOf } from "../../shared/words";
import { Ask } from "./Ask";
import { Clearances } from "./Clearances";
import css from "./StoryScreen.module.css";

type Answers = Record<string, unknown>;
export function StoryScreen() {
  const { personId } = useParams({ from: "/inside/people/$personId" });
  const safety = useQuery(safetyQuery);
  const screenings = useQuery(screeningsQuery(personId));
  if (safety.isPending || screenings.isPending) return <Waiting for="Loading the screening" />;
  if (safety.isError) return <ErrorPanel error={safety.error} />;
  if (screenings.isError) return <ErrorPanel error={screenings.error} />;
  return (
    <Screening
      personId={personId}
      groups={safety.data.questions}
      history={screenings.data}
      key={screenings.data[0]?.id}
    />
  );
}

function Screening(props: { personId: string; groups: Schema["QuestionGroup"][]; history: Schema["ScreeningOut"][] }) {
  const { personId, groups, history } = props;
  const last = history[0];
  const [answers, setAnswers] = useState<Answers>(() => {
    // What a doctor cleared is recorded by itself, with who said so.
    const { cleared: _, ...said } = last?.answers ?? {};
    return said;
  });
  const story = useQuery(storyQuery(personId));
  const queries = useQueryClient();
  const navigate = useNavigate();
  const keep = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/people/{person_id}/screenings", {
          params: { path: { person_id: personId } },
          body: { answers, in_full: true },
        }),
      ),
    onSuccess: async (kept) => {
      await refresh(queries, ["person", personId]);
      await refresh(queries, ["day"]);
      if (kept.verdict.decision === "ok") {
        void navigate({ to: "/people/$personId/complaints", params: { personId } });
      }
    },
  });
  const explicit = new Set(
    groups.flatMap((group) => group.questions.filter((one) => one.explicit).map((one) => one.id)),
  );
  const set = (id: string, value: unknown) => {
    const next = { ...answers };
    const nothing = value === undefined || (value === false && !explicit.has(id));
    if (nothing || (Array.isArray(value) && value.length === 0)) delete next[id];
    else next[id] = value;
    setAnswers(next);
  };
  const given = Object.values(answers).filter((answer) => answer !== false).length;
  return (
    <div className={css.page}>
      <div className={css.questions}>
        {story.data?.at(-1) && <p className={css.story}>{story.data.at(-1)?.told}</p>}
        {groups.map((group) => (
          <fieldset key={group.group} className={css.group} data-group={group.group}>
            <legend>{group.title}</legend>
            <p>{group.lead}</p>
            <div className={css.grid}>
              {group.questions.map((question) => (
                <Ask
                  personId={personId}
                  key={question.id}
                  question={question}
                  value={answers[question.id]}
                  onChange={(v) => set(question.id, v)}
                />
              ))}
            </div>
          </fieldset>
        ))}
      </div>
      <aside className={css.side}>
        <h2>{given === 0 ? "No concerns reported" : `${given} positive ${given === 1 ? "answer" : "answers"}`}</h2>
        <p>
          Anything not ticked counts as no. This supports care and is not a diagnosis; if in doubt, refer. Follow the
          rules where you work.
        </p>
        {keep.isError && <ErrorPanel error={keep.error} />}
        <Button size="md" onClick={() => keep.mutate()} loading={keep.isPending}>
          Save answers
        </Button>
        {last && <Clearances personId={personId} stopping={last.verdict.reasons} />}
        {history.length > 0 && (
          <>
            <h3>Before</h3>
            <ol className={css.history}>
              {history.map((screening) => (
                <li key={screening.id}>
                  <time>{dayOf(screening.answered_at)}</time>
                  {!screening.in_full && <em>individual answers added</em>}
                  {screening.limits.length > 0 ? (
                    <LimitStrip limits={screening.limits} more={9} />
                  ) : (
                    <span>{screening.verdict.decision === "ok" ? "no limits" : "no session"}</span>
                  )}
                </li>
              ))}
            </ol>
          </>
        )}
      </aside>
    </div>
  );
}
