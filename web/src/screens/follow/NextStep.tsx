/** Next step: the proposal with its reasons, what the practitioner decides, and what came of it. */
import { Button, Select, Textarea } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { refresh } from "../../api/queries";
import { ErrorPanel } from "../../shared/parts";
import { dateOf, newId } from "../../shared/words";
import css from "./FollowScreen.module.css";

type Step = Schema["Proposal"]["step"];
const STEPS: Record<Step, string> = {
  go_on: "Continue",
  change_plan: "Change the plan",
  space_out: "Space out sessions",
  finish: "Finish",
  refer: "Refer",
  look_again: "Ask again",
};
const CHOICES = Object.entries(STEPS).map(([value, label]) => ({ value, label }));

export function NextStep({ complaint, personId }: { complaint: Schema["ComplaintCourse"]; personId: string }) {
  const { proposal, decisions } = complaint;
  const writes = useMay("write_health");
  return (
    <section className={css.next} aria-label="Next step">
      <h2>Next step</h2>
      <p className={css.step}>
        <strong>{proposal.label}</strong> {proposal.why}
      </p>
      {proposal.changes.length > 0 && (
        <ul className={css.changes}>
          {proposal.changes.map((one) => (
            <li key={one}>{one}</li>
          ))}
        </ul>
      )}
      {proposal.bear_in_mind.length > 0 && (
        <details className={css.mind} open>
          <summary>Keep in mind</summary>
          <ul>
            {proposal.bear_in_mind.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
        </details>
      )}
      {writes && <Decide complaint={complaint} personId={personId} />}
      {decisions.map((one) => (
        <Decided key={`${one.id} ${one.version}`} decision={one} personId={personId} writes={writes} />
      ))}
    </section>
  );
}

function Decide({ complaint, personId }: { complaint: Schema["ComplaintCourse"]; personId: string }) {
  const { proposal } = complaint;
  const [step, setStep] = useState<Step>(proposal.step);
  const [because, setBecause] = useState("");
  const queries = useQueryClient();
  const decide = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/complaints/{complaint_id}/decisions", {
          params: { path: { complaint_id: complaint.id } },
          body: { id: newId(), step, because, proposed: proposal },
        }),
      ),
    onSuccess: async () => {
      setBecause("");
      await refresh(queries, ["person", personId]);
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    decide.mutate();
  };
  return (
    <form className={css.decide} onSubmit={submit}>
      <Select
        label="You decide"
        data={CHOICES}
        value={step}
        allowDeselect={false}
        onChange={(value) => setStep((value ?? step) as Step)}
      />
      <Textarea
        label="Because"
        autosize
        minRows={1}
        value={because}
        onChange={(event) => setBecause(event.currentTarget.value)}
      />
      <Button type="submit" loading={decide.isPending}>
        Save decision
      </Button>
      {decide.isError && <ErrorPanel error={decide.error} />}
    </form>
  );
}

function Decided({
  decision,
  personId,
  writes,
}: {
  decision: Schema["DecisionOut"];
  personId: string;
  writes: boolean;
}) {
  const [words, setWords] = useState(decision.came_of);
  const [opened, setOpened] = useState(false);
  const queries = useQueryClient();
  const note = useMutation({
    mutationFn: () =>
      take(
        api.PATCH("/api/decisions/{decision_id}", {
          params: { path: { decision_id: decision.id } },
          body: { version: decision.version, came_of: words },
        }),
      ),
    onSuccess: () => refresh(queries, ["person", personId]),
  });
  return (
    <div className={css.decided}>
      <p>
        <strong>{STEPS[decision.step]}</strong>, {dateOf(decision.decided_at)}, {decision.decided_by}
        {decision.because && `: ${decision.because}`}
        {decision.step !== decision.proposed.step && (
          <small> Suggested: {decision.proposed.label.toLowerCase()}.</small>
        )}
      </p>
      {decision.came_of && !opened && <p>What came of it: {decision.came_of}</p>}
      {writes && !opened && (
        <Button size="compact-sm" variant="subtle" onClick={() => setOpened(true)}>
          {decision.came_of ? "Change" : "What came of it"}
        </Button>
      )}
      {opened && (
        <form
          className={css.decide}
          onSubmit={(event) => {
            event.preventDefault();
            note.mutate();
          }}
        >
          <Textarea
            label="What came of it"
            autosize
            value={words}
            onChange={(event) => setWords(event.currentTarget.value)}
          />
          <Button type="submit" size="compact-sm" loading={note.isPending}>
            Save
          </Button>
          {note.isError && <ErrorPanel error={note.error} />}
        </form>
      )}
    </div>
  );
}
