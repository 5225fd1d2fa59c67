/** Follow: ratings before and after over the visits, soreness side by side, and an honest sentence under each. */
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import type { Schema } from "../../api/client";
import { courseQuery } from "../../api/queries";
import { Empty, Figure, Trouble, Waiting } from "../../shared/parts";
import { dayOf, shortId, sideWords } from "../../shared/words";
import { CourseChart } from "./CourseChart";
import css from "./FollowScreen.module.css";

type Change = Schema["Change"];
const TRENDS: Record<Change["trend"], string> = {
  no_rating: "no rating yet",
  too_early: "too early to say",
  better: "better",
  no_change: "no real change",
  worse: "worse",
};

export function FollowScreen() {
  const { personId } = useParams({ from: "/inside/people/$personId" });
  const course = useQuery(courseQuery(personId));
  if (course.isPending) return <Waiting for="Loading the course" />;
  if (course.isError) return <Trouble error={course.error} retry={() => void course.refetch()} />;
  const { complaints, tenderness } = course.data;
  return (
    <div className={css.page}>
      <div className={css.complaints}>
        {complaints.length === 0 && (
          <Empty>No complaint yet, so there is nothing to follow. Add one under Complaints.</Empty>
        )}
        {complaints.map((complaint) => (
          <section key={complaint.id} className={css.complaint}>
            <header>
              <h2>
                {complaint.name} <span>{sideWords[complaint.side]}</span>
              </h2>
              <strong data-trend={complaint.change.trend}>{TRENDS[complaint.change.trend]}</strong>
            </header>
            <Numbers change={complaint.change} />
            <CourseChart ratings={complaint.ratings} name={complaint.name} />
            <p className={css.sentence}>{complaint.change.sentence}</p>
            {complaint.act && <p className={css.act}>Hinders: {complaint.act}.</p>}
          </section>
        ))}
      </div>
      <Sore rows={tenderness} />
    </div>
  );
}

const signed = (value: number) => (value > 0 ? `+${value}` : `${value}`.replace("-", "−"));

function Numbers({ change }: { change: Change }) {
  if (change.points === null || change.points === undefined) return null;
  return (
    <div className={css.numbers}>
      <Figure value={signed(change.points)} words="points from the start" />
      {change.per_cent !== null && change.per_cent !== undefined && (
        <Figure value={signed(change.per_cent)} unit="%" words="of the start" />
      )}
      {change.within_session !== null && change.within_session !== undefined && (
        <Figure value={signed(change.within_session)} words="within a session" />
      )}
      <Figure value={change.visits} words={`visits in ${change.days} days`} />
    </div>
  );
}

/** Soreness of each point, right beside left, over the visits. */
function Sore({ rows }: { rows: Schema["Tenderness"][] }) {
  const ids = [...new Set(rows.map((row) => row.id))];
  const days = [...new Set(rows.map((row) => row.on))].sort();
  if (rows.length === 0) {
    return (
      <section className={css.sore}>
        <h2>Sore places</h2>
        <Empty>Nothing was rated sore yet. While treating, keys 0 to 9 record it.</Empty>
      </section>
    );
  }
  return (
    <section className={css.sore}>
      <h2>Sore places</h2>
      <p className={css.act}>First and last rating at each visit.</p>
      <table>
        <thead>
          <tr>
            <th scope="col">Place</th>
            {days.slice(-6).map((day) => (
              <th key={day} scope="col">
                {dayOf(day)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {ids.flatMap((id) =>
            [...new Set(rows.filter((row) => row.id === id).map((row) => row.side))].map((side) => (
              <tr key={`${id}-${side}`}>
                <th scope="row">
                  {shortId(id)} <small>{side}</small>
                </th>
                {days.slice(-6).map((day) => {
                  const found = rows.find((row) => row.id === id && row.side === side && row.on === day);
                  return (
                    <td key={day} style={found && { borderBottomWidth: 1 + found.last / 2.5 }}>
                      {found ? `${found.first}→${found.last}` : ""}
                    </td>
                  );
                })}
              </tr>
            )),
          )}
        </tbody>
      </table>
    </section>
  );
}
