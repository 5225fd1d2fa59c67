/** Follow-up: who needs a word, and how everybody did with whom work began, complaint by complaint. */
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { dueQuery } from "../../api/booking";
import type { Schema } from "../../api/client";
import { followUpQuery } from "../../api/queries";
import desk from "../../shared/desk.module.css";
import { Empty, ErrorPanel, Waiting } from "../../shared/parts";
import { dateOf } from "../../shared/words";
import css from "./FollowUpScreen.module.css";

type OnList = Schema["OnList"];
type Kind = Schema["KindOutcomes"];

export function FollowUpScreen() {
  const told = useQuery(followUpQuery);
  const due = useQuery(dueQuery);
  if (told.isPending) return <Waiting for="Loading the follow-up" />;
  if (told.isError) return <ErrorPanel error={told.error} retry={() => void told.refetch()} />;
  const planned = (due.data ?? [])
    .filter((one) => one.kind === "planned_visit")
    .map((one) => ({ ...one, words: one.words }));
  return (
    <div className={desk.page}>
      <div className={desk.head}>
        <h1>Follow-up</h1>
        {told.data.waiting > 0 && (
          <p className={desk.note} role="status">
            {told.data.waiting} complaints are still being calculated.
          </p>
        )}
      </div>
      <div className={css.lists}>
        <List name="Getting worse" rows={told.data.worse} none="No one, according to the ratings." follow />
        <List
          name="Not returned"
          rows={told.data.not_back}
          none="Everyone with an open complaint has an appointment."
        />
        <List name="Visits to book" rows={planned} none="Every planned visit is booked." />
        <List name="End of a series" rows={told.data.near_end} none="No series ends soon." />
      </div>
      <Outcomes kinds={told.data.kinds} />
    </div>
  );
}

function List({ name, rows, none, follow }: { name: string; rows: OnList[]; none: string; follow?: boolean }) {
  return (
    <section className={desk.section}>
      <h2>
        {name} {rows.length > 0 && <small>{rows.length}</small>}
      </h2>
      {rows.length === 0 && <p className={desk.note}>{none}</p>}
      <ul className={css.people}>
        {rows.map((one) => (
          <li key={`${one.person_id} ${one.words}`}>
            <Link to={follow ? "/people/$personId/follow" : "/people/$personId"} params={{ personId: one.person_id }}>
              {one.given_name} {one.family_name}
            </Link>
            <span className={desk.small}>
              {one.on && `${dateOf(one.on)} · `}
              {one.words}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

const COLUMNS: [keyof Kind, string][] = [
  ["better", "Better"],
  ["no_change", "No real change"],
  ["worse", "Worse"],
  ["cannot_tell", "Not clear yet"],
  ["too_early", "Too early"],
  ["no_rating", "Not rated"],
  ["stopped", "Stopped coming"],
];

/** Of all with whom work began; shares only where there are enough of them. */
function Outcomes({ kinds }: { kinds: Kind[] }) {
  if (kinds.length === 0) {
    return <Empty>No one has started treatment yet. Ratings before and after sessions are summarised here.</Empty>;
  }
  return (
    <section className={desk.section}>
      <h2>Outcomes by complaint</h2>
      <p className={desk.note}>
        Everyone who started. Below ten people, counts only, no percentages; they say nothing about the next person.
        People who stopped coming are also counted in the other columns.
      </p>
      <div className={css.wide}>
        <table className={desk.table}>
          <thead>
            <tr>
              <th scope="col">Complaint</th>
              <th scope="col">Started</th>
              {COLUMNS.map(([key, name]) => (
                <th key={key} scope="col">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {kinds.map((one) => (
              <tr key={one.kind}>
                <th scope="row">{one.name}</th>
                <td className={desk.figures}>{one.began}</td>
                {COLUMNS.map(([key]) => (
                  <td key={key} className={desk.figures}>
                    {share(Number(one[key]), one)}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}

const share = (count: number, { began, small }: Kind) => {
  if (count === 0) return "–";
  return small ? `${count} of ${began}` : `${count} (${Math.round((100 * count) / began)} %)`;
};
