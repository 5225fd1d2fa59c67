/** An episode: it has begun, or it is over. When, how strong, what set it off, what helped. */
import { useState } from "react";
import css from "./Diary.module.css";
import type { Shown } from "./device";
import { Numbers } from "./Numbers";
import type { Diary } from "./useDiary";

type Complaint = Shown["complaints"][number];
const HOURS_AGO = [0, 1, 3, 6] as const;
const inWords = (hours: number) => (hours === 0 ? "just now" : hours === 1 ? "an hour ago" : `${hours} hours ago`);
const clock = (iso: string) =>
  new Date(iso).toLocaleString("en-GB", { weekday: "short", hour: "2-digit", minute: "2-digit" });

type Props = { complaints: Complaint[]; diary: Diary; onDone: () => void };

export function Episode({ complaints, diary, onDone }: Props) {
  const going = diary.home?.episode;
  if (going) return <Over since={going.since} id={going.id} diary={diary} onDone={onDone} />;
  return <Begun complaints={complaints} diary={diary} onDone={onDone} />;
}

function When({ value, onChange, label }: { value: string; onChange: (iso: string) => void; label: string }) {
  const [ago, setAgo] = useState<number | null>(0);
  const local = (iso: string) => {
    const at = new Date(iso);
    return new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
  };
  return (
    <fieldset className={css.when} aria-label={label}>
      <legend>{label}</legend>
      {HOURS_AGO.map((hours) => (
        <button
          key={hours}
          type="button"
          aria-pressed={ago === hours}
          onClick={() => {
            setAgo(hours);
            onChange(new Date(Date.now() - hours * 3_600_000).toISOString());
          }}
        >
          {inWords(hours)}
        </button>
      ))}
      <input
        type="datetime-local"
        aria-label={`${label}: day and time`}
        value={local(value)}
        max={local(new Date().toISOString())}
        onChange={(event) => {
          if (!event.currentTarget.value) return;
          setAgo(null);
          onChange(new Date(event.currentTarget.value).toISOString());
        }}
      />
    </fieldset>
  );
}

function Begun({ complaints, diary, onDone }: Props) {
  const [complaint, setComplaint] = useState(complaints[0]?.id ?? "");
  const [at, setAt] = useState(() => new Date().toISOString());
  const [strength, setStrength] = useState<number | null>(null);
  const [trigger, setTrigger] = useState("");
  const save = () => {
    const id = crypto.randomUUID();
    diary.say(
      {
        kind: "episode",
        id,
        complaint_id: complaint,
        at,
        ended_at: null,
        strength,
        trigger: trigger.trim(),
        helped: "",
      },
      "Episode saved",
      () => diary.episode(null),
    );
    diary.episode({ id, complaintId: complaint, since: at });
    onDone();
  };
  return (
    <section className={css.panel} aria-label="An episode">
      <h1>An episode</h1>
      {complaints.length > 1 && (
        <fieldset className={css.when} aria-label="Of what">
          {complaints.map((one) => (
            <button key={one.id} type="button" aria-pressed={one.id === complaint} onClick={() => setComplaint(one.id)}>
              {one.name}
            </button>
          ))}
        </fieldset>
      )}
      <When label="It began" value={at} onChange={setAt} />
      <p className={css.ask}>How strong?</p>
      <Numbers label="How strong" low="none" high="the worst" chosen={strength} onChoose={setStrength} />
      <label className={css.field}>
        What triggered it, if anything
        <input value={trigger} maxLength={120} onChange={(event) => setTrigger(event.currentTarget.value)} />
      </label>
      <button type="button" className={css.big} onClick={save}>
        Save episode
      </button>
    </section>
  );
}

function Over({ id, since, diary, onDone }: { id: string; since: string; diary: Diary; onDone: () => void }) {
  const [at, setAt] = useState(() => new Date().toISOString());
  const [helped, setHelped] = useState("");
  const going = diary.home?.episode ?? null;
  const save = () => {
    diary.say({ kind: "episode_over", episode_id: id, at, helped: helped.trim() }, "Episode over", () =>
      diary.episode(going),
    );
    diary.episode(null);
    onDone();
  };
  return (
    <section className={css.panel} aria-label="Episode going on">
      <h1>Since {clock(since)}</h1>
      <When label="It was over" value={at} onChange={setAt} />
      <label className={css.field}>
        What helped, if anything
        <input value={helped} maxLength={120} onChange={(event) => setHelped(event.currentTarget.value)} />
      </label>
      <button type="button" className={css.big} onClick={save}>
        It is over
      </button>
    </section>
  );
}
