/** The diary: what it asks for, the way in that is shown once, and what came of those that were opened. */
import { Button, Checkbox, Switch, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { diariesQuery } from "../../api/between";
import { api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { complaintsQuery, personQuery, refresh } from "../../api/queries";
import { DayInput } from "../../shared/DayInput";
import { daysOn } from "../../shared/days";
import desk from "../../shared/desk.module.css";
import { OneTime } from "../../shared/OneTime";
import { ErrorPanel, Waiting } from "../../shared/parts";
import { OnThisMachine, Square } from "../../shared/Square";
import { dateOf, isoDay, newId } from "../../shared/words";
import css from "./AtHomeScreen.module.css";

type Diary = Schema["DiaryOut"];
const USUAL_DAYS = 42;
const stateWords: Record<Diary["state"], string> = {
  waiting: "not opened yet",
  open: "open",
  ended: "ended",
};

export function Diaries({ personId }: { personId: string }) {
  const diaries = useQuery(diariesQuery(personId));
  const person = useQuery(personQuery(personId));
  const writes = useMay("write_health");
  const name = person.data?.given_name ?? "They";
  return (
    <section className={desk.section} aria-label="Diary">
      <h2>Diary</h2>
      <p className={desk.note}>
        {name} opens it on a phone without an account and can record how things are in seconds. It works offline. The
        diary is not monitored. Entries appear on the timeline, and red flags appear on the Day page.
      </p>
      {diaries.isPending && <Waiting for="Loading the diary" />}
      {diaries.isError && <ErrorPanel error={diaries.error} />}
      {diaries.data?.map((one) => (
        <One key={one.id} diary={one} personId={personId} />
      ))}
      {writes && <Open personId={personId} name={name} />}
    </section>
  );
}

function One({ diary, personId }: { diary: Diary; personId: string }) {
  const writes = useMay("write_health");
  const queries = useQueryClient();
  const end = useMutation({
    mutationFn: () => take(api.POST("/api/diaries/{diary_id}/end", { params: { path: { diary_id: diary.id } } })),
    onSuccess: () => refresh(queries, diariesQuery(personId).queryKey),
  });
  return (
    <div className={desk.head} data-ended={diary.state === "ended" || undefined}>
      <p>
        <b>{stateWords[diary.state]}</b>, created {dateOf(diary.made_at)} by {diary.made_by}
        {diary.state !== "ended" && `, until ${dateOf(diary.until)}`}
        <span className={desk.note}>
          {diary.heard_at ? ` · last entry ${dateOf(diary.heard_at)}` : diary.opened_at ? " · no entries yet" : ""}
        </span>
      </p>
      {writes && diary.state !== "ended" && (
        <Button size="compact-sm" variant="default" loading={end.isPending} onClick={() => end.mutate()}>
          End now
        </Button>
      )}
      {end.isError && <ErrorPanel error={end.error} />}
    </div>
  );
}

function Open({ personId, name }: { personId: string; name: string }) {
  const complaints = useQuery(complaintsQuery(personId));
  const open = complaints.data?.filter((one) => !one.closed_on) ?? [];
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [asks, setAsks] = useState({ acts: true, sleep: false, medicine: false });
  const [hour, setHour] = useState("20:00");
  const [until, setUntil] = useState(daysOn(isoDay(new Date()), USUAL_DAYS));
  const queries = useQueryClient();
  const make = useMutation({
    mutationFn: () => {
      const wanted = open.filter((one) => !left.has(one.id)).map((one) => one.id);
      const body = {
        id: newId(),
        until,
        asks: { ...asks, complaints: wanted, episodes: wanted, hours: hour ? [hour] : [] },
      };
      return take(api.POST("/api/people/{person_id}/diaries", { params: { path: { person_id: personId } }, body }));
    },
    onSuccess: () => refresh(queries, diariesQuery(personId).queryKey),
  });
  if (make.data) return <WayIn link={make.data} name={name} onDone={() => make.reset()} />;
  return (
    <form
      className={desk.form}
      aria-label="Open a diary"
      onSubmit={(event) => {
        event.preventDefault();
        make.mutate();
      }}
    >
      <fieldset className={css.asks}>
        <legend>Ask about</legend>
        {open.map((one) => (
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
        {open.length === 0 && (
          <p className={desk.note}>No open complaint. Notes and home pressing can still be recorded.</p>
        )}
      </fieldset>
      <div className={css.switches}>
        <Switch
          label="Activities affected"
          checked={asks.acts}
          onChange={(event) => setAsks({ ...asks, acts: event.currentTarget.checked })}
        />
        <Switch
          label="Hours of sleep"
          checked={asks.sleep}
          onChange={(event) => setAsks({ ...asks, sleep: event.currentTarget.checked })}
        />
        <Switch
          label="Medicines"
          checked={asks.medicine}
          onChange={(event) => setAsks({ ...asks, medicine: event.currentTarget.checked })}
        />
      </div>
      <div className={desk.row}>
        <TextInput
          type="time"
          label="Reminder at"
          value={hour}
          onChange={(event) => setHour(event.currentTarget.value)}
        />
        <DayInput label="Until" required value={until} onChange={setUntil} />
        <Button type="submit" variant="default" loading={make.isPending} style={{ flex: "none" }}>
          Open a diary
        </Button>
      </div>
      {make.isError && <ErrorPanel error={make.error} />}
    </form>
  );
}

function WayIn({ link, name, onDone }: { link: Schema["NewDiaryLink"]; name: string; onDone: () => void }) {
  return (
    <div className={css.wayIn}>
      <Square svg={link.qr} label="QR code of the link" />
      <div className={desk.form}>
        <OneTime
          says={`${name} scans the QR code or opens this link on a phone. It works once, within seven days, and is shown only now.`}
          address={link.address}
        />
        <OnThisMachine address={link.address} />
        <div className={desk.buttons}>
          <Button variant="default" onClick={onDone}>
            Done
          </Button>
        </div>
      </div>
    </div>
  );
}
