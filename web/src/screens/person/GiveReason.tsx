/** Opening the record of somebody whom one does not treat: a reason is asked for, and stands in the audit. */
import { Button, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, take } from "../../api/client";
import desk from "../../shared/desk.module.css";
import { ErrorPanel } from "../../shared/parts";

export function GiveReason({ personId, says }: { personId: string; says: string }) {
  const queries = useQueryClient();
  const [reason, setReason] = useState("");
  const open = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/people/{person_id}/access", {
          params: { path: { person_id: personId } },
          body: { reason },
        }),
      ),
    onSuccess: () => queries.invalidateQueries(),
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    open.mutate();
  };
  return (
    <div className={desk.page}>
      <section className={desk.section}>
        <h1>Not one of your people</h1>
        <p>{says}</p>
        <form className={desk.form} onSubmit={submit}>
          <TextInput
            label="Reason"
            description="Shown in the audit, with your name. Opens the record for twelve hours."
            placeholder="Covering for a colleague today"
            required
            withAsterisk={false}
            value={reason}
            onChange={(event) => setReason(event.currentTarget.value)}
          />
          {open.isError && <ErrorPanel error={open.error} />}
          <div className={desk.buttons}>
            <Button type="submit" loading={open.isPending} disabled={reason.trim().length < 3}>
              Open the record
            </Button>
          </div>
        </form>
      </section>
    </div>
  );
}
