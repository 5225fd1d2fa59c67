/** The day: who comes, what changed, what is due, and the next step in one tap; other days by arrows, keys or a date. */
import { Button } from "@mantine/core";
import { useDisclosure } from "@mantine/hooks";
import { IconCalendarPlus, IconChevronLeft, IconChevronRight, IconPlus } from "@tabler/icons-react";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import type { Schema } from "../../api/client";
import { useMay } from "../../api/practice";
import { dayQuery, useMe } from "../../api/queries";
import { Booking, type Wanted } from "../../shared/booking/Booking";
import { DayInput } from "../../shared/DayInput";
import { daysOn } from "../../shared/days";
import { useKeys } from "../../shared/keys";
import { useAway } from "../../shared/network";
import { Empty, ErrorPanel, LimitStrip, Waiting } from "../../shared/parts";
import { stepPath } from "../../shared/steps";
import { clock, isoDay, weekdayOf } from "../../shared/words";
import { useDayAtHand } from "../../treatment/atHand";
import { WaitingEntries } from "../../treatment/WaitingEntries";
import { Appointments } from "./Appointments";
import css from "./DayScreen.module.css";
import { DueList } from "./DueList";
import { HomeFlags } from "./HomeFlags";
import { NewPerson } from "./NewPerson";
import { Notices } from "./Notices";

type DayVisit = Schema["DayVisit"];

export function DayScreen() {
  const { on } = useSearch({ from: "/inside/" });
  const me = useMe();
  const today = isoDay(new Date());
  const day = on ?? today;
  const navigate = useNavigate();
  const reads = useMay("read_health");
  const books = useMay("book");
  const [adding, add] = useDisclosure();
  const [wanted, setWanted] = useState<Wanted>();
  const go = (to: string) => void navigate({ to: "/", search: { on: to === today ? undefined : to } });
  useKeys(
    adding || wanted
      ? {}
      : {
          arrowLeft: () => go(daysOn(day, -1)),
          arrowRight: () => go(daysOn(day, 1)),
          t: () => go(today),
          b: books ? () => setWanted({}) : undefined,
        },
  );
  return (
    <div className={css.page}>
      <Notices />
      <div className={css.head}>
        <div>
          <h1>{weekdayOf(day)}</h1>
          <p className={css.place}>
            {me.data?.practice}
            {day === today ? ", today" : ""}
          </p>
        </div>
        <div className={css.days}>
          <Button variant="default" aria-label="Day before" onClick={() => go(daysOn(day, -1))}>
            <IconChevronLeft size={18} />
          </Button>
          <DayInput aria-label="Day" required value={day} onChange={(chosen) => chosen && go(chosen)} />
          <Button variant="default" aria-label="Next day" onClick={() => go(daysOn(day, 1))}>
            <IconChevronRight size={18} />
          </Button>
          {day !== today && (
            <Button variant="default" onClick={() => go(today)}>
              Today
            </Button>
          )}
          {books && (
            <>
              <Button variant="default" leftSection={<IconCalendarPlus size={18} />} onClick={() => setWanted({})}>
                Book
              </Button>
              <Button leftSection={<IconPlus size={18} />} onClick={add.open}>
                New person
              </Button>
            </>
          )}
        </div>
      </div>
      <WaitingEntries />
      {reads && <HomeFlags />}
      {reads ? (
        <Visits day={day} isToday={day === today} />
      ) : (
        <Appointments day={day} onOpen={(one) => setWanted({ appointment: one })} />
      )}
      {reads && day === today && <DueList onBook={setWanted} />}
      {me.data?.local_rules && <p className={css.rules}>{me.data.local_rules}</p>}
      <NewPerson opened={adding} onClose={add.close} />
      {wanted && <Booking wanted={wanted} onClose={() => setWanted(undefined)} />}
    </div>
  );
}

function Visits({ day, isToday }: { day: string; isToday: boolean }) {
  const visits = useQuery(dayQuery(day));
  const away = useAway();
  const there = useDayAtHand(visits.data, isToday && !away ? `/api/day?on=${day}` : null);
  const next = isToday ? visits.data?.find((visit) => !visit.done) : undefined;
  return (
    <>
      {visits.isPending && <Waiting for="Loading the day" />}
      {visits.isError && <ErrorPanel error={visits.error} retry={() => void visits.refetch()} />}
      {away && (
        <p role="status" className={css.rules}>
          The server is not responding. This is the day as last loaded here. Sessions marked ready can still be started.
        </p>
      )}
      {visits.data?.length === 0 && <NothingYet isToday={isToday} />}
      <ol className={css.list}>
        {visits.data?.map((visit) => (
          <VisitLine key={visit.visit_id} visit={visit} isNext={visit === next} atHand={there.has(visit.visit_id)} />
        ))}
      </ol>
      {there.size > 0 && (
        <p className={css.rules} data-testid="at-hand">
          {there.size === 1 ? "1 session" : `${there.size} sessions`} ready to use offline.
        </p>
      )}
    </>
  );
}

/** An empty day says what to do; in a new practice that is the first person. */
function NothingYet({ isToday }: { isToday: boolean }) {
  const manages = useMay("manage");
  if (!isToday) return <Empty>No appointments on this day. Press B to book one.</Empty>;
  return (
    <Empty>
      <p>No appointments today.</p>
      <p>
        <b>New person</b> adds someone who is here or coming later. <b>Book</b> makes an appointment for someone already
        on the list.{" "}
        {manages && (
          <>
            Under <Link to="/practice">Practice</Link> you add places, set your hours and invite colleagues.
          </>
        )}
      </p>
    </Empty>
  );
}

type LineProps = { visit: DayVisit; isNext: boolean; atHand: boolean };

function VisitLine({ visit, isNext, atHand }: LineProps) {
  const navigate = useNavigate();
  const state = visit.done ? "done" : isNext ? "now" : "later";
  return (
    <li className={css.line} data-state={state} data-at-hand={atHand || undefined}>
      <span className={css.time}>{clock(visit.starts_at)}</span>
      <div className={css.who}>
        <Link to="/people/$personId" params={{ personId: visit.person_id }}>
          {visit.given_name} <span>{visit.family_name}</span>
        </Link>
        <small>
          {visit.age} · {visit.minutes} min · {visit.visits_before ? `visit ${visit.visits_before + 1}` : "new"}
        </small>
      </div>
      <div className={css.news}>
        <strong>{visit.news}</strong>
        {visit.next.due.length > 0 && <span className={css.due}>{visit.next.due.join(", ")}</span>}
      </div>
      <div className={css.limits}>
        <LimitStrip limits={visit.limits} more={2} />
      </div>
      <Button
        variant={isNext ? "filled" : "default"}
        className={isNext ? css.now : undefined}
        onClick={() => void navigate({ to: stepPath(visit.next.station, visit.person_id, visit.visit_id) })}
      >
        {visit.next.label}
      </Button>
    </li>
  );
}
