/** The log between visits: what is added by hand, and the newest entries with their corrections. */
import { Button, Checkbox, NumberInput, Select, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { refresh } from "../../api/queries";
import { DayInput } from "../../shared/DayInput";
import { Empty, ErrorPanel } from "../../shared/parts";
import { dateOf, isoDay, newId, shortId } from "../../shared/words";
import css from "./FollowScreen.module.css";

type Kind = Schema["EntryOut"]["kind"];
type Entry = Schema["EntryOut"];
const KINDS: { value: Kind; label: string }[] = [
  { value: "event", label: "Note (what happened)" },
  { value: "medicine", label: "Medicine" },
  { value: "practice", label: "Pressed at home" },
  { value: "sleep", label: "Sleep" },
];
const SAYS: { value: Entry["said_by"]; label: string }[] = [
  { value: "person", label: "the person" },
  { value: "carer", label: "a carer" },
  { value: "practitioner", label: "seen here" },
];
const SHOWN = 6;
const WHO: Record<Entry["said_by"], string> = {
  person: "",
  from_home: "from home",
  carer: "a carer",
  practitioner: "seen here",
};

export function LogPanel({
  course,
  complaint,
}: {
  course: Schema["PersonCourse"];
  complaint: Schema["ComplaintCourse"] | undefined;
}) {
  const writes = useMay("write_health");
  const [all, setAll] = useState(false);
  const [adding, setAdding] = useState(false);
  const entries = [...course.log].reverse();
  const shown = all ? entries : entries.slice(0, SHOWN);
  return (
    <section className={css.log} aria-label="Between visits">
      <header>
        <h2>Between visits</h2>
        {writes && (
          <Button size="compact-sm" variant="default" onClick={() => setAdding(!adding)}>
            {adding ? "Cancel" : "Add an entry"}
          </Button>
        )}
      </header>
      {adding && <NewEntry personId={course.person_id} complaint={complaint} done={() => setAdding(false)} />}
      {entries.length === 0 && !adding && (
        <Empty>No entries yet. Note medicines, sleep, home pressing and anything that may explain a change.</Empty>
      )}
      <ul>
        {shown.map((one) => (
          <li key={one.id}>
            <span>{dateOf(one.on_day)}</span>
            <span>
              {told(one)}
              <small>
                {[WHO[one.said_by], one.corrects ? "corrected" : ""].filter(Boolean).map((word) => ` · ${word}`)}
              </small>
            </span>
            {writes && <TakeBack entry={one} personId={course.person_id} />}
          </li>
        ))}
      </ul>
      {entries.length > SHOWN && (
        <Button size="compact-sm" variant="subtle" onClick={() => setAll(!all)}>
          {all ? "Show the newest" : `Show all ${entries.length}`}
        </Button>
      )}
    </section>
  );
}

function told(one: Entry): string {
  const amount = one.amount;
  if (one.kind === "sleep") return `slept ${amount} hours`;
  if (one.kind === "practice") {
    const places = one.pressed.map(shortId).join(", ");
    return ["pressed at home", amount === null ? "" : `${amount} min`, places, one.words].filter(Boolean).join(", ");
  }
  if (one.kind === "medicine") {
    const until = one.until ? ` until ${dateOf(one.until)}` : "";
    return `${one.words}${amount === null ? "" : `, ${amount} times`}${until}`;
  }
  return one.other_care ? `${one.words} (other care)` : one.words;
}

function NewEntry({
  personId,
  complaint,
  done,
}: {
  personId: string;
  complaint: Schema["ComplaintCourse"] | undefined;
  done: () => void;
}) {
  const [kind, setKind] = useState<Kind>("event");
  const [day, setDay] = useState(isoDay(new Date()));
  const [amount, setAmount] = useState<number | null>(null);
  const [words, setWords] = useState("");
  const [other, setOther] = useState(false);
  const [who, setWho] = useState<Entry["said_by"]>("person");
  const queries = useQueryClient();
  const add = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/people/{person_id}/log", {
          params: { path: { person_id: personId } },
          body: {
            id: newId(),
            kind,
            on_day: day,
            amount: kind === "event" ? null : amount,
            words,
            pressed: [],
            said_by: who,
            other_care: kind === "event" && other,
            complaint_id: kind === "practice" || kind === "sleep" ? (complaint?.id ?? null) : null,
          },
        }),
      ),
    onSuccess: async () => {
      await refresh(queries, ["person", personId]);
      done();
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    add.mutate();
  };
  const amounts: Partial<Record<Kind, string>> = { medicine: "Times taken", practice: "Minutes", sleep: "Hours slept" };
  return (
    <form className={css.entry} onSubmit={submit}>
      <Select
        label="Entry type"
        data={KINDS}
        value={kind}
        allowDeselect={false}
        onChange={(value) => setKind((value ?? kind) as Kind)}
      />
      <DayInput label="Day" required value={day} onChange={setDay} />
      {kind !== "sleep" && (
        <TextInput
          label={kind === "medicine" ? "Which" : "In words"}
          required={kind !== "practice"}
          maxLength={120}
          value={words}
          onChange={(event) => setWords(event.currentTarget.value)}
        />
      )}
      {amounts[kind] && (
        <NumberInput
          label={amounts[kind]}
          required={kind === "sleep"}
          min={0}
          max={kind === "sleep" ? 24 : 10_000}
          value={amount ?? ""}
          onChange={(value) => setAmount(value === "" ? null : Number(value))}
        />
      )}
      <Select
        label="Reported by"
        data={SAYS}
        value={who}
        allowDeselect={false}
        onChange={(value) => setWho((value ?? who) as Entry["said_by"])}
      />
      {kind === "event" && (
        <Checkbox
          label="Another treatment or a new medicine"
          checked={other}
          onChange={(event) => setOther(event.currentTarget.checked)}
        />
      )}
      <Button type="submit" loading={add.isPending}>
        Save entry
      </Button>
      {add.isError && <ErrorPanel error={add.error} />}
    </form>
  );
}

function TakeBack({ entry, personId }: { entry: Entry; personId: string }) {
  const queries = useQueryClient();
  const take_back = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/log/{entry_id}/corrections", {
          params: { path: { entry_id: entry.id } },
          body: { id: newId(), entry: null },
        }),
      ),
    onSuccess: () => refresh(queries, ["person", personId]),
  });
  return (
    <Button
      size="compact-xs"
      variant="subtle"
      loading={take_back.isPending}
      aria-label={`Remove: ${told(entry)}`}
      onClick={() => take_back.mutate()}
    >
      Remove
    </Button>
  );
}
