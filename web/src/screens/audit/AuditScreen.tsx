/** The audit: who read or changed whose record, and when. */
import { Button, Select, TextInput } from "@mantine/core";
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { api, take } from "../../api/client";
import { peopleQuery, practitionersQuery } from "../../api/queries";
import { Empty, Trouble, Waiting } from "../../shared/parts";
import { clock, dateOf } from "../../shared/words";
import css from "./AuditScreen.module.css";

export function AuditScreen() {
  const { person, who, day } = useSearch({ from: "/inside/audit" });
  const navigate = useNavigate({ from: "/audit" });
  const people = useQuery(peopleQuery);
  const practitioners = useQuery(practitionersQuery);
  const narrowed = { person_id: person, practitioner_id: who, day };
  const pages = useInfiniteQuery({
    queryKey: ["audit", narrowed],
    queryFn: ({ pageParam }) =>
      take(api.GET("/api/audit", { params: { query: { ...narrowed, before: pageParam ?? undefined } } })),
    initialPageParam: null as number | null,
    getNextPageParam: (page) => page.before,
    staleTime: 0,
  });
  const narrow = (next: { person?: string; who?: string; day?: string }) =>
    void navigate({ search: (now) => ({ ...now, ...next }), replace: true });
  const query = new URLSearchParams(Object.entries(narrowed).filter((pair): pair is [string, string] => !!pair[1]));
  const entries = pages.data?.pages.flatMap((page) => page.entries) ?? [];
  return (
    <div className={css.page}>
      <div className={css.head}>
        <h1>Audit</h1>
        <Select
          label="Person"
          placeholder="Anybody"
          searchable
          clearable
          data={
            people.data?.map((one) => ({ value: one.id, label: `${one.given_name} ${one.family_name}`.trim() })) ?? []
          }
          value={person ?? null}
          onChange={(value) => narrow({ person: value ?? undefined })}
        />
        <Select
          label="Who"
          placeholder="Anybody"
          clearable
          data={practitioners.data?.map((one) => ({ value: one.id, label: one.name })) ?? []}
          value={who ?? null}
          onChange={(value) => narrow({ who: value ?? undefined })}
        />
        <TextInput
          label="Day"
          type="date"
          value={day ?? ""}
          onChange={(event) => narrow({ day: event.currentTarget.value || undefined })}
        />
        <a href={`/api/audit.csv?${query}`} download>
          Export CSV
        </a>
      </div>
      {pages.isPending && <Waiting for="Loading the audit" />}
      {pages.isError && <Trouble error={pages.error} retry={() => void pages.refetch()} />}
      {pages.isSuccess && entries.length === 0 && <Empty>Nothing was recorded for this. Clear a filter.</Empty>}
      {entries.length > 0 && (
        <table className={css.table}>
          <thead>
            <tr>
              <th>When</th>
              <th>Who</th>
              <th>What</th>
              <th>Whose record</th>
            </tr>
          </thead>
          <tbody>
            {entries.map((one) => (
              <tr key={one.id}>
                <td className={css.when}>
                  {dateOf(one.at)} {clock(one.at)}
                </td>
                <td>{one.who}</td>
                <td>{one.action}</td>
                <td>
                  {one.person_id && one.person ? (
                    <Link to="/people/$personId" params={{ personId: one.person_id }}>
                      {one.person}
                    </Link>
                  ) : (
                    one.person_id && "erased"
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {pages.hasNextPage && (
        <Button variant="default" onClick={() => void pages.fetchNextPage()} loading={pages.isFetchingNextPage}>
          Older entries
        </Button>
      )}
    </div>
  );
}
