/** A programme of several visits from this one on, with sets that alternate, and the home sets in between. */
import { Button, Modal } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { appointmentsChanged } from "../../api/booking";
import { api, type Schema, take } from "../../api/client";
import { visitQuery } from "../../api/queries";
import { isPressed } from "../../score/shapes";
import { ErrorPanel, Waiting } from "../../shared/parts";
import { isoDay, minutesAndSeconds, shortId } from "../../shared/words";
import css from "./ComposeScreen.module.css";
import type { Wish } from "./useScore";

/** The visits after this one, planned: each due on its day, with what it is for; booked one by one, or from the day. */
function PlanSeries({ visitId, plan, minutes }: { visitId: string; plan: Schema["Programme"]; minutes: number }) {
  const queries = useQueryClient();
  const visit = useQuery(visitQuery(visitId));
  const personId = visit.data?.person_id;
  const save = useMutation({
    mutationFn: () => {
      const first = isoDay(new Date(visit.data?.starts_at ?? Date.now()));
      const coming = plan.visits.slice(1);
      const visits = coming.map((one) => ({
        after_days: one.day,
        purpose: `visit ${one.number}, set ${one.set}${one.day === plan.judge_on_day ? ", review the plan" : ""}`,
      }));
      const path = { person_id: personId ?? "" };
      return take(api.POST("/api/people/{person_id}/series", { params: { path }, body: { first, minutes, visits } }));
    },
    onSuccess: async () => {
      if (personId) await appointmentsChanged(queries, personId);
    },
  });
  const coming = plan.visits.length - 1;
  if (!personId || coming < 1) return null;
  return (
    <div className={css.plan}>
      <Button loading={save.isPending} disabled={save.isSuccess} onClick={() => save.mutate()}>
        Plan these {coming} visits
      </Button>
      {save.isSuccess && (
        <span role="status">
          Planned. Book them under{" "}
          <Link to="/people/$personId" params={{ personId }}>
            visits
          </Link>
          , or from the Day page when they are due.
        </span>
      )}
      {save.isError && <ErrorPanel error={save.error} />}
    </div>
  );
}

type Props = { visitId: string; wish: Wish; onClose: () => void };

export function Programme({ visitId, wish, onClose }: Props) {
  const plan = useQuery({
    queryKey: ["visit", visitId, "programme", wish],
    queryFn: () =>
      take(
        api.POST("/api/visits/{visit_id}/programme", {
          params: { path: { visit_id: visitId }, query: { number: 6 } },
          body: wish,
        }),
      ),
    retry: false,
  });
  return (
    <Modal opened onClose={onClose} title="Several visits, and home" size="xl">
      {plan.isPending && <Waiting for="Composing six visits" />}
      {plan.isError && <ErrorPanel error={plan.error} />}
      {plan.data && (
        <>
          <p>{plan.data.words}</p>
          <PlanSeries visitId={visitId} plan={plan.data} minutes={wish.minutes} />
          <table className={css.visits}>
            <thead>
              <tr>
                <th scope="col">Visit</th>
                <th scope="col">Day</th>
                <th scope="col">Pressed</th>
                <th scope="col">Takes</th>
              </tr>
            </thead>
            <tbody>
              {plan.data.visits.map((visit) => (
                <tr key={visit.number}>
                  <th scope="row">
                    {visit.number} {visit.set}
                    {visit.gentle && ", gentle"}
                  </th>
                  <td>{visit.day}</td>
                  <td>
                    {[...new Set(visit.score.stops.filter(isPressed).map((stop) => stop.id))].map((id) => (
                      <span key={id} data-new={visit.new.includes(id) || undefined}>
                        {shortId(id)}
                      </span>
                    ))}
                  </td>
                  <td>{minutesAndSeconds(visit.score.total_s)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <h3>At home</h3>
          {plan.data.home.map((set) => (
            <p key={set.name}>
              <b>{set.name}</b>, {set.days}, {set.times_a_day} times a day:{" "}
              {set.points.map((point) => `${shortId(point.id)} (${point.dose_words})`).join(", ")}
            </p>
          ))}
        </>
      )}
    </Modal>
  );
}
