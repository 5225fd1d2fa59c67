/** What another wish would bring, before it is taken: what comes in, what goes out, and how long it would be. */
import { Button, Loader } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { api, type Schema, take } from "../../api/client";
import { ErrorPanel } from "../../shared/parts";
import { minutesAndSeconds } from "../../shared/words";
import css from "./ComposeScreen.module.css";
import { Differences } from "./Differences";
import type { Wish } from "./useScore";

const SETTLED_MS = 350; // a number that is still being typed asks nothing

type Props = {
  visitId: string;
  version: number | undefined;
  made: Schema["Score"];
  wish: Wish;
  onTake: () => void;
  onLeave: () => void;
};

export function Preview({ visitId, version, made, wish, onTake, onLeave }: Props) {
  const [asked] = useDebouncedValue(wish, SETTLED_MS);
  const answer = useQuery({
    queryKey: ["visit", visitId, "preview", version, asked],
    queryFn: () =>
      take(api.POST("/api/visits/{visit_id}/what-if", { params: { path: { visit_id: visitId } }, body: asked })),
    enabled: asked.complaint_ids.length > 0,
    retry: false,
  });
  const would = answer.data;
  return (
    <section className={css.preview} aria-label="What would change">
      {wish.complaint_ids.length === 0 && <p>Choose what to work on.</p>}
      {answer.isPending && wish.complaint_ids.length > 0 && <Loader size="xs" color="var(--later)" />}
      {answer.isError && <ErrorPanel error={answer.error} />}
      {would && would.decision !== "ok" && <p role="alert">{would.reasons?.[0]?.text}</p>}
      {would?.decision === "ok" && (
        <>
          <p>
            <strong>{minutesAndSeconds(would.total_s)}</strong> instead of {minutesAndSeconds(made.total_s)}
          </p>
          <Differences from={made} to={would} />
        </>
      )}
      <div className={css.previewTools}>
        <Button size="xs" disabled={would?.decision !== "ok"} onClick={onTake}>
          Apply
        </Button>
        <Button size="xs" variant="default" onClick={onLeave}>
          Discard
        </Button>
      </div>
    </section>
  );
}
