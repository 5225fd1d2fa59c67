/** One person at a glance: the story, how each complaint does, what is due. */
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { complaintsQuery, personQuery, todayQuery } from "../../api/queries";
import { Empty } from "../../shared/parts";
import { sideWords } from "../../shared/words";
import css from "./OverviewScreen.module.css";

export function OverviewScreen() {
  const { personId } = useParams({ from: "/inside/people/$personId" });
  const person = useQuery(personQuery(personId));
  const complaints = useQuery(complaintsQuery(personId));
  const today = useQuery(todayQuery(personId));
  return (
    <div className={css.page}>
      <p className={css.story}>{person.data?.story || "No story written down yet."}</p>
      {complaints.data?.map((complaint) => (
        <section key={complaint.id} className={css.complaint}>
          <h2>
            {complaint.name} <span>{sideWords[complaint.side]}</span>
          </h2>
          <p>{complaint.change.sentence}</p>
        </section>
      ))}
      {complaints.data?.length === 0 && <Empty>Nothing asked yet. Begin with the screening, under Story.</Empty>}
      {today.data && today.data.next.due.length > 0 && (
        <p className={css.due}>Due: {today.data.next.due.join(", ")}.</p>
      )}
    </div>
  );
}
