/** Working hours by day of the week: where gaps are looked for, and what the week shows. */
import { Button, Checkbox } from "@mantine/core";
import { TimeInput } from "@mantine/dates";
import { useState } from "react";
import type { Schema } from "../../api/client";
import { useChangePractice } from "../../api/practice";
import { weekdays } from "../../shared/days";
import desk from "../../shared/desk.module.css";
import { ErrorPanel } from "../../shared/parts";

type Spans = Schema["PracticeOut"]["hours"];
const USUAL = { opens: "09:00", closes: "18:00" };

export function Hours({ practice }: { practice: Schema["PracticeOut"] }) {
  const [hours, setHours] = useState<Spans>(practice.hours);
  const save = useChangePractice();
  const changed = JSON.stringify(hours) !== JSON.stringify(practice.hours);
  const set = (day: number, span: Spans[string] | undefined) => {
    const { [day]: _, ...others } = hours;
    setHours(span ? { ...others, [day]: span } : others);
  };
  return (
    <section className={desk.section}>
      <h2>Working hours</h2>
      <table className={desk.table}>
        <tbody>
          {weekdays.map((name, day) => {
            const span = hours[day];
            return (
              <tr key={name}>
                <td>
                  <Checkbox
                    label={name}
                    checked={span !== undefined}
                    onChange={(event) => set(day, event.currentTarget.checked ? USUAL : undefined)}
                  />
                </td>
                {(["opens", "closes"] as const).map((edge) => (
                  <td key={edge}>
                    {span && (
                      <TimeInput
                        aria-label={`${name} ${edge}`}
                        value={span[edge]}
                        onChange={(event) =>
                          event.currentTarget.value && set(day, { ...span, [edge]: event.currentTarget.value })
                        }
                      />
                    )}
                  </td>
                ))}
              </tr>
            );
          })}
        </tbody>
      </table>
      {save.isError && <ErrorPanel error={save.error} />}
      <div className={desk.buttons}>
        <Button
          variant="default"
          disabled={!changed}
          loading={save.isPending}
          onClick={() => save.mutate({ hours: hours as Schema["PracticeChange"]["hours"] })}
        >
          Save hours
        </Button>
      </div>
    </section>
  );
}
