/** Asking again: last time's answers are there, and only what is different needs a word. */
import { Button, SegmentedControl, TagsInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, lazy, Suspense, useState } from "react";
import { api, take } from "../../api/client";
import type { Complaint } from "../../api/queries";
import { refresh } from "../../api/queries";
import desk from "../../shared/desk.module.css";
import { ErrorPanel, Waiting } from "../../shared/parts";
import type { Side } from "../../shared/words";
import { type Answers, AskFields, DoctorsLook, NOTHING } from "./AskFields";

const PaintBody = lazy(() => import("../../body/PaintBody"));

type Props = { complaint: Complaint; personId: string; onDone: () => void };

export function AskAgain({ complaint, personId, onDone }: Props) {
  const ask = useQuery({
    queryKey: ["kind", complaint.kind],
    queryFn: () => take(api.GET("/api/complaint-kinds/{kind}", { params: { path: { kind: complaint.kind } } })),
  });
  const before: Answers = complaint.asked[0]?.answers ?? NOTHING;
  const [answers, setAnswers] = useState<Answers>(before);
  const [acts, setActs] = useState(complaint.acts.map((act) => act.words));
  const [side, setSide] = useState<Side>(complaint.side);
  const [look, setLook] = useState({ by: "", seen_on: "" });
  const queries = useQueryClient();
  const path = { complaint_id: complaint.id };
  const [painting, setPainting] = useState(false);
  const [painted, setPainted] = useState<ReadonlySet<number>>(new Set());
  const save = useMutation({
    mutationFn: async () => {
      if (painted.size) {
        await take(
          api.POST("/api/complaints/{complaint_id}/places", { params: { path }, body: { skin: [...painted] } }),
        );
      }
      const sameActs = acts.join("\n") === complaint.acts.map((act) => act.words).join("\n");
      if (!sameActs || side !== complaint.side) {
        const body = { version: complaint.version, acts, side };
        await take(api.PATCH("/api/complaints/{complaint_id}", { params: { path }, body }));
      }
      const confirmed = look.by && look.seen_on ? look : null;
      if (confirmed || JSON.stringify(answers) !== JSON.stringify(before)) {
        await take(
          api.POST("/api/complaints/{complaint_id}/answers", { params: { path }, body: { answers, confirmed } }),
        );
      }
    },
    onSuccess: async () => {
      await refresh(queries, ["person", personId]);
      onDone();
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate();
  };
  return (
    <form className={desk.form} onSubmit={submit} aria-label={`Ask again: ${complaint.name}`}>
      {complaint.checked && <DoctorsLook checked={complaint.checked} value={look} onChange={setLook} />}
      {complaint.one_sided && (
        <SegmentedControl
          aria-label="Side"
          data={["left", "both", "right"]}
          value={side}
          onChange={(value) => setSide(value as Side)}
        />
      )}
      <TagsInput
        label="Activity affected"
        data={[...(ask.data?.acts ?? [])]}
        maxTags={3}
        value={acts}
        onChange={setActs}
        acceptValueOnBlur
      />
      <AskFields questions={ask.data?.questions ?? []} value={answers} onChange={setAnswers} />
      <div className={desk.buttons}>
        <Button variant="default" onClick={() => setPainting(!painting)} aria-expanded={painting}>
          {painting ? "Hide the figure" : "Mark where it is now"}
        </Button>
      </div>
      {painting && (
        <Suspense fallback={<Waiting for="Loading the figure" />}>
          <PaintBody personId={personId} painted={painted} before={complaint.places[0]?.skin} onPaint={setPainted} />
        </Suspense>
      )}
      {save.isError && <ErrorPanel error={save.error} />}
      <div className={desk.buttons}>
        <Button type="submit" loading={save.isPending}>
          Save answers
        </Button>
        <Button variant="default" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </form>
  );
}
