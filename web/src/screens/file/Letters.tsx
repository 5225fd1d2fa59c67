/** Letters about a person: to whom, about what, and whether an answer is awaited. */
import { Button, Textarea, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { lettersQuery, refresh } from "../../api/queries";
import { DayInput } from "../../shared/DayInput";
import desk from "../../shared/desk.module.css";
import { ErrorPanel, Waiting } from "../../shared/parts";
import { dateOf, isoDay } from "../../shared/words";

type Letter = Schema["LetterOut"];

export function Letters({ personId }: { personId: string }) {
  const letters = useQuery(lettersQuery(personId));
  const writes = useMay("write_health");
  return (
    <section className={desk.section}>
      <h2>Letters</h2>
      {letters.isPending && <Waiting for="Loading letters" />}
      {letters.isError && <ErrorPanel error={letters.error} />}
      {letters.data?.length === 0 && <p className={desk.note}>No letters recorded.</p>}
      {letters.data?.map((letter) => (
        <One key={letter.id} personId={personId} letter={letter} />
      ))}
      {writes && <NewLetter personId={personId} />}
    </section>
  );
}

function useLettersChanged(personId: string) {
  const queries = useQueryClient();
  return async () => {
    await refresh(queries, ["person", personId, "letters"]);
    await refresh(queries, ["due"]);
  };
}

function One({ personId, letter }: { personId: string; letter: Letter }) {
  const writes = useMay("write_health");
  const [answering, setAnswering] = useState(false);
  const [answer, setAnswer] = useState("");
  const changed = useLettersChanged(personId);
  const save = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/letters/{letter_id}/answer", {
          params: { path: { letter_id: letter.id } },
          body: { version: letter.version, answered_on: isoDay(new Date()), answer },
        }),
      ),
    onSuccess: async () => {
      setAnswering(false);
      await changed();
    },
  });
  return (
    <article className={desk.form}>
      <div className={desk.head}>
        <p>
          <b>To {letter.recipient}</b>, {dateOf(letter.sent_on)}: {letter.about}{" "}
          <span className={desk.note}>
            {letter.answered_on
              ? `replied ${dateOf(letter.answered_on)}: ${letter.answer}`
              : letter.answer_due
                ? `reply expected by ${dateOf(letter.answer_due)}`
                : "no reply expected"}
          </span>
        </p>
        {writes && !letter.answered_on && !answering && (
          <Button size="compact-sm" variant="default" onClick={() => setAnswering(true)}>
            Record the reply
          </Button>
        )}
      </div>
      {answering && (
        <>
          <Textarea
            label="Their reply"
            autosize
            minRows={2}
            value={answer}
            onChange={(event) => setAnswer(event.currentTarget.value)}
          />
          {save.isError && <ErrorPanel error={save.error} />}
          <div className={desk.buttons}>
            <Button disabled={answer.trim() === ""} loading={save.isPending} onClick={() => save.mutate()}>
              Save reply
            </Button>
            <Button variant="default" onClick={() => setAnswering(false)}>
              Cancel
            </Button>
          </div>
        </>
      )}
    </article>
  );
}

function NewLetter({ personId }: { personId: string }) {
  const empty = { recipient: "", about: "", sent_on: isoDay(new Date()), answer_due: "" };
  const [said, setSaid] = useState(empty);
  const changed = useLettersChanged(personId);
  const send = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/people/{person_id}/letters", {
          params: { path: { person_id: personId } },
          body: { ...said, answer_due: said.answer_due || null },
        }),
      ),
    onSuccess: async () => {
      setSaid(empty);
      await changed();
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    send.mutate();
  };
  const field = (name: keyof typeof empty, label: string, type = "text", required = true) => (
    <TextInput
      label={label}
      type={type}
      required={required}
      withAsterisk={false}
      value={said[name]}
      onChange={(event) => setSaid({ ...said, [name]: event.currentTarget.value })}
    />
  );
  const dayField = (name: "sent_on" | "answer_due", label: string, required = true) => (
    <DayInput
      label={label}
      required={required}
      withAsterisk={false}
      value={said[name]}
      onChange={(day) => setSaid({ ...said, [name]: day })}
    />
  );
  return (
    <form className={desk.form} onSubmit={submit} aria-label="New letter">
      <div className={desk.row}>
        {field("recipient", "To")}
        {field("about", "About")}
      </div>
      <div className={desk.row}>
        {dayField("sent_on", "Sent")}
        {dayField("answer_due", "Reply expected by", false)}
        <Button type="submit" variant="default" loading={send.isPending} style={{ flex: "none" }}>
          Add letter
        </Button>
      </div>
      {send.isError && <ErrorPanel error={send.error} />}
    </form>
  );
}
