/** A programme of several visits from this one on, with sets that alternate, and the home sets in between. */
import { Modal } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { api, take } from "../../api/client";
import { isPressed } from "../../score/shapes";
import { Trouble, Waiting } from "../../shared/parts";
import { minutesAndSeconds, shortId } from "../../shared/words";
import css from "./ComposeScreen.module.css";
import type { Wish } from "./useScore";

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
      {plan.isError && <Trouble error={plan.error} />}
      {plan.data && (
        <>
          <p>{plan.data.words}</p>
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
