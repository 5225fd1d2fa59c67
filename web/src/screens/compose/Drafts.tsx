/** Drafts of a visit: kept under a label, compared side by side, gone back to. */
import { Button, Modal } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { draftsQuery, refresh } from "../../api/queries";
import { ScoreView } from "../../score/ScoreView";
import { KeepAs } from "../../shared/KeepAs";
import { Empty, ErrorPanel, Waiting } from "../../shared/parts";
import { clock, minutesAndSeconds } from "../../shared/words";
import css from "./ComposeScreen.module.css";
import { Differences } from "./Differences";
import type { ScoreOfVisit } from "./useScore";

type Props = { visitId: string; score: ScoreOfVisit; made: Schema["Score"]; budget_s: number; onClose: () => void };

export function Drafts({ visitId, score, made, budget_s, onClose }: Props) {
  const queries = useQueryClient();
  const drafts = useQuery(draftsQuery(visitId));
  const [compared, setCompared] = useState<string | null>(null);
  const keep = useMutation({
    mutationFn: (label: string) =>
      take(api.POST("/api/visits/{visit_id}/drafts", { params: { path: { visit_id: visitId } }, body: { label } })),
    onSuccess: () => refresh(queries, draftsQuery(visitId).queryKey),
  });
  const other = drafts.data?.find((draft) => draft.id === compared);
  // Both on one scale of time, so that what stands above each other happens at the same minute.
  const window = { from_s: 0, to_s: Math.max(other?.score.total_s ?? 0, made.total_s, budget_s) * 1.01 };
  return (
    <Modal opened onClose={onClose} title="Drafts" size={other ? "100%" : "lg"}>
      <KeepAs
        label="Label of the draft"
        placeholder="face down, gentle, short"
        button="Save this score"
        loading={keep.isPending}
        onKeep={(label, done) => keep.mutate(label, { onSuccess: done })}
      />
      {keep.isError && <ErrorPanel error={keep.error} />}
      {drafts.isPending && <Waiting for="Loading drafts" />}
      {drafts.isError && <ErrorPanel error={drafts.error} />}
      {drafts.data?.length === 0 && <Empty>No drafts yet. Save one before you try something else.</Empty>}
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
              Restore this draft
            </Button>
          </li>
        ))}
      </ul>
      {other && (
        <section aria-label="Comparison" className={css.comparison}>
          <h3>{other.label}</h3>
          <ScoreView score={other.score} lane={52} budget_s={budget_s} window={window} />
          <h3>Now</h3>
          <ScoreView score={made} lane={52} budget_s={budget_s} window={window} />
          <Differences from={other.score} to={made} />
        </section>
      )}
    </Modal>
  );
}
