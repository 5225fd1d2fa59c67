/** The words of letters: the shipped ones, or the practice's own, tried on made-up facts before they count. */
import { Button, Textarea } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { templatesQuery } from "../../api/between";
import { api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import { refresh } from "../../api/queries";
import desk from "../../shared/desk.module.css";
import { ErrorPanel, Waiting } from "../../shared/parts";
import css from "./CatalogueScreen.module.css";

type Template = Schema["TemplateOut"];

export function LetterWords({ match }: { match: (...texts: string[]) => boolean }) {
  const templates = useQuery(templatesQuery);
  if (templates.isPending) return <Waiting for="Loading the letter texts" />;
  if (templates.isError) return <ErrorPanel error={templates.error} />;
  return (
    <div className={css.letters}>
      {templates.data
        .filter((one) => match(one.title, one.body))
        .map((one) => (
          <One key={`${one.kind} ${one.version}`} template={one} />
        ))}
    </div>
  );
}

function One({ template }: { template: Template }) {
  const manages = useMay("manage");
  const [body, setBody] = useState(template.body);
  const queries = useQueryClient();
  const path = { kind: template.kind };
  const changed = () => refresh(queries, templatesQuery.queryKey);
  const attempt = useMutation({
    mutationFn: () => take(api.POST("/api/letter-templates/try", { body: { body } })),
  });
  const save = useMutation({
    mutationFn: () =>
      take(api.PUT("/api/letter-templates/{kind}", { params: { path }, body: { version: template.version, body } })),
    onSuccess: async () => {
      await changed();
      notifications.show({ message: "Saved. New letters use this text." });
    },
  });
  const drop = useMutation({
    mutationFn: () => take(api.DELETE("/api/letter-templates/{kind}", { params: { path } })),
    onSuccess: changed,
  });
  const failure = attempt.error ?? save.error ?? drop.error;
  return (
    <section className={desk.section} aria-label={template.title}>
      <h2>
        {template.title} {template.own && <small className={desk.note}>customised</small>}
      </h2>
      <div className={attempt.data ? desk.two : undefined}>
        <Textarea
          aria-label={`Text: ${template.title}`}
          autosize
          minRows={8}
          maxRows={20}
          readOnly={!manages}
          value={body}
          onChange={(event) => setBody(event.currentTarget.value)}
          classNames={{ input: css.body }}
        />
        {attempt.data && <pre className={css.tried}>{attempt.data.text}</pre>}
      </div>
      {(template.doubts?.length ?? 0) > 0 && (
        <p className={desk.note}>Avoid these words in a letter: {template.doubts?.join(", ")}.</p>
      )}
      {failure && <ErrorPanel error={failure} />}
      <div className={desk.buttons}>
        <Button variant="default" loading={attempt.isPending} onClick={() => attempt.mutate()}>
          Preview
        </Button>
        {manages && (
          <Button disabled={body === template.body} loading={save.isPending} onClick={() => save.mutate()}>
            Save
          </Button>
        )}
        {manages && template.own && (
          <Button variant="default" loading={drop.isPending} onClick={() => drop.mutate()}>
            Restore default
          </Button>
        )}
      </div>
    </section>
  );
}
