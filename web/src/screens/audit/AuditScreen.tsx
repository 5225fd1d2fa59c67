/** The audit: who read or changed whose record, and when. */
import { Button, Select } from "@mantine/core";
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { api, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { peopleQuery, practitionersQuery } from "../../api/queries";
import { DayInput } from "../../shared/DayInput";
import { Empty, ErrorPanel, Waiting } from "../../shared/parts";
import css from "./AuditScreen.module.css";
import { Stretches, Verify } from "./Stretches";

export function AuditScreen() {
  const { person, who, day } = useSearch({ from: "/inside/audit" });
  const manages = useMay("manage");
  const navigate = useNavigate({ from: "/audit" });
  const people = useQuery(peopleQuery);
  const practitioners = useQuery(practitionersQuery);
  const narrowed = { person_id: person, practitioner_id: who, day };
  const pages = useInfiniteQuery({
    queryKey: ["audit", narrowed],
    queryFn: ({ pageParam }) =>
      take(api.GET("/api/audit/stretches", { params: { query: { ...narrowed, before: pageParam ?? undefined } } })),
    initialPageParam: null as number | null,
    getNextPageParam: (page) => page.before,
    staleTime: 0,
  });
  const narrow = (next: { person?: string; who?: string; day?: string }) =>
    void navigate({ search: (now) => ({ ...now, ...next }), replace: true });
  const query = new URLSearchParams(Object.entries(narrowed).filter((pair): pair is [string, string] => !!pair[1]));
  const stretches = pages.data?.pages.flatMap((page) => page.stretches) ?? [];
  return (
    <div className={css.page}>
      <div className={css.head}>
        <h1>Audit</h1>
        <Select
          label="Person"
          placeholder="Anyone"
          searchable
          clearable
          data={
            people.data?.map((one) => ({ value: one.id, label: `${one.given_name} ${one.family_name}`.trim() })) ?? []
          }
          value={person ?? null}
          onChange={(value) => narrow({ person: value ?? undefined })}
        />
        <Select
          label="User"
          placeholder="Anyone"
          clearable
          data={practitioners.data?.map((one) => ({ value: one.id, label: one.name })) ?? []}
          value={who ?? null}
          onChange={(value) => narrow({ who: value ?? undefined })}
        />
        <DayInput label="Day" value={day ?? ""} onChange={(chosen) => narrow({ day: chosen || undefined })} />
        <a href={`/api/audit.csv?${query}`} download>
          Export CSV
        </a>
        {manages && <Verify />}
      </div>
      {pages.isPending && <Waiting for="Loading the audit" />}
      {pages.isError && <ErrorPanel error={pages.error} retry={() => void pages.refetch()} />}
      {pages.isSuccess && stretches.length === 0 && <Empty>No entries match. Clear a filter.</Empty>}
      {stretches.length > 0 && <Stretches stretches={stretches} />}
      {pages.hasNextPage && (
        <Button variant="default" onClick={() => void pages.fetchNextPage()} loading={pages.isFetchingNextPage}>
          Older entries
        </Button>
      )}
    </div>
  );
}
