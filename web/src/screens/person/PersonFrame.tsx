/** The frame around one person: who, what holds for them, the stations in the order of the work. */
import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, Outlet, useNavigate, useParams } from "@tanstack/react-router";
import { personQuery, todayQuery } from "../../api/queries";
import { useDimFor } from "../../shared/dim";
import { LimitStrip, Trouble, Waiting } from "../../shared/parts";
import { stepPath } from "../../shared/steps";
import css from "./PersonFrame.module.css";

const STATIONS = [
  ["story", "Story"],
  ["complaints", "Complaints"],
  ["measures", "Measures"],
  ["find", "Find"],
  ["compose", "Compose"],
  ["follow", "Follow"],
  ["take-away", "Take away"],
] as const;

export function PersonFrame() {
  const { personId } = useParams({ from: "/inside/people/$personId" });
  const person = useQuery(personQuery(personId));
  const today = useQuery(todayQuery(personId));
  const navigate = useNavigate();
  useDimFor(person.data?.light_sensitive);
  if (person.isPending) return <Waiting for="Loading" />;
  if (person.isError) return <Trouble error={person.error} retry={() => void person.refetch()} />;
  const visit = today.data;
  const stopped = person.data.verdict.decision !== "ok";
  return (
    <div className={css.frame}>
      <header className={css.head}>
        <div className={css.name}>
          <h1>{person.data.given_name}</h1>
          <span>
            {person.data.family_name}, {person.data.age}
          </span>
        </div>
        <LimitStrip limits={person.data.limits} />
        {visit && (
          <Button
            className={css.next}
            onClick={() => void navigate({ to: stepPath(visit.next.station, personId, visit.visit_id) })}
          >
            Next: {visit.next.label}
          </Button>
        )}
      </header>
      {stopped && (
        <div className={css.stopped} role="alert" data-decision={person.data.verdict.decision}>
          {person.data.verdict.reasons.map((reason) => (
            <p key={reason.rule}>{reason.text}</p>
          ))}
        </div>
      )}
      <nav className={css.stations} aria-label="Stations">
        {STATIONS.map(([path, name]) => (
          <Link key={path} to={`/people/$personId/${path}`} params={{ personId }}>
            {name}
          </Link>
        ))}
      </nav>
      <div className={css.content}>
        <Outlet />
      </div>
    </div>
  );
}
