/** Consents: what is asked, in which words, how it was given, and its withdrawal. */
import { Button, NativeSelect, Textarea } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { consentsQuery } from "../../api/queries";
import desk from "../../shared/desk.module.css";
import { ErrorPanel, Waiting } from "../../shared/parts";
import { dateOf } from "../../shared/words";

type Consent = Schema["ConsentOut"];
type How = Schema["NewConsent"]["how"];
const howWords: Record<How, string> = {
  in_writing: "in writing",
  spoken: "spoken",
  by_guardian: "by a parent or guardian",
};
const aboutWords: Record<string, string> = {
  treatment: "Treatment",
  records: "Keeping records",
  breast: "Chest beside the breast",
  buttock: "Buttock and hip",
  inner_thigh: "Inner thigh",
  letters: "Letters to their doctor",
};

export function Consents({ personId, born }: { personId: string; born: string }) {
  const consents = useQuery(consentsQuery(personId));
  return (
    <section className={desk.section}>
      <h2>Consent</h2>
      {consents.isPending && <Waiting for="Loading consents" />}
      {consents.isError && <ErrorPanel error={consents.error} />}
      {consents.data?.map((one) => (
        <One key={one.about} personId={personId} born={born} consent={one} />
      ))}
    </section>
  );
}

function One({ personId, born, consent }: { personId: string; born: string; consent: Consent }) {
  const writes = useMay("write_health");
  const adult = new Date(`${born}T00:00:00Z`).setUTCFullYear(Number(born.slice(0, 4)) + 18) <= Date.now();
  const [asking, setAsking] = useState(false);
  const [words, setWords] = useState(consent.words);
  const [how, setHow] = useState<How>(adult ? "in_writing" : "by_guardian");
  const queries = useQueryClient();
  const record = useMutation({
    mutationFn: (given: boolean) =>
      take(
        api.POST("/api/people/{person_id}/consents", {
          params: { path: { person_id: personId } },
          body: { about: consent.about, given, said: given ? words : "", how },
        }),
      ),
    onSuccess: (now) => {
      queries.setQueryData(consentsQuery(personId).queryKey, now);
      setAsking(false);
    },
  });
  const last = consent.history.at(-1);
  return (
    <article className={desk.form}>
      <div className={desk.head}>
        <p>
          <b>{aboutWords[consent.about] ?? consent.about}</b>{" "}
          <span className={desk.note}>
            {last
              ? last.given
                ? `given ${dateOf(last.given_on)}, ${howWords[last.how]}`
                : `withdrawn ${dateOf(last.given_on)}`
              : "not asked"}
          </span>
        </p>
        {writes && !asking && (
          <Button
            size="compact-sm"
            variant="default"
            loading={record.isPending}
            onClick={() => (consent.holds ? record.mutate(false) : setAsking(true))}
          >
            {consent.holds ? "Withdraw" : "Record consent"}
          </Button>
        )}
      </div>
      {asking && (
        <>
          <Textarea
            label="What they agree to"
            autosize
            value={words}
            onChange={(event) => setWords(event.currentTarget.value)}
          />
          <div className={desk.row}>
            <NativeSelect
              label="How"
              value={how}
              onChange={(event) => setHow(event.currentTarget.value as How)}
              data={Object.entries(howWords).map(([value, label]) => ({ value, label }))}
            />
            <div className={desk.buttons}>
              <Button loading={record.isPending} onClick={() => record.mutate(true)}>
                Save consent
              </Button>
              <Button variant="default" onClick={() => setAsking(false)}>
                Cancel
              </Button>
            </div>
          </div>
        </>
      )}
      {record.isError && <ErrorPanel error={record.error} />}
    </article>
  );
}
