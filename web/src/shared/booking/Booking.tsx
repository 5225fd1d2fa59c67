/** The dialog in which an appointment is booked, moved, cancelled or marked: when, how long, with whom, where, what for. */
import { Button, Modal, NativeSelect, NumberInput, Select, TextInput } from "@mantine/core";
import { TimeInput } from "@mantine/dates";
import { notifications } from "@mantine/notifications";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { type Appointment, appointmentsChanged, gapsQuery } from "../../api/booking";
import { api, take } from "../../api/client";
import { useMay, usePractice } from "../../api/practice";
import { peopleQuery, practitionersQuery, useMe } from "../../api/queries";
import { DayInput } from "../DayInput";
import { momentOf, wallClock } from "../days";
import desk from "../desk.module.css";
import { ErrorPanel } from "../parts";
import { clock, isoDay, weekdayOf } from "../words";
import css from "./Booking.module.css";
import { Marking } from "./Marking";

/** What is to be booked: for whom (asked for, where nobody is named), and what is known of it already. */
export type Wanted = {
  personId?: string;
  plannedId?: string;
  startsAt?: string;
  minutes?: number;
  purpose?: string;
  appointment?: Appointment;
};

type Props = { wanted: Wanted; onClose: () => void };

export function Booking({ wanted, onClose }: Props) {
  const seen = wanted.appointment;
  const me = useMe();
  const practice = usePractice();
  const reads = useMay("read_health");
  const queries = useQueryClient();
  const zone = me.data?.time_zone ?? "UTC";
  const colleagues = useQuery(practitionersQuery);
  const people = useQuery({ ...peopleQuery, enabled: !wanted.personId && !seen });
  const begins = seen?.starts_at ?? wanted.startsAt;
  const wall = begins ? wallClock(begins, zone) : undefined;
  const [person, setPerson] = useState<string | null>(seen?.person_id ?? wanted.personId ?? null);
  const [day, setDay] = useState(wall?.slice(0, 10) ?? isoDay(new Date()));
  const [time, setTime] = useState(wall?.slice(11, 16) ?? "");
  const [minutes, setMinutes] = useState(seen?.minutes ?? wanted.minutes ?? me.data?.usual_minutes ?? 45);
  const [who, setWho] = useState<string>(seen?.practitioner_id ?? "");
  const [place, setPlace] = useState<string>(seen?.place_id ?? "");
  const [purpose, setPurpose] = useState(seen?.purpose ?? wanted.purpose ?? "");
  const gaps = useQuery({
    ...gapsQuery({ minutes, first: day, practitioner_id: who || undefined, place_id: place || undefined }),
    enabled: minutes >= 3 && day.length === 10,
  });
  const save = useMutation({
    mutationFn: () => {
      const starts_at = momentOf(`${day} ${time}`, zone);
      const with_whom = { practitioner_id: who || null, place_id: place || null };
      if (seen) {
        const path = { visit_id: seen.visit_id };
        const body = {
          version: seen.version,
          starts_at,
          minutes,
          ...with_whom,
          no_place: !place,
          purpose: reads ? purpose : null,
        };
        return take(api.PATCH("/api/appointments/{visit_id}", { params: { path }, body }));
      }
      if (wanted.plannedId) {
        const path = { planned_id: wanted.plannedId };
        return take(
          api.POST("/api/planned/{planned_id}/book", { params: { path }, body: { starts_at, ...with_whom } }),
        );
      }
      const body = { person_id: person ?? "", starts_at, minutes, ...with_whom, purpose };
      return take(api.POST("/api/appointments", { body }));
    },
    onSuccess: async (booked) => {
      await appointmentsChanged(queries, booked.person_id);
      notifications.show({ message: said(booked), autoClose: booked.clashes.length ? 12_000 : 5_000 });
      onClose();
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate();
  };
  const places = practice.data?.places.filter((one) => !one.archived_at || one.id === place) ?? [];
  const treating = colleagues.data?.filter((one) => one.treats || one.id === who) ?? [];
  const started = seen !== undefined && seen.treatment !== "not_begun";
  return (
    <Modal
      opened
      onClose={onClose}
      size="lg"
      title={seen ? `${seen.given_name} ${seen.family_name}` : "Book an appointment"}
    >
      <form className={desk.form} onSubmit={submit}>
        {!seen && !wanted.personId && (
          <Select
            label="Person"
            searchable
            required
            withAsterisk={false}
            data-autofocus
            nothingFoundMessage="No one by that name. Add them under People."
            data={
              people.data?.map((one) => ({ value: one.id, label: `${one.given_name} ${one.family_name}`.trim() })) ?? []
            }
            value={person}
            onChange={setPerson}
          />
        )}
        <div className={desk.row}>
          <DayInput label="Day" required withAsterisk={false} disabled={started} value={day} onChange={setDay} />
          <TimeInput
            label="Time"
            required
            withAsterisk={false}
            disabled={started}
            value={time}
            onChange={(event) => setTime(event.currentTarget.value)}
          />
          <NumberInput
            label="Minutes"
            min={3}
            max={240}
            step={5}
            disabled={started || wanted.plannedId !== undefined}
            value={minutes}
            onChange={(value) => typeof value === "number" && setMinutes(value)}
          />
        </div>
        {!started && (
          <fieldset className={css.gaps}>
            <legend>Free times for {minutes} minutes</legend>
            {gaps.data?.length === 0 && <span className={desk.note}>No free time within four weeks.</span>}
            {gaps.data?.slice(0, 6).map((gap) => {
              const at = wallClock(gap.starts_at, zone);
              const chosen = at.slice(0, 10) === day && at.slice(11, 16) === time;
              return (
                <button
                  key={gap.starts_at}
                  type="button"
                  aria-pressed={chosen}
                  onClick={() => {
                    setDay(at.slice(0, 10));
                    setTime(at.slice(11, 16));
                  }}
                >
                  <b>{clock(gap.starts_at)}</b> {weekdayOf(gap.starts_at)}
                </button>
              );
            })}
          </fieldset>
        )}
        <div className={desk.row}>
          {treating.length > 1 && (
            <NativeSelect
              label="Practitioner"
              value={who}
              onChange={(event) => setWho(event.currentTarget.value)}
              data={[
                ...(seen ? [] : [{ value: "", label: "the practitioner in charge" }]),
                ...treating.map((one) => ({ value: one.id, label: one.name })),
              ]}
            />
          )}
          {places.length > 0 && (
            <NativeSelect
              label="Place"
              value={place}
              onChange={(event) => setPlace(event.currentTarget.value)}
              data={[
                { value: "", label: "not specified" },
                ...places.map((one) => ({ value: one.id, label: one.name })),
              ]}
            />
          )}
        </div>
        {reads && !wanted.plannedId && (
          <TextInput
            label="Purpose"
            placeholder="For example: second visit, sole, rate the stairs again"
            maxLength={120}
            value={purpose}
            onChange={(event) => setPurpose(event.currentTarget.value)}
          />
        )}
        {seen?.clashes.map((clash) => (
          <p key={clash.visit_id} className={css.clash}>
            Clash: {clash.words}.
          </p>
        ))}
        {save.isError && <ErrorPanel error={save.error} />}
        <div className={desk.buttons}>
          <Button type="submit" loading={save.isPending}>
            {seen ? "Save" : "Book"}
          </Button>
          <Button variant="default" onClick={onClose}>
            Close
          </Button>
        </div>
      </form>
      {seen && <Marking appointment={seen} onDone={onClose} />}
    </Modal>
  );
}

/** An appointment in a sentence, with what clashes. */
export function said(one: Appointment): string {
  const when = `${one.given_name}: ${weekdayOf(one.starts_at)}, ${clock(one.starts_at)}`;
  return one.clashes.length ? `${when}. Clash: ${one.clashes.map((clash) => clash.words).join("; ")}.` : `${when}.`;
}
