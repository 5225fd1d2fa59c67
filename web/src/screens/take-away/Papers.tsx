/** Letters to a doctor or midwife and summaries for the person: asked for, made meanwhile, read, edited, sent. */
import { Button, Checkbox, NativeSelect, Progress, Textarea, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { papersQuery } from "../../api/between";
import { api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { complaintsQuery, consentsQuery, contactQuery, personQuery, refresh } from "../../api/queries";
import { DayInput } from "../../shared/DayInput";
import desk from "../../shared/desk.module.css";
import { ErrorPanel, Waiting } from "../../shared/parts";
import { clock, dateOf, isoDay, newId } from "../../shared/words";
import css from "./TakeAwayScreen.module.css";

type Paper = Schema["PaperOut"];
type Kind = Paper["kind"];
type Wish = Omit<Schema["NewPaper"], "id">;
const MAKING: Paper["state"][] = ["waiting", "making"];

function useMake(personId: string, onDone?: () => void) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (wish: Wish) =>
      take(
        api.POST("/api/people/{person_id}/papers", {
          params: { path: { person_id: personId } },
          body: { ...wish, id: newId() },
        }),
      ),
    onSuccess: async () => {
      await refresh(queries, papersQuery(personId).queryKey);
      onDone?.();
    },
  });
}

export function Papers({ personId }: { personId: string }) {
  const papers = useQuery(papersQuery(personId));
  const writes = useMay("write_health");
  return (
    <section className={desk.section} aria-label="Letters and summaries">
      <h2>Letters and summaries</h2>
      {writes && <NewPaper personId={personId} />}
      {papers.isPending && <Waiting for="Loading letters" />}
      {papers.isError && <ErrorPanel error={papers.error} />}
      {papers.data?.map((paper) => (
        <One key={paper.id} paper={paper} personId={personId} />
      ))}
    </section>
  );
}

function NewPaper({ personId }: { personId: string }) {
  const person = useQuery(personQuery(personId));
  const contact = useQuery(contactQuery(personId));
  const complaints = useQuery(complaintsQuery(personId));
  const consents = useQuery(consentsQuery(personId));
  const [kind, setKind] = useState<Kind>("doctor");
  const [said, setSaid] = useState<{ recipient?: string; address: string; asked_of_you: string; note: string }>({
    address: "",
    asked_of_you: "",
    note: "",
  });
  const [due, setDue] = useState("");
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const make = useMake(personId);
  const name = person.data?.given_name ?? "the person";
  const agreed = consents.data?.find((one) => one.about === "letters")?.holds;
  // Whose doctor it is stands in the file, with whatever else is there; the first line is the name.
  const doctor = contact.data?.doctor?.split("\n")[0] ?? "";
  const recipient = said.recipient ?? (kind === "doctor" ? doctor : "");
  const chosen = complaints.data?.filter((one) => !left.has(one.id)).map((one) => one.id) ?? [];
  const toOthers = kind !== "summary";
  const submit = (event: FormEvent) => {
    event.preventDefault();
    make.mutate({
      ...said,
      kind,
      recipient: kind === "summary" ? "" : recipient,
      answer_due: toOthers && due ? due : null,
      complaint_ids: chosen,
    });
  };
  return (
    <form className={desk.form} onSubmit={submit} aria-label="New letter">
      <div className={desk.row}>
        <NativeSelect
          label="Type"
          value={kind}
          onChange={(event) => setKind(event.currentTarget.value as Kind)}
          data={[
            { value: "doctor", label: "Letter to a doctor" },
            { value: "midwife", label: "Letter to a midwife" },
            { value: "summary", label: `Summary for ${name}` },
          ]}
        />
        {toOthers && (
          <TextInput
            label="To"
            maxLength={120}
            value={recipient}
            onChange={(event) => setSaid({ ...said, recipient: event.currentTarget.value })}
          />
        )}
        {toOthers && <DayInput label="Reply expected by" value={due} onChange={setDue} />}
      </div>
      {toOthers && agreed === false && (
        <p className={css.consent} role="status">
          {name} has not agreed to letters.{" "}
          <Link to="/people/$personId/file" params={{ personId }}>
            Record the consent
          </Link>{" "}
          first.
        </p>
      )}
      <fieldset className={css.about}>
        <legend>About</legend>
        {complaints.data?.map((one) => (
          <Checkbox
            key={one.id}
            label={one.name}
            checked={!left.has(one.id)}
            onChange={() => {
              const now = new Set(left);
              if (!now.delete(one.id)) now.add(one.id);
              setLeft(now);
            }}
          />
        ))}
      </fieldset>
      <Textarea
        label={toOthers ? "Your request to the reader" : `Your advice to ${name}`}
        autosize
        minRows={2}
        maxLength={4000}
        value={said.asked_of_you}
        onChange={(event) => setSaid({ ...said, asked_of_you: event.currentTarget.value })}
      />
      <Textarea
        label="Closing note"
        autosize
        maxLength={4000}
        value={said.note}
        onChange={(event) => setSaid({ ...said, note: event.currentTarget.value })}
      />
      {make.isError && <ErrorPanel error={make.error} />}
      <div className={desk.buttons}>
        <Button
          type="submit"
          loading={make.isPending}
          disabled={chosen.length === 0 || (toOthers && (agreed === false || recipient.trim() === ""))}
        >
          Create letter
        </Button>
        <span className={desk.note}>Screening, sessions, progress chart and observations are added automatically.</span>
      </div>
    </form>
  );
}

