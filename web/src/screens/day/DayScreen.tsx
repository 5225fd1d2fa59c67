/** The day: who comes, what changed, what is due, and the next step in one tap. */
import { Button } from "@mantine/core";
import { useDisclosure } from "@mantine/hooks";
import { IconPlus } from "@tabler/icons-react";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import type { Schema } from "../../api/client";
import { dayQuery, useMe } from "../../api/queries";
import { Empty, LimitStrip, Trouble, Waiting } from "../../shared/parts";
import { stepPath } from "../../shared/steps";
import { clock, weekdayOf } from "../../shared/words";
import { WaitingEntries } from "../../treatment/WaitingEntries";
import css from "./DayScreen.module.css";
import { NewPerson } from "./NewPerson";

type DayVisit = Schema["DayVisit"];

export function DayScreen() {
  const day = useQuery(dayQuery);
  const me = useMe();
  const [adding, add] = useDisclosure();
  const next = day.data?.find((visit) => !visit.done);
  return (
    <div className={css.page}>
      <div className={css.head}>
        <div>
          <h1>{weekdayOf(new Date().toISOString())}</h1>
          <p className={css.place}>
            {me.data?.practice}
            {day.data && ` · ${day.data.length} visits, ${day.data.filter((visit) => visit.done).length} done`}
          </p>
        </div>
        <Button leftSection={<IconPlus size={18} />} onClick={add.open}>
          New person
        </Button>
      </div>
      <WaitingEntries />
      {day.isPending && <Waiting for="Loading the day" />}
      {day.isError && <Trouble error={day.error} retry={() => void day.refetch()} />}
      {day.data?.length === 0 && <Empty>No appointments today. Add a person, or open one under People.</Empty>}
      <ol className={css.list}>
        {day.data?.map((visit) => (
          <VisitLine key={visit.visit_id} visit={visit} isNext={visit === next} />
        ))}
      </ol>
      {me.data?.local_rules && <p className={css.rules}>{me.data.local_rules}</p>}
      <NewPerson opened={adding} onClose={add.close} />
    </div>
  );
}

function VisitLine({ visit, isNext }: { visit: DayVisit; isNext: boolean }) {
  const navigate = useNavigate();
  const state = visit.done ? "done" : isNext ? "now" : "later";
  return (
    <li className={css.line} data-state={state}>
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
