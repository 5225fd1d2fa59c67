/** What a practitioner sets for themselves. */
import { NumberInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Schema, take } from "../api/client";
import { Trouble } from "./parts";

export function Settings({ me }: { me: Schema["Me"] }) {
  const queries = useQueryClient();
  const change = useMutation({
    mutationFn: (lock_minutes: number) => take(api.PATCH("/api/me", { body: { lock_minutes } })),
    onSuccess: (now) => queries.setQueryData(["me"], now),
  });
  return (
    <>
      <p>
        {me.email}, {me.practice}. Times follow {me.time_zone.replaceAll("_", " ")}.
      </p>
      <NumberInput
        mt="md"
        label="Cover an idle screen after"
        description="Minutes, 1 to 120. Never while a treatment runs."
        min={1}
        max={120}
        clampBehavior="strict"
        defaultValue={me.lock_minutes}
        onBlur={(event) => {
          const minutes = Number(event.currentTarget.value);
          if (minutes >= 1 && minutes !== me.lock_minutes) change.mutate(minutes);
        }}
      />
      {change.isError && <Trouble error={change.error} />}
    </>
  );
}
