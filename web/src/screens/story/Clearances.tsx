/** What rules out a session and a doctor may lift: their word is recorded, holds until its day, and can be taken back. */
import { Button, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { clearancesQuery, refresh } from "../../api/queries";
import { DayInput } from "../../shared/DayInput";
import { ErrorPanel } from "../../shared/parts";
import { dateOf, isoDay } from "../../shared/words";
import css from "./StoryScreen.module.css";

type Props = { personId: string; stopping: Schema["Reason"][] };
const DAY_MS = 86_400_000;

export function Clearances({ personId, stopping }: Props) {
  const queries = useQueryClient();
  const given = useQuery(clearancesQuery(personId));
  const [asked, setAsked] = useState<string | null>(null);
  const changed = () => {
    setAsked(null);
    void refresh(queries, ["person", personId]);
    void refresh(queries, ["day"]);
  };
  const takeBack = useMutation({
    mutationFn: (flag: string) =>
      take(
        api.DELETE("/api/people/{person_id}/clearances/{flag}", { params: { path: { person_id: personId, flag } } }),
      ),
    onSuccess: changed,
  });
  if (stopping.length === 0 && !given.data?.length) return null;
  return (
    <section aria-label="Cleared by a doctor" className={css.clearances}>
      {stopping.length > 0 && (
        <h3>{stopping.every((reason) => reason.severity === "ask") ? "Answer first" : "No session today"}</h3>
      )}
      <ul>
        {stopping.map((reason) => (
          <li key={reason.rule} className={css.stopping}>
            {reason.text}
            {reason.clear && asked !== reason.clear && (
              <Button size="xs" variant="default" onClick={() => setAsked(reason.clear)}>
                Record medical clearance
              </Button>
            )}
            {reason.clear && asked === reason.clear && (
              <Word personId={personId} flag={reason.clear} onKept={changed} onClose={() => setAsked(null)} />
            )}
          </li>
        ))}
      </ul>
      {given.data && given.data.length > 0 && (
        <>
          <h3>Cleared</h3>
          <ul>
            {given.data.map((one) => (
              <li key={one.id} data-holds={one.holds || undefined}>
                <b>{one.granted ? one.what_for : `Withdrawn: ${one.what_for}`}</b>
                <span>
                  {one.by}, {dateOf(one.given_on)}, until {dateOf(one.until)}
                  {!one.holds && one.granted && ", expired"}
                </span>
                {one.holds && (
                  <Button size="xs" variant="default" onClick={() => takeBack.mutate(one.flag)}>
                    Withdraw clearance
                  </Button>
                )}
              </li>
            ))}
          </ul>
          {takeBack.isError && <ErrorPanel error={takeBack.error} />}
        </>
      )}
    </section>
  );
}

type WordProps = { personId: string; flag: string; onKept: () => void; onClose: () => void };

/** A doctor's word: who, when, what for, until when. */
function Word({ personId, flag, onKept, onClose }: WordProps) {
  const today = new Date();
  const [word, setWord] = useState({
    by: "",
    given_on: isoDay(today),
    what_for: "",
    until: isoDay(new Date(today.getTime() + 90 * DAY_MS)),
  });
  const keep = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/people/{person_id}/clearances", {
          params: { path: { person_id: personId } },
          body: { flag, ...word },
        }),
      ),
    onSuccess: onKept,
  });
  const field = (name: keyof typeof word, label: string, type = "text") => (
    <TextInput
      label={label}
      type={type}
      required
      withAsterisk={false}
      value={word[name]}
      onChange={(event) => setWord({ ...word, [name]: event.currentTarget.value })}
    />
  );
  const dayField = (name: "given_on" | "until", label: string) => (
    <DayInput
      label={label}
      required
      withAsterisk={false}
      value={word[name]}
      onChange={(day) => setWord({ ...word, [name]: day })}
    />
  );
  const submit = (event: FormEvent) => {
    event.preventDefault();
    keep.mutate();
  };
  return (
    <form onSubmit={submit} className={css.word}>
      {field("by", "Doctor or clinic")}
      {field("what_for", "Cleared for")}
      {dayField("given_on", "Given on")}
      {dayField("until", "Valid until")}
      {keep.isError && <ErrorPanel error={keep.error} />}
      <Button type="submit" loading={keep.isPending}>
        Save clearance
      </Button>
      <Button variant="default" onClick={onClose}>
        Close
      </Button>
    </form>
  );
}