function One({ paper, personId }: { paper: Paper; personId: string }) {
  const [open, setOpen] = useState(false);
  const making = MAKING.includes(paper.state);
  return (
    <article className={css.paper}>
      <div className={desk.head}>
        <p>
          <b>
            {paper.title}
            {paper.wish.recipient ? `: ${paper.wish.recipient}` : ""}
          </b>{" "}
          <span className={desk.note}>
            {dateOf(paper.asked_at)} {clock(paper.asked_at)}, {paper.asked_by}
          </span>
        </p>
        {paper.state === "made" && (
          <div className={css.links}>
            {paper.pdf && (
              <a href={`/api/papers/${paper.id}/letter.pdf`} target="_blank" rel="noreferrer">
                PDF
              </a>
            )}
            <a href={`/api/papers/${paper.id}/letter.txt`} download="letter.txt">
              Text
            </a>
            <Button size="compact-sm" variant="default" aria-expanded={open} onClick={() => setOpen(!open)}>
              {open ? "Close" : "Read"}
            </Button>
          </div>
        )}
      </div>
      {making && <Making paper={paper} personId={personId} />}
      {paper.state === "failed" && <p role="alert">Could not be created: {paper.told}</p>}
      {paper.state === "cancelled" && <p className={desk.note}>Cancelled.</p>}
      {open && <Read paper={paper} personId={personId} onDone={() => setOpen(false)} />}
    </article>
  );
}

function Making({ paper, personId }: { paper: Paper; personId: string }) {
  const queries = useQueryClient();
  const cancel = useMutation({
    mutationFn: () => take(api.POST("/api/papers/{paper_id}/cancel", { params: { path: { paper_id: paper.id } } })),
    onSettled: () => refresh(queries, papersQuery(personId).queryKey),
  });
  const share = (100 * (paper.step + 0.5)) / paper.steps;
  return (
    <div className={css.making}>
      <Progress value={paper.state === "waiting" ? 4 : share} aria-label={`Making: ${paper.told || "waiting"}`} />
      <span role="status">{paper.told || "Waiting"}</span>
      <Button size="compact-sm" variant="default" loading={cancel.isPending} onClick={() => cancel.mutate()}>
        Cancel
      </Button>
    </div>
  );
}

function Read({ paper, personId, onDone }: { paper: Paper; personId: string; onDone: () => void }) {
  const [text, setText] = useState(paper.text);
  const writes = useMay("write_health");
  const queries = useQueryClient();
  const again = useMake(personId, onDone);
  const sent = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/people/{person_id}/letters", {
          params: { path: { person_id: personId } },
          body: {
            recipient: paper.wish.recipient ?? "",
            about: paper.title,
            sent_on: isoDay(new Date()),
            answer_due: paper.wish.answer_due ?? null,
          },
        }),
      ),
    onSuccess: async () => {
      await refresh(queries, ["person", personId, "letters"]);
      notifications.show({ message: "Recorded under Details, Letters." });
    },
  });
  const changed = text !== paper.text;
  return (
    <div className={desk.form}>
      {(paper.doubts?.length ?? 0) > 0 && (
        <p className={css.consent}>Avoid these words in a letter: {paper.doubts?.join(", ")}.</p>
      )}
      <Textarea
        aria-label="Letter text"
        description="# starts a heading, - a list item; [[figure 1]] is where the figure goes."
        autosize
        maxRows={24}
        value={text}
        readOnly={!writes}
        onChange={(event) => setText(event.currentTarget.value)}
      />
      {(again.isError || sent.isError) && <ErrorPanel error={again.error ?? sent.error} />}
      {writes && (
        <div className={desk.buttons}>
          <Button
            variant="default"
            disabled={!changed}
            loading={again.isPending}
            onClick={() => again.mutate({ ...paper.wish, complaint_ids: [...paper.wish.complaint_ids], text })}
          >
            Create from edited text
          </Button>
          {paper.kind !== "summary" && (
            <Button variant="default" disabled={changed} loading={sent.isPending} onClick={() => sent.mutate()}>
              Mark as sent today
            </Button>
          )}
        </div>
      )}
    </div>
  );
}
