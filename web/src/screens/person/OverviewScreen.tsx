/** One person at a glance: what they told, how each complaint does, what is due; their visits as a line of time. */
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { complaintsQuery, storyQuery, todayQuery } from "../../api/queries";
import { Empty } from "../../shared/parts";
import { sideWords } from "../../shared/words";
import css from "./OverviewScreen.module.css";
import { Story } from "./Story";
import { Visits } from "./Visits";

export function OverviewScreen() {
  const { personId } = useParams({ from: "/inside/people/$personId" });
  const complaints = useQuery(complaintsQuery(personId));
  const story = useQuery(storyQuery(personId));
  const today = useQuery(todayQuery(personId));
  return (
    <div className={css.page}>
      <div className={css.told}>
        {today.data && today.data.next.due.length > 0 && (
          <p className={css.due}>Due: {today.data.next.due.join(", ")}.</p>
        )}
        {complaints.data?.map((complaint) => (
          <section key={complaint.id} className={css.complaint}>
            <h2>
              {complaint.name} <span>{sideWords[complaint.side]}</span>
            </h2>
            <p>{complaint.outcome.sentence}</p>
          </section>
        ))}
        {complaints.data?.length === 0 && (
          <Empty>
            No complaints yet. Start with the{" "}
            <Link to="/people/$personId/story" params={{ personId }}>
              screening
            </Link>
            .
          </Empty>
        )}
        {story.data && <Story personId={personId} told={story.data} />}
      </div>
      <Visits personId={personId} />
    </div>
  );
}
