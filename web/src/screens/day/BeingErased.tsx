/** Records that will be erased, with the way to undo it. */
import { Button } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, take } from "../../api/client";
import { refresh } from "../../api/queries";
import { ErrorPanel } from "../../shared/parts";
import { dateOf } from "../../shared/words";
import css from "./PeopleScreen.module.css";

export function BeingErased() {
  const queries = useQueryClient();
  const found = useQuery({ queryKey: ["people", "erasures"], queryFn: () => take(api.GET("/api/erasures")) });
  const undo = useMutation({
    mutationFn: (person_id: string) =>
      take(api.POST("/api/people/{person_id}/erase/undo", { params: { path: { person_id } } })),
    onSuccess: async () => {
      notifications.show({ message: "Not erased. The record is in the archive." });
      await refresh(queries, ["people"]);
    },
  });
  if (!found.data?.length) return null;
  return (
    <section className={css.erased} aria-label="Records to be erased">
      <h2>To be erased</h2>
      <ul>
        {found.data.map((one) => (
          <li key={one.person_id}>
            <span>
              <strong>{one.given_name}</strong> {one.family_name}, on {dateOf(one.erase_at)}. {one.reason} (
              {one.asked_by})
            </span>
            <Button variant="default" size="compact-md" onClick={() => undo.mutate(one.person_id)}>
              Undo
            </Button>
          </li>
        ))}
      </ul>
      {undo.isError && <ErrorPanel error={undo.error} />}
    </section>
  );
}
