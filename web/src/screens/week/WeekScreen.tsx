/** A week on one screen: appointments are dragged, or moved with the arrow keys; an empty hour books one. */
import "@mantine/dates/styles.layer.css";
import "@mantine/schedule/styles.layer.css";
import { Button, NativeSelect, UnstyledButton } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { type ScheduleEventData, WeekView } from "@mantine/schedule";
import { IconChevronLeft, IconChevronRight, IconPlus } from "@tabler/icons-react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { type KeyboardEvent, type RefObject, useEffect, useMemo, useRef, useState } from "react";
import { type Appointment, appointmentsChanged, weekQuery } from "../../api/booking";
import { api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { practitionersQuery, useMe } from "../../api/queries";
import { Booking, said, type Wanted } from "../../shared/booking/Booking";
import { daysOn, momentOf, mondayOf, wallClock } from "../../shared/days";
import desk from "../../shared/desk.module.css";
import { useKeys } from "../../shared/keys";
import { ErrorPanel, Waiting } from "../../shared/parts";
import { dateOf, isoDay } from "../../shared/words";
import css from "./WeekScreen.module.css";

const STEP_MIN = 15;
const HOUR_PX = 62;

export function WeekScreen() {
  const { of } = useSearch({ from: "/inside/week" });
  const navigate = useNavigate();
  const me = useMe();
  const books = useMay("book");
  const zone = me.data?.time_zone ?? "UTC";
  const first = mondayOf(of ?? isoDay(new Date()));
  const week = useQuery(weekQuery(first));
  const colleagues = useQuery(practitionersQuery);
  const [who, setWho] = useState("");
  const [wanted, setWanted] = useState<Wanted>();
  const move = useMove(zone);
  const go = (day: string) => void navigate({ to: "/week", search: { of: day } });
  useKeys(
    wanted
      ? {}
      : {
          arrowLeft: () => go(daysOn(first, -7)),
          arrowRight: () => go(daysOn(first, 7)),
          t: () => go(isoDay(new Date())),
          b: books ? () => setWanted({}) : undefined,
        },
  );
  const shown = useMemo(
    () => week.data?.appointments.filter((one) => who === "" || one.practitioner_id === who) ?? [],
    [week.data, who],
  );
  const events = useMemo(() => shown.map((one) => asEvent(one, zone)), [shown, zone]);
  const hours = hoursShown(week.data, zone);
  const of_id = (id: string | number) => shown.find((one) => one.visit_id === id);
  const treats = colleagues.data?.filter((one) => one.treats) ?? [];
  const page = useRef<HTMLDivElement>(null);
  useNamedDays(page, first, week.isSuccess);
  return (
    <div className={css.page} ref={page}>
      <div className={desk.head}>
        <div>
          <h1>Week of {dateOf(first)}</h1>
          <p className={desk.note}>
            {counted(shown.filter((one) => one.attendance === "expected").length)} Drag, or choose one and use the arrow
            keys; Enter opens it.
          </p>
        </div>
        {treats.length > 1 && (
          <NativeSelect
            aria-label="Practitioner"
            value={who}
            onChange={(event) => setWho(event.currentTarget.value)}
            data={[{ value: "", label: "Everyone" }, ...treats.map((one) => ({ value: one.id, label: one.name }))]}
          />
        )}
        <div className={desk.buttons}>
          <Button variant="default" aria-label="Week before" onClick={() => go(daysOn(first, -7))}>
            <IconChevronLeft size={18} />
          </Button>
          <Button variant="default" onClick={() => go(isoDay(new Date()))}>
            This week
          </Button>
          <Button variant="default" aria-label="Next week" onClick={() => go(daysOn(first, 7))}>
            <IconChevronRight size={18} />
          </Button>
          {books && (
            <Button leftSection={<IconPlus size={18} />} onClick={() => setWanted({})}>
              Book
            </Button>
          )}
        </div>
      </div>
      {week.isPending && <Waiting for="Loading the week" />}
      {week.isError && <ErrorPanel error={week.error} retry={() => void week.refetch()} />}
      {week.data && (
        <WeekView
          className={css.week}
          date={first}
          events={events}
          withHeader={false}
          withAllDaySlots={false}
          withWeekNumber={false}
          withWeekendDays={hours.weekend}
          highlightToday
          highlightBusinessHours
          businessHours={hours.business}
          startTime={hours.from}
          endTime={hours.to}
          intervalMinutes={60}
          eventDragInterval={STEP_MIN}
          slotHeight={HOUR_PX}
          getCurrentTime={() => wallClock(new Date().toISOString(), zone)}
          withEventsDragAndDrop={books}
          canDragEvent={(event) => canMove(of_id(event.id))}
          onEventDrop={({ eventId, newStart }) => {
            const one = of_id(eventId);
            if (one) move.mutate({ one, starts_at: momentOf(newStart, zone) });
          }}
          onDateChange={(day) => void navigate({ to: "/", search: { on: day } })}
          onTimeSlotClick={({ slotStart }) => books && setWanted({ startsAt: momentOf(slotStart, zone) })}
          onEventClick={(event) => setWanted({ appointment: of_id(event.id) })}
          renderEvent={(event, props) => (
            <EventButton
              {...props}
              one={of_id(event.id)}
              zone={zone}
              onMove={books ? (one, starts_at) => move.mutate({ one, starts_at }) : undefined}
            />
          )}
        />
      )}
      {wanted && <Booking wanted={wanted} onClose={() => setWanted(undefined)} />}
    </div>
  );
}

/** The schedule calls its days "Weekday 2026-03-02" whatever it shows; without a name of its own each is called by what it shows. */
function useNamedDays(page: RefObject<HTMLElement | null>, first: string, there: boolean) {
  // biome-ignore lint/correctness/useExhaustiveDependencies: the days are drawn anew with the week
  useEffect(() => {
    for (const day of page.current?.querySelectorAll<HTMLElement>(".mantine-WeekView-weekViewDayLabel") ?? []) {
      day.removeAttribute("aria-label");
    }
  }, [first, there, page]);
}

const counted = (count: number) => (count === 1 ? "1 appointment." : `${count} appointments.`);

const canMove = (one: Appointment | undefined) =>
  one !== undefined && one.attendance === "expected" && one.treatment === "not_begun";

function useMove(zone: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ one, starts_at }: { one: Appointment; starts_at: string }) =>
      take(
        api.PATCH("/api/appointments/{visit_id}", {
          params: { path: { visit_id: one.visit_id } },
          body: { version: one.version, starts_at, no_place: false },
        }),
      ),
    onMutate: ({ one, starts_at }) => {
      // It moves at once; the server's answer, or its refusal, follows.
      queries.setQueriesData<Schema["Week"]>(
        { queryKey: ["appointments"] },
        (old) =>
          old && {
            ...old,
            appointments: old.appointments.map((other) =>
              other.visit_id === one.visit_id ? { ...other, starts_at } : other,
            ),
          },
      );
    },
    onSuccess: (moved) => notifications.show({ message: said(moved) }),
    onError: (error, { one }) =>
      notifications.show({
        message: `${one.given_name} stays at ${wallClock(one.starts_at, zone).slice(11, 16)}: ${error.message}`,
      }),
    onSettled: (_, __, { one }) => appointmentsChanged(queries, one.person_id),
  });
}

