/** The practice, as its owners run it: what holds there, hours, places, people who work here. */
import { Button, NumberInput, Select, Switch, TagsInput, Textarea, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { useChangePractice, usePractice } from "../../api/practice";
import { useMe } from "../../api/queries";
import desk from "../../shared/desk.module.css";
import { Empty, ErrorPanel, Waiting } from "../../shared/parts";
import { Hours } from "./Hours";
import { Staff } from "./Staff";

type Practice = Schema["PracticeOut"];

export function PracticeScreen() {
  const practice = usePractice();
  if (practice.isPending) return <Waiting for="Loading the practice" />;
  if (practice.isError) return <ErrorPanel error={practice.error} retry={() => void practice.refetch()} />;
  return (
    <div className={desk.page}>
      <div className={desk.head}>
        <h1>{practice.data.name}</h1>
        <Link to="/audit">Audit: who read or changed what</Link>
      </div>
      <Staff />
      <div className={desk.two}>
        <About practice={practice.data} />
        <div className={desk.form}>
          <Hours practice={practice.data} />
          <Places places={practice.data.places} />
        </div>
      </div>
    </div>
  );
}

function About({ practice }: { practice: Practice }) {
  const me = useMe();
  const [said, setSaid] = useState({
    name: practice.name,
    time_zone: practice.time_zone,
    local_rules: practice.local_rules,
    emergency: practice.emergency,
    quick_words: practice.quick_words,
  });
  const save = useChangePractice(() => notifications.show({ message: "Saved." }));
  const second = useChangePractice();
  const set = (change: Partial<typeof said>) => setSaid({ ...said, ...change });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate(said);
  };
  return (
    <section className={desk.section}>
      <h2>Practice settings</h2>
      <form className={desk.form} onSubmit={submit}>
        <TextInput
          label="Name"
          required
          withAsterisk={false}
          value={said.name}
          onChange={(event) => set({ name: event.currentTarget.value })}
        />
        <Select
          label="Time zone"
          searchable
          allowDeselect={false}
          data={[...new Set([said.time_zone, ...Intl.supportedValuesOf("timeZone")])]}
          value={said.time_zone}
          onChange={(time_zone) => time_zone && set({ time_zone })}
        />
        <Textarea
          label="Local regulations"
          autosize
          minRows={2}
          value={said.local_rules}
          onChange={(event) => set({ local_rules: event.currentTarget.value })}
        />
        <Textarea
          label="Emergency contact"
          autosize
          minRows={2}
          value={said.emergency}
          onChange={(event) => set({ emergency: event.currentTarget.value })}
        />
        <TagsInput
          label="Quick notes during a session"
          description="Each is saved as a note with one tap; up to twelve."
          maxTags={12}
          value={said.quick_words}
          onChange={(quick_words) => set({ quick_words })}
        />
        {save.isError && <ErrorPanel error={save.error} />}
        <div className={desk.buttons}>
          <Button type="submit" variant="default" loading={save.isPending}>
            Save
          </Button>
        </div>
      </form>
      <Switch
        label="Require two-step verification"
        description={
          me.data?.second_factor ? "Staff without it set it up at their next sign-in." : "Set up your own first."
        }
        checked={practice.second_factor_required}
        onChange={(event) => second.mutate({ second_factor_required: event.currentTarget.checked })}
      />
      <Switch
        label="Practitioners can open only their own people's records"
        description="Opening another person's record needs a reason, which is shown in the audit."
        checked={practice.own_people_only}
        onChange={(event) => second.mutate({ own_people_only: event.currentTarget.checked })}
      />
      <Switch
        label="Show outcomes informed by earlier people"
        description="Next to each outcome, where ten or more people started with the same complaint here. The outcome without it stays visible."
        checked={practice.earlier_people}
        onChange={(event) => second.mutate({ earlier_people: event.currentTarget.checked })}
      />
      <NumberInput
        label="Sign out idle devices after"
        description="5 to 720 minutes. A session in progress keeps its device signed in."
        min={5}
        max={720}
        clampBehavior="strict"
        defaultValue={practice.idle_minutes}
        onBlur={(event) => {
          const idle_minutes = Number(event.currentTarget.value);
          if (idle_minutes >= 5 && idle_minutes !== practice.idle_minutes) second.mutate({ idle_minutes });
        }}
      />
      {second.isError && <ErrorPanel error={second.error} />}
    </section>
  );
}

function Places({ places }: { places: Practice["places"] }) {
  const [name, setName] = useState("");
  const [address, setAddress] = useState("");
  const queries = useQueryClient();
  const again = () => void queries.invalidateQueries({ queryKey: ["practice"] });
  const add = useMutation({
    mutationFn: () => take(api.POST("/api/places", { body: { name, address } })),
    onSuccess: () => {
      setName("");
      setAddress("");
      again();
    },
  });
  const change = useMutation({
    mutationFn: ({ place, archived }: { place: Schema["PlaceOut"]; archived: boolean }) =>
      take(
        api.PATCH("/api/places/{place_id}", {
          params: { path: { place_id: place.id } },
          body: { version: place.version, archived },
        }),
      ),
    onSuccess: again,
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    add.mutate();
  };
  return (
    <section className={desk.section}>
      <h2>Places</h2>
      {places.length === 0 && <Empty>No places yet. With more than one, visits show where they take place.</Empty>}
      <table className={desk.table}>
        <tbody>
          {places.map((place) => (
            <tr key={place.id}>
              <td>
                {place.name}
                {place.archived_at && <span className={desk.small}> (no longer used)</span>}
                {place.address && <div className={desk.small}>{place.address}</div>}
              </td>
              <td style={{ textAlign: "right" }}>
                <Button
                  size="compact-sm"
                  variant="default"
                  onClick={() => change.mutate({ place, archived: !place.archived_at })}
                >
                  {place.archived_at ? "Reactivate" : "Deactivate"}
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <form className={desk.row} onSubmit={submit}>
        <TextInput
          label="New place"
          required
          withAsterisk={false}
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <TextInput label="Address" value={address} onChange={(event) => setAddress(event.currentTarget.value)} />
        <Button type="submit" variant="default" loading={add.isPending} style={{ flex: "none" }}>
          Add place
        </Button>
      </form>
      {(add.isError || change.isError) && <ErrorPanel error={add.error ?? change.error} />}
    </section>
  );
}
