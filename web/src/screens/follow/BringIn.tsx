/** A list of ratings that somebody kept: its columns matched, looked at row by row, kept all or none. */
import { Button, FileInput, Select } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { refresh } from "../../api/queries";
import { ErrorPanel } from "../../shared/parts";
import { clock, dateOf } from "../../shared/words";
import css from "./FollowScreen.module.css";

type Wish = Omit<Schema["ListIn"], "keep">;
type Order = NonNullable<Wish["order"]>;
const ORDERS: { value: Order; label: string }[] = [
  { value: "year_first", label: "2026-03-31" },
  { value: "day_first", label: "31/3/2026 or 31.3.2026" },
  { value: "month_first", label: "3/31/2026" },
];
const NO_COLUMN = "";

export function BringIn({ complaint, personId }: { complaint: Schema["ComplaintCourse"]; personId: string }) {
  const queries = useQueryClient();
  const [wish, setWish] = useState<Wish>();
  const columns = useMutation({
    mutationFn: async (file: File) => {
      const text = await file.text();
      return { text, told: await take(api.POST("/api/ratings-list/columns", { body: { text } })) };
    },
    onSuccess: ({ text, told }) => {
      const { day, value, time } = told.suggested;
      understand({
        text,
        day: day ?? told.heads[0] ?? "",
        value: value ?? told.heads[1] ?? "",
        time: time ?? null,
        order: wish?.order ?? "year_first", // the same list, put right, is written as before
      });
    },
  });
  const path = { complaint_id: complaint.id };
  const preview = useMutation({
    mutationFn: ({ keep, ...body }: Wish & { keep: boolean }) =>
      take(api.POST("/api/complaints/{complaint_id}/ratings-list", { params: { path }, body: { ...body, keep } })),
    onSuccess: async (told) => {
      if (told.kept) await refresh(queries, ["person", personId]);
    },
  });
  function understand(wanted: Wish) {
    setWish(wanted);
    preview.mutate({ ...wanted, keep: false });
  }
  const heads = columns.data?.told.heads ?? [];
  const seen = preview.data;
  return (
    <div className={css.bring}>
      <FileInput
        label="Their own list (CSV)"
        placeholder="Choose a file"
        accept=".csv,.txt,.tsv,text/csv,text/plain"
        onChange={(file) => file && columns.mutate(file)}
      />
      {columns.isError && <ErrorPanel error={columns.error} />}
      {wish && (
        <div className={css.entry}>
          <Select
            label="Day"
            data={heads}
            value={wish.day}
            allowDeselect={false}
            onChange={(day) => day && understand({ ...wish, day })}
          />
          <Select
            label="Date format"
            data={ORDERS}
            value={wish.order ?? "year_first"}
            allowDeselect={false}
            onChange={(order) => order && understand({ ...wish, order: order as Order })}
          />
          <Select
            label="Time"
            data={[{ value: NO_COLUMN, label: "none" }, ...heads]}
            value={wish.time ?? NO_COLUMN}
            allowDeselect={false}
            onChange={(time) => understand({ ...wish, time: time || null })}
          />
          <Select
            label="Rating"
            data={heads}
            value={wish.value}
            allowDeselect={false}
            onChange={(value) => value && understand({ ...wish, value })}
          />
        </div>
      )}
      {preview.isError && <ErrorPanel error={preview.error} />}
      {seen && wish && (
        <div role="status">
          {seen.kept ? (
            <p>{seen.new} ratings saved.</p>
          ) : (
            <>
              <p>
                {seen.new} new ratings of {complaint.name.toLowerCase()}
                {seen.already > 0 && `, ${seen.already} already recorded`}
                {seen.refused.length > 0 && `; ${seen.refused.length} rows cannot be imported`}.
                {seen.first.length > 0 &&
                  ` First rows: ${seen.first.map((one) => `${dateOf(one.at)}, ${clock(one.at)}: ${one.value}`).join(" · ")}`}
              </p>
              {seen.refused.length > 0 && (
                <ul>
                  {seen.refused.map((one) => (
                    <li key={one.number}>
                      Row {one.number}: {one.why}
                    </li>
                  ))}
                </ul>
              )}
              <Button
                disabled={seen.refused.length > 0 || seen.new === 0}
                loading={preview.isPending}
                onClick={() => preview.mutate({ ...wish, keep: true })}
              >
                Save {seen.new} ratings
              </Button>
            </>
          )}
        </div>
      )}
    </div>
  );
}
