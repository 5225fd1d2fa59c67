/** Drafts of a visit: kept under a label, compared side by side, gone back to. */
import { Button, Modal, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { draftsQuery, refresh } from "../../api/queries";
import { ScoreView } from "../../score/ScoreView";
import { Empty, Trouble, Waiting } from "../../shared/parts";
import { clock, minutesAndSeconds } from "../../shared/words";
import css from "./ComposeScreen.module.css";
import { Differences } from "./Differences";
import type { ScoreOfVisit } from "./useScore";

type Props = { visitId: string; score: ScoreOfVisit; made: Schema["Score"]; budget_s: number; onClose: () => void };

export function Drafts({ visitId, score, made, budget_s, onClose }: Props) {
  const queries = useQueryClient();
  const drafts = useQuery(draftsQuery(visitId));
  const [label, setLabel] = useState("");
  const [compared, setCompared] = useState<string | null>(null);
  const keep = useMutation({
    mutationFn: () =>
      take(api.POST("/api/visits/{visit_id}/drafts", { params: { path: { visit_id: visitId } }, body: { label } })),
    onSuccess: () => {
      setLabel("");
      void refresh(queries, draftsQuery(visitId).queryKey);
    },
  });
  const other = drafts.data?.find((draft) => draft.id === compared);
  return (
    <Modal opened onClose={onClose} title="Drafts" size={other ? "100%" : "lg"}>
      <form
        className={css.keep}
        onSubmit={(event) => {
          event.preventDefault();
          keep.mutate();
        }}
      >
        <TextInput
          aria-label="Label of the draft"
          placeholder="with the front, gentle, short"
          value={label}
          onChange={(event) => setLabel(event.currentTarget.value)}
        />
        <Button type="submit" disabled={label.trim() === ""} loading={keep.isPending}>
          Keep this score
        </Button>
      </form>
      {keep.isError && <Trouble error={keep.error} />}
      {drafts.isPending && <Waiting for="Loading drafts" />}
      {drafts.isError && <Trouble error={drafts.error} />}
      {drafts.data?.length === 0 && <Empty>No drafts yet. Keep one before you try something else.</Empty>}
      <ul className={css.rows}>
        {drafts.data?.map((draft) => (
          <li key={draft.id}>
            <b>{draft.label}</b>
            <span>
              {clock(draft.kept_at)}, {minutesAndSeconds(draft.score.total_s)}, {draft.score.stops.length} stops
            </span>
            <Button
              size="xs"
              variant="default"
              aria-pressed={compared === draft.id}
              onClick={() => setCompared(compared === draft.id ? null : draft.id)}
            >
              Compare
            </Button>
            <Button size="xs" variant="default" onClick={() => score.restore.mutate(draft.id, { onSuccess: onClose })}>
              Go back to it
            </Button>
          </li>
        ))}
      </ul>
      {other && (
        <section aria-label="Comparison" className={css.comparison}>
          <h3>{other.label}</h3>
          <ScoreView score={other.score} lane={52} budget_s={budget_s} />
          <h3>Now</h3>
          <ScoreView score={made} lane={52} budget_s={budget_s} />
          <Differences from={other.score} to={made} />
        </section>
      )}
    </Modal>
  );
}
