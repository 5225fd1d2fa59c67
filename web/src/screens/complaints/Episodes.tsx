/** Episodes: told many at once in a sentence, looked at before they are kept, ended when they are over. */
import { Button, NumberInput, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import type { Complaint } from "../../api/queries";
import { refresh, useMe } from "../../api/queries";
import { momentOf } from "../../shared/days";
import desk from "../../shared/desk.module.css";
import { ErrorPanel } from "../../shared/parts";
import { clock, dayOf, weekdayOf } from "../../shared/words";
import css from "./ComplaintsScreen.module.css";

type Episode = Schema["EpisodeOut"];
type Told = Schema["ToldEpisode"];
const SHOWN = 5;

export function Episodes({ complaint, personId }: { complaint: Complaint; personId: string }) {
  const [opened, setOpened] = useState(false);
  const episodic = complaint.asked[0]?.answers.pattern === "episodes" || complaint.episodes > 0;
  if (!opened) {
    return (
      <div className={desk.buttons}>
        <Button size="compact-sm" variant={episodic ? "default" : "subtle"} onClick={() => setOpened(true)}>
          {complaint.episodes ? `Episodes: ${complaint.episodes}` : "Episodes"}
        </Button>
      </div>
    );
  }
  return <Opened complaint={complaint} personId={personId} />;
}

function Opened({ complaint, personId }: { complaint: Complaint; personId: string }) {
  const writes = useMay("write_health");
  const path = { complaint_id: complaint.id };
  const episodes = useQuery({
    queryKey: ["person", personId, "episodes", complaint.id],
    queryFn: () => take(api.GET("/api/complaints/{complaint_id}/episodes", { params: { path } })),
  });
  const latest = [...(episodes.data ?? [])].reverse();
  return (
    <section className={css.episodes} aria-label={`Episodes of ${complaint.name}`}>
      {writes && <Tell complaint={complaint} personId={personId} />}
      {latest.length === 0 && episodes.data && <p className={css.meta}>No episodes recorded.</p>}
      <ul className={desk.plain}>
        {latest.slice(0, SHOWN).map((one) => (
          <Row key={one.id} episode={one} personId={personId} />
        ))}
      </ul>
      {latest.length > SHOWN && <p className={css.meta}>and {latest.length - SHOWN} before</p>}
    </section>
  );
}

function Row({ episode, personId }: { episode: Episode; personId: string }) {
  const writes = useMay("write_health");
  const queries = useQueryClient();
  const change = useMutation({
    mutationFn: (dropped: boolean) => {
      const { id, version, ...plain } = episode;
      const over = { ...plain, goes_on: false, ended_at: new Date().toISOString() };
      const body = dropped ? { version, dropped } : { version, episode: over, dropped: false };
      return take(api.PATCH("/api/episodes/{episode_id}", { params: { path: { episode_id: id } }, body }));
    },
    onSettled: () => refresh(queries, ["person", personId]),
  });
  const when = episode.day_only
    ? `${dayOf(episode.started_at)}${episode.day_said ? "" : " or about then"}`
    : `${dayOf(episode.started_at)}, ${clock(episode.started_at)}`;
  const told = [
    episode.strength !== null ? `${episode.strength} of 10` : "",
    episode.goes_on ? "ongoing" : episode.ended_at && !episode.day_only ? `until ${clock(episode.ended_at)}` : "",
    episode.trigger && `after ${episode.trigger}`,
    episode.helped && `${episode.helped} helped`,
    episode.medicine,
  ].filter(Boolean);
  return (
    <li className={css.episode}>
      <span>
        <b>{when}</b> {told.join(" · ")}
      </span>
      {writes && (
        <span className={desk.buttons}>
          {episode.goes_on && (
            <Button size="compact-sm" variant="default" onClick={() => change.mutate(false)}>
              Mark as over
            </Button>
          )}
          <Button size="compact-sm" variant="subtle" onClick={() => change.mutate(true)}>
            Remove
          </Button>
        </span>
      )}
    </li>
  );
}

/** A sentence becomes rows, which are looked at and completed before they are kept. */
function Tell({ complaint, personId }: { complaint: Complaint; personId: string }) {
  const me = useMe();
  const zone = me.data?.time_zone ?? "UTC";
  const [text, setText] = useState("");
  const [rows, setRows] = useState<(Told & { trigger: string; helped: string })[]>();
  const queries = useQueryClient();
  const read = useMutation({
    mutationFn: () => take(api.POST("/api/episodes/read", { body: { text } })),
    onSuccess: (told) => setRows(told.map((one) => ({ ...one, trigger: "", helped: "" }))),
  });
  const send = (episodes: Schema["EpisodeIn"][]) =>
    take(
      api.POST("/api/complaints/{complaint_id}/episodes", {
        params: { path: { complaint_id: complaint.id } },
        body: { episodes },
      }),
    );
  const done = async () => {
    setRows(undefined);
    setText("");
    await refresh(queries, ["person", personId]);
  };
  const keep = useMutation({
    mutationFn: () =>
      send(
        (rows ?? []).map((one) => ({
          started_at: momentOf(`${one.day} 12:00`, zone),
          goes_on: false,
          day_only: true,
          day_said: one.day_said,
          strength: one.strength,
          trigger: one.trigger,
          helped: one.helped,
          medicine: "",
          said_by: "person",
        })),
      ),
    onSuccess: done,
  });
  const begins = useMutation({
    mutationFn: () =>
      send([
        {
          started_at: new Date().toISOString(),
          goes_on: true,
          day_only: false,
          day_said: true,
          trigger: "",
          helped: "",
          medicine: "",
          said_by: "person",
        },
      ]),
    onSuccess: done,
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    read.mutate();
  };
  const failed = read.error ?? keep.error ?? begins.error;
  const set = (rank: number, change: Partial<NonNullable<typeof rows>[number]>) =>
    setRows(rows?.map((row, at) => (at === rank ? { ...row, ...change } : row)));
  return (
    <>
      <form className={desk.row} onSubmit={submit}>
        <TextInput
          aria-label="Episodes, in their own words"
          placeholder="three last week, the worst on Thursday, 8 of 10"
          maxLength={120}
          value={text}
          onChange={(event) => setText(event.currentTarget.value)}
        />
        <Button type="submit" variant="default" disabled={text.trim() === ""} style={{ flex: "none" }}>
          Read
        </Button>
        <Button variant="subtle" onClick={() => begins.mutate()} style={{ flex: "none" }}>
          An episode has started now
        </Button>
      </form>
      {failed && <ErrorPanel error={failed} />}
      {rows?.length === 0 && <p>No episodes found in this text. Enter how many, or on which days.</p>}
      {rows?.map((row, rank) => (
        <div key={row.day} className={desk.row}>
          <p>
            {weekdayOf(row.day)}
            {!row.day_said && <span className={css.meta}> or about then</span>}
            {row.worst && <b> the worst</b>}
          </p>
          <NumberInput
            aria-label={`How strong, ${row.day}`}
            placeholder="0–10"
            min={0}
            max={10}
            value={row.strength ?? ""}
            onChange={(value) => set(rank, { strength: typeof value === "number" ? value : null })}
          />
          <TextInput
            aria-label={`Trigger, ${row.day}`}
            placeholder="triggered by"
            value={row.trigger}
            onChange={(event) => set(rank, { trigger: event.currentTarget.value })}
          />
          <TextInput
            aria-label={`What helped, ${row.day}`}
            placeholder="what helped"
            value={row.helped}
            onChange={(event) => set(rank, { helped: event.currentTarget.value })}
          />
        </div>
      ))}
      {rows && rows.length > 0 && (
        <div className={desk.buttons}>
          <Button loading={keep.isPending} onClick={() => keep.mutate()}>
            Save {rows.length === 1 ? "this one" : `these ${rows.length}`}
          </Button>
          <Button variant="default" onClick={() => setRows(undefined)}>
            Cancel
          </Button>
        </div>
      )}
    </>
  );
}
