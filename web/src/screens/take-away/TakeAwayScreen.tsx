/** Documents: letters and summaries, the visit and the home sheet on paper, the whole record as a file. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { api, take } from "../../api/client";
import { personQuery, todayQuery, treatmentQuery } from "../../api/queries";
import { ErrorPanel, Waiting } from "../../shared/parts";
import { DisputedEntries } from "../../treatment/DisputedEntries";
import { Papers } from "./Papers";
import css from "./TakeAwayScreen.module.css";

/** What happened at the visit and could not be applied, before it is printed. */
function NotApplied({ visitId }: { visitId: string }) {
  const queries = useQueryClient();
  const treatment = useQuery(treatmentQuery(visitId));
  if (!treatment.data?.disputed.length) return null;
  return (
    <li className={css.wide}>
      <DisputedEntries
        entries={treatment.data.disputed}
        settle={async (event_id, how, note) => {
          const path = { visit_id: visitId, event_id };
          const body = { how, note };
          const now = await take(api.POST("/api/visits/{visit_id}/disputed/{event_id}", { params: { path }, body }));
          queries.setQueryData(treatmentQuery(visitId).queryKey, now);
        }}
      />
    </li>
  );
}

export function TakeAwayScreen() {
  const { personId } = useParams({ from: "/inside/people/$personId" });
  const person = useQuery(personQuery(personId));
  const today = useQuery(todayQuery(personId));
  if (person.isPending || today.isPending) return <Waiting for="Loading" />;
  if (person.isError) return <ErrorPanel error={person.error} retry={() => void person.refetch()} />;
  const name = person.data.given_name;
  return (
    <div className={css.page}>
      <Papers personId={personId} />
      <Ready personId={personId} name={name} visitId={today.data?.visit_id} />
    </div>
  );
}

/** What is ready as it is: the visit, the sheet for home, the record. */
function Ready({ personId, name, visitId }: { personId: string; name: string; visitId: string | undefined }) {
  return (
    <ul className={css.list}>
      {visitId && <NotApplied visitId={visitId} />}
      <li>
        <div>
          <h2>The visit</h2>
          <p>Ratings, the score with the responses, what was left out and why, and a drawing of every point.</p>
        </div>
        {visitId ? (
          <a href={`/api/visits/${visitId}/visit.pdf`} target="_blank" rel="noreferrer">
            Open as PDF
          </a>
        ) : (
          <span>No visit today.</span>
        )}
      </li>
      <li>
        <div>
          <h2>For home</h2>
          <p>
            Up to five points {name} can reach alone, drawn on their own figure, on one page; chosen under Home plan.
          </p>
        </div>
        <a href={`/api/people/${personId}/home.pdf`} target="_blank" rel="noreferrer">
          Open as PDF
        </a>
      </li>
      <li>
        <div>
          <h2>The record</h2>
          <p>{name}'s complete record as documented JSON. It can be imported here or elsewhere without loss.</p>
        </div>
        <a href={`/api/people/${personId}/record`} download={`${name}.acuthesis.json`}>
          Export to a file
        </a>
      </li>
    </ul>
  );
}
