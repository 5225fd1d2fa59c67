/** A person's story over time: the newest first; a piece can be added, none is changed. */
import { Button, Textarea } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { storyQuery } from "../../api/queries";
import { DayInput } from "../../shared/DayInput";
import desk from "../../shared/desk.module.css";
import { ErrorPanel } from "../../shared/parts";
import { dateOf, isoDay } from "../../shared/words";
import css from "./OverviewScreen.module.css";

export function Story({ personId, told }: { personId: string; told: readonly Schema["StoryOut"][] }) {
  const writes = useMay("write_health");
  const [adding, setAdding] = useState(false);
  const [text, setText] = useState("");
  const [on, setOn] = useState(isoDay(new Date()));
  const queries = useQueryClient();
  const add = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/people/{person_id}/story", {
          params: { path: { person_id: personId } },
          body: { told: text, told_on: on },
        }),
      ),
    onSuccess: (now) => {
      queries.setQueryData(storyQuery(personId).queryKey, now);
      setText("");
      setAdding(false);
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    add.mutate();
  };
  return (
    <section className={desk.section}>
      <h2>History</h2>
      {[...told].reverse().map((piece, rank) => (
        <article key={piece.id} className={rank === 0 ? css.story : css.earlier}>
          <p>{piece.told}</p>
          <small>
            {dateOf(piece.told_on)}
            {piece.written_by && `, ${piece.written_by}`}
          </small>
        </article>
      ))}
      {told.length === 0 && !adding && <p className={desk.note}>No history yet.</p>}
      {adding ? (
        <form className={desk.form} onSubmit={submit}>
          <Textarea
            label="History, in their own words"
            description="In their words"
            autosize
            minRows={3}
            required
            withAsterisk={false}
            data-autofocus
            value={text}
            onChange={(event) => setText(event.currentTarget.value)}
          />
          <DayInput label="Date" value={on} onChange={setOn} />
          {add.isError && <ErrorPanel error={add.error} />}
          <div className={desk.buttons}>
            <Button type="submit" loading={add.isPending}>
              Add to history
            </Button>
            <Button variant="default" onClick={() => setAdding(false)}>
              Cancel
            </Button>
          </div>
        </form>
      ) : (
        writes && (
          <div className={desk.buttons}>
            <Button variant="default" onClick={() => setAdding(true)}>
              Add to history
            </Button>
          </div>
        )
      )}
    </section>
  );
}
