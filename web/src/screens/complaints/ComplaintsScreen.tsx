/** Complaints: what troubles the person, where, what it hinders; rated before, after and from home. */
import { Button, NativeSelect, SegmentedControl, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { complaintsQuery, kindsQuery, refresh, todayQuery } from "../../api/queries";
import { Empty, Scale, Trouble, Waiting } from "../../shared/parts";
import { stepPath } from "../../shared/steps";
import { dayOf, newId, type Side, sideWords } from "../../shared/words";
import css from "./ComplaintsScreen.module.css";

type Complaint = Schema["ComplaintOut"];
type Moment = "before" | "after" | "home";
const MOMENTS: { value: Moment; label: string }[] = [
  { value: "before", label: "Before today" },
  { value: "after", label: "After today" },
  { value: "home", label: "From home" },
];

export function ComplaintsScreen() {
  const { personId } = useParams({ from: "/inside/people/$personId" });
  const complaints = useQuery(complaintsQuery(personId));
  const today = useQuery(todayQuery(personId));
  const { moment: asked } = useSearch({ from: "/inside/people/$personId/complaints" });
  const [chosen, setChosen] = useState<Moment | null>(asked ?? null);
  const navigate = useNavigate();
  if (complaints.isPending || today.isPending) return <Waiting for="Loading complaints" />;
  if (complaints.isError) return <Trouble error={complaints.error} retry={() => void complaints.refetch()} />;
  const visit = today.data ?? undefined;
  const moment: Moment = chosen ?? (!visit ? "home" : visit.next.station === "rate_after" ? "after" : "before");
  const rated = complaints.data.every((c) => ratingAt(c, moment, visit?.visit_id) !== null);
  const onward = visit && !["complaints", "rate_before", "rate_after"].includes(visit.next.station);
  return (
    <div className={css.page}>
      <div className={css.list}>
        <div className={css.head}>
          <h2>How strong is it now?</h2>
          <SegmentedControl
            aria-label="When"
            data={visit ? MOMENTS : MOMENTS.slice(2)}
            value={moment}
            onChange={(value) => setChosen(value as Moment)}
          />
        </div>
        {complaints.data.length === 0 && <Empty>No complaint yet. Add the first one on the right.</Empty>}
        {complaints.data.map((complaint) => (
          <Rate
            key={complaint.id}
            complaint={complaint}
            moment={moment}
            visitId={visit?.visit_id}
            personId={personId}
          />
        ))}
        {visit && onward && rated && complaints.data.length > 0 && (
          <Button
            size="md"
            className={css.onward}
            onClick={() => void navigate({ to: stepPath(visit.next.station, personId, visit.visit_id) })}
          >
            Next: {visit.next.label}
          </Button>
        )}
      </div>
      <AddComplaint personId={personId} />
    </div>
  );
}

function ratingAt(complaint: Complaint, moment: Moment, visitId: string | undefined): number | null {
  const found = complaint.ratings.filter((r) => r.moment === moment && (moment === "home" || r.visit_id === visitId));
  return moment === "home" ? null : (found.at(-1)?.value ?? null);
}

function Rate(props: { complaint: Complaint; moment: Moment; visitId: string | undefined; personId: string }) {
  const { complaint, moment, visitId, personId } = props;
  const queries = useQueryClient();
  const rate = useMutation({
    mutationFn: (value: number) =>
      take(
        api.POST("/api/complaints/{complaint_id}/ratings", {
          params: { path: { complaint_id: complaint.id } },
          body: { id: newId(), value, moment, visit_id: moment === "home" ? null : visitId },
        }),
      ),
    onSuccess: () => {
      void refresh(queries, ["person", personId]);
      void refresh(queries, ["day"]);
    },
  });
  const last = complaint.ratings.filter((r) => r.moment !== "after").at(-1);
  return (
    <section className={css.complaint} aria-label={complaint.name}>
      <h3>
        {complaint.name} <span>{sideWords[complaint.side]}</span>
      </h3>
      <p className={css.meta}>
        {complaint.act ? `Hinders: ${complaint.act}.` : "No act named yet."}
        {complaint.since && ` Since ${dayOf(complaint.since)} ${complaint.since.slice(0, 4)}.`}
        {last && ` Last ${last.value}.`}
      </p>
      <Scale
        label={`${complaint.name}, 0 to 10`}
        value={rate.isPending ? rate.variables : ratingAt(complaint, moment, visitId)}
        onChange={(value) => rate.mutate(value)}
      />
      {rate.isError && <Trouble error={rate.error} />}
    </section>
  );
}

function AddComplaint({ personId }: { personId: string }) {
  const kinds = useQuery(kindsQuery);
  const [kind, setKind] = useState("");
  const [side, setSide] = useState<Side>("both");
  const [act, setAct] = useState("");
  const [since, setSince] = useState("");
  const queries = useQueryClient();
  const add = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/people/{person_id}/complaints", {
          params: { path: { person_id: personId } },
          body: { kind, side, act, since: since || null },
        }),
      ),
    onSuccess: () => {
      setKind("");
      setAct("");
      setSince("");
      void refresh(queries, ["person", personId]);
      void refresh(queries, ["day"]);
    },
  });
  const chosen = kinds.data?.find((one) => one.id === kind);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    add.mutate();
  };
  return (
    <form className={css.add} onSubmit={submit}>
      <h2>Add a complaint</h2>
      <NativeSelect
        label="What"
        value={kind}
        required
        withAsterisk={false}
        onChange={(event) => setKind(event.currentTarget.value)}
        data={[
          { value: "", label: "Choose" },
          ...(kinds.data ?? []).map((one) => ({ value: one.id, label: one.name })),
        ]}
      />
      <div>
        <span className={css.label} id="side-label">
          Side
        </span>
        <SegmentedControl
          fullWidth
          aria-labelledby="side-label"
          data={[
            { value: "left", label: "left" },
            { value: "both", label: "both" },
            { value: "right", label: "right" },
          ]}
          value={side}
          onChange={(value) => setSide(value as Side)}
        />
      </div>
      <TextInput
        label="What it stops them doing"
        description="A concrete act, rated again later"
        value={act}
        onChange={(event) => setAct(event.currentTarget.value)}
        list="acts"
      />
      <datalist id="acts">
        {chosen?.acts.map((one) => (
          <option key={one} value={one} />
        ))}
      </datalist>
      <TextInput label="Since" type="date" value={since} onChange={(event) => setSince(event.currentTarget.value)} />
      {add.isError && <Trouble error={add.error} />}
      <Button type="submit" disabled={!kind} loading={add.isPending}>
        Add
      </Button>
    </form>
  );
}