function asEvent(one: Appointment, zone: string): ScheduleEventData {
  const ends = new Date(new Date(one.starts_at).getTime() + one.minutes * 60_000).toISOString();
  return {
    id: one.visit_id,
    title: `${one.given_name} ${one.family_name}`.trim(),
    start: wallClock(one.starts_at, zone),
    end: wallClock(ends, zone),
    color: "ink",
  };
}

/** From when to when the week is drawn: the working hours, and whatever lies outside them. */
function hoursShown(week: Schema["Week"] | undefined, zone: string) {
  const spans = Object.values(week?.hours ?? {});
  const begun = week?.appointments.map((one) => Number(wallClock(one.starts_at, zone).slice(11, 13))) ?? [];
  const from = Math.min(9, ...spans.map((span) => Number(span.opens.slice(0, 2))), ...begun);
  const closing = spans.map((span) => Math.ceil(Number(span.closes.slice(0, 2)) + Number(span.closes.slice(3)) / 60));
  const to = Math.max(17, ...closing, ...begun.map((hour) => hour + 2));
  const two = (hour: number) => `${String(hour).padStart(2, "0")}:00:00`;
  // The schedule counts days from Sunday, the practice from Monday.
  const business = Object.fromEntries(
    Array.from({ length: 7 }, (_, day) => {
      const span = week?.hours[(day + 6) % 7];
      return [day, span ? ([`${span.opens}:00`, `${span.closes}:00`] as [string, string]) : null];
    }),
  );
  const onWeekend = week?.appointments.some(
    (one) => new Date(`${wallClock(one.starts_at, zone).slice(0, 10)}T00:00:00Z`).getUTCDay() % 6 === 0,
  );
  const weekend = Boolean(onWeekend || week?.hours[5] || week?.hours[6]);
  return { from: two(from), to: to >= 24 ? "23:59:59" : two(to), business, weekend };
}

type EventProps = React.ComponentPropsWithoutRef<"button"> & {
  one: Appointment | undefined;
  zone: string;
  onMove: ((one: Appointment, starts_at: string) => void) | undefined;
};

/** An appointment in the week: its time, its person; arrow keys move it by a quarter of an hour or a day. */
function EventButton({ one, zone, onMove, children: _, ...props }: EventProps) {
  const button = useRef<HTMLButtonElement>(null);
  if (!one) return <UnstyledButton {...props} />;
  const onKeyDown = (event: KeyboardEvent) => {
    const by = { ArrowUp: -STEP_MIN, ArrowDown: STEP_MIN }[event.key];
    const days = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!onMove || !canMove(one) || (by === undefined && days === undefined)) return;
    event.preventDefault();
    event.stopPropagation();
    const wall = wallClock(one.starts_at, zone);
    // A day on is the same time by the clock, also where the night between has 23 hours.
    const at =
      days === undefined
        ? new Date(one.starts_at)
        : new Date(momentOf(`${daysOn(wall.slice(0, 10), days)} ${wall.slice(11, 16)}`, zone));
    onMove(one, new Date(at.getTime() + (by ?? 0) * 60_000).toISOString());
  };
  return (
    <UnstyledButton
      {...props}
      ref={button}
      data-appointment={one.visit_id}
      data-own-keys
      data-attendance={one.attendance}
      data-treatment={one.treatment}
      data-clash={one.clashes.length > 0 || undefined}
      className={`${props.className ?? ""} ${css.event}`}
      onKeyDown={onKeyDown}
    >
      <span>
        <b>{wallClock(one.starts_at, zone).slice(11, 16)}</b> {one.given_name} {one.family_name}
      </span>
      <small>
        {one.attendance === "cancelled"
          ? "cancelled"
          : one.attendance === "not_come"
            ? "did not come"
            : `${one.minutes} min`}
        {one.clashes.length > 0 && " · clash"}
        {one.attendance === "expected" && one.purpose && ` · ${one.purpose}`}
      </small>
    </UnstyledButton>
  );
}
