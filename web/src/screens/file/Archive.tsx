/** Putting a record away, and taking it back. */
import { Button } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Schema, take } from "../../api/client";
import { refresh } from "../../api/queries";
import desk from "../../shared/desk.module.css";
import { ErrorPanel } from "../../shared/parts";

export function Archive({ contact }: { contact: Schema["ContactDetails"] }) {
  const queries = useQueryClient();
  const away = contact.archived_at !== null;
  const archive = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/people/{person_id}/archive", {
          params: { path: { person_id: contact.id } },
          body: { version: contact.version, archived: !away },
        }),
      ),
    onSuccess: async () => {
      await refresh(queries, ["person", contact.id]);
      await refresh(queries, ["people"]);
    },
  });
  return (
    <>
      <p>
        {away
          ? `${contact.given_name} is archived: hidden from lists, record kept in full.`
          : `Archive ${contact.given_name} if they no longer come. The record is kept and can be restored.`}
      </p>
      {archive.isError && <ErrorPanel error={archive.error} />}
      <div className={desk.buttons}>
        <Button variant="default" loading={archive.isPending} onClick={() => archive.mutate()}>
          {away ? "Restore" : "Archive"}
        </Button>
      </div>
    </>
  );
}
