/** The frame around one person: who, what holds for them, the stations in the order of the work. */
import { Button } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, Outlet, useNavigate, useParams } from "@tanstack/react-router";
import { appointmentsChanged } from "../../api/booking";
import { ApiError, api, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { contactQuery, personQuery, todayQuery, useMe } from "../../api/queries";
import { useDimFor } from "../../shared/dim";
import { ErrorPanel, LimitStrip, Waiting } from "../../shared/parts";
import { stepPath } from "../../shared/steps";
import { dateOf } from "../../shared/words";
import { ContactForm } from "./ContactForm";
import { GiveReason } from "./GiveReason";
import css from "./PersonFrame.module.css";
import { Visits } from "./Visits";

const STATIONS = [
  ["story", "History"],
  ["complaints", "Complaints"],
  ["measures", "Measurements"],
  ["find", "Find"],
  ["compose", "Compose"],
  ["follow", "Progress"],
  ["at-home", "Home plan"],
  ["take-away", "Documents"],
  ["file", "Details"],
] as const;

export function PersonFrame() {
  const reads = useMay("read_health");
  const { personId } = useParams({ from: "/inside/people/$personId" });
  return reads ? <Frame personId={personId} /> : <ForBooking personId={personId} />;
}

function Frame({ personId }: { personId: string }) {
  const person = useQuery(personQuery(personId));
  const today = useQuery(todayQuery(personId));
  const me = useMe();
  const navigate = useNavigate();
  useDimFor(person.data?.light_sensitive);
  if (person.isPending) return <Waiting for="Loading" />;
  if (person.error instanceof ApiError && person.error.problem.code === "reason_needed")
    return <GiveReason personId={personId} says={person.error.message} />;
  if (person.isError) return <ErrorPanel error={person.error} retry={() => void person.refetch()} />;
  const visit = today.data;
  const stopped = person.data.verdict.decision !== "ok";
  return (
    <div className={css.frame}>
      <header className={css.head}>
        <div className={css.name}>
          <h1>
            <Link to="/people/$personId" params={{ personId }}>
              {person.data.given_name}
            </Link>
          </h1>
          <span>{[person.data.family_name, person.data.age].filter(Boolean).join(", ")}</span>
        </div>
        <LimitStrip limits={person.data.limits} />
        {person.data.archived_at && <span>Archived on {dateOf(person.data.archived_at)}</span>}
        {visit && (
          <Button
            className={css.next}
            onClick={() => void navigate({ to: stepPath(visit.next.station, personId, visit.visit_id) })}
          >
            Next: {visit.next.label}
          </Button>
        )}
        {today.data === null && <StartNow personId={personId} />}
      </header>
      {stopped && (
        <div className={css.stopped} role="alert" data-decision={person.data.verdict.decision}>
          {person.data.verdict.reasons.map((reason) => (
            <p key={reason.rule}>{reason.text}</p>
          ))}
          {person.data.verdict.decision === "emergency" && me.data?.emergency && <p>{me.data.emergency}</p>}
          {person.data.verdict.decision === "ask" && (
            <Link to="/people/$personId/story" params={{ personId }}>
              Answer it under History
            </Link>
          )}
        </div>
      )}
      <nav className={css.stations} aria-label="Sections">
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

/** Somebody is here without an appointment. */
function StartNow({ personId }: { personId: string }) {
  const queries = useQueryClient();
  const books = useMay("book");
  const start = useMutation({
    mutationFn: () =>
      take(api.POST("/api/people/{person_id}/walk-in", { params: { path: { person_id: personId } }, body: {} })),
    onSuccess: async (visit) => {
      await appointmentsChanged(queries, personId);
      for (const clash of visit.clashes) notifications.show({ message: `Clash: ${clash.words}.` });
    },
    onError: (error) => notifications.show({ message: error.message }),
  });
  if (!books) return null;
  return (
    <Button className={css.next} loading={start.isPending} onClick={() => start.mutate()}>
      Start a visit now
    </Button>
  );
}

/** A person for whoever books and sees no health record. */
function ForBooking({ personId }: { personId: string }) {
  const contact = useQuery(contactQuery(personId));
  if (contact.isPending) return <Waiting for="Loading" />;
  if (contact.isError) return <ErrorPanel error={contact.error} retry={() => void contact.refetch()} />;
  return (
    <div className={css.frame}>
      <header className={css.head}>
        <div className={css.name}>
          <h1>{contact.data.given_name}</h1>
          <span>{contact.data.family_name}</span>
        </div>
        <StartNow personId={personId} />
      </header>
      <div className={css.booking}>
        <ContactForm contact={contact.data} key={contact.data.version} />
        <Visits personId={personId} />
      </div>
    </div>
  );
}
