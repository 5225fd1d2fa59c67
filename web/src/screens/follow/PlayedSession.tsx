/** The score of a session that was touched on the time line, with what was felt. */
import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { recordQuery } from "../../api/booking";
import { visitQuery } from "../../api/queries";
import { ScoreView } from "../../score/ScoreView";
import { ErrorPanel, Waiting } from "../../shared/parts";
import { dateOf, shortId } from "../../shared/words";
import css from "./FollowScreen.module.css";

const LANE_PX = 46;

export function PlayedSession({ visitId, onClose }: { visitId: string; onClose: () => void }) {
  const visit = useQuery(visitQuery(visitId));
  const record = useQuery(recordQuery(visitId));
  if (visit.isError) return <ErrorPanel error={visit.error} retry={() => void visit.refetch()} />;
  if (!visit.data || !record.data) return <Waiting for="Loading the session" />;
  const { appointment, stops } = record.data;
  const sore = stops.filter((stop) => stop.sore_first !== null);
  return (
    <section className={css.session} aria-label="The session">
      <header>
        <h2>Session of {dateOf(appointment.starts_at)}</h2>
        <Link to="/visits/$visitId" params={{ visitId }}>
          Open the visit
        </Link>
        <Button size="compact-sm" variant="default" onClick={onClose}>
          Close
        </Button>
      </header>
      {visit.data.score ? <ScoreView score={visit.data.score} lane={LANE_PX} /> : <p>No score was composed for it.</p>}
      {sore.length > 0 && (
        <p className={css.small}>
          Sore: {sore.map((stop) => `${shortId(stop.id)} ${stop.sore_first} → ${stop.sore_last}`).join(", ")}
        </p>
      )}
    </section>
  );
}
