/** Every safety rule, question and level of pressure that the core works with, to be read and filtered. */
import { TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { safetyQuery, useMe } from "../../api/queries";
import { ErrorPanel, Waiting } from "../../shared/parts";
import { OurRules } from "../catalogue/OurRules";
import { useLayer } from "../catalogue/useLayer";
import css from "./SafetyScreen.module.css";

const SOURCES = {
  first_aid: "first aid",
  tradition: "tradition",
  manual: "manual therapy",
  practice: "this practice",
} as const;

/** The practice's own rules, above the standing ones: added here, and taken back here. */
function OwnRules({ match }: { match: (...texts: string[]) => boolean }) {
  const layer = useLayer();
  if (layer.query.error) return <ErrorPanel error={layer.query.error} />;
  if (!layer.query.data) return null;
  return (
    <>
      {layer.failure && <ErrorPanel error={layer.failure} />}
      <OurRules layer={layer} match={match} />
    </>
  );
}

export function SafetyScreen() {
  const safety = useQuery(safetyQuery);
  const me = useMe();
  const own = Object.keys(me.data?.scale_g ?? {}).length > 0;
  const [wanted, setWanted] = useState("");
  if (safety.isPending) return <Waiting for="Loading the rules" />;
  if (safety.isError) return <ErrorPanel error={safety.error} retry={() => void safety.refetch()} />;
  const { questions, pressure } = safety.data;
  const rules = safety.data.rules;
  const match = (...texts: string[]) => texts.some((text) => text.toLowerCase().includes(wanted.toLowerCase()));
  return (
    <div className={css.page}>
      <div className={css.head}>
        <h1>Safety</h1>
        <TextInput
          aria-label="Filter"
          placeholder="pregnancy, ribs, level 2"
          value={wanted}
          onChange={(event) => setWanted(event.currentTarget.value)}
        />
      </div>
      <h2>Practice rules</h2>
      <OwnRules match={match} />
      <h2>Rules out a session</h2>
      <ul>
        {questions.flatMap((group) =>
          group.questions
            .filter((question) => question.severity !== "context" && match(question.ask, question.say ?? ""))
            .map((question) => (
              <li key={question.id}>
                <b>{question.severity}</b>
                <span>{question.ask}</span>
                <span>{question.say}</span>
                <small>{SOURCES[question.source]}</small>
              </li>
            )),
        )}
      </ul>
      <h2>Limits a session</h2>
      <ul>
        {rules
          .filter((rule) => match(rule.short, rule.reason))
          .map((rule) => (
            <li key={rule.id}>
              <b>{rule.severity}</b>
              <span>{rule.short}</span>
              <span>{rule.reason}</span>
              <small>
                {SOURCES[rule.source]}
                {rule.severity === "refuse" && rule.override === "never" && ", cannot be overridden"}
                {rule.touches.margin_cm > 0 && `, ${rule.touches.margin_cm} cm margin`}
                {rule.touches.limb && ", the whole limb"}
                {rule.consent && ", consent needed"}
              </small>
            </li>
          ))}
      </ul>
      <h2>Pressure levels</h2>
      <table>
        <thead>
          <tr>
            <th scope="col">Level</th>
            <th scope="col">In words</th>
            {Object.keys(pressure.contact_cm2).map((contact) => (
              <th key={contact} scope="col">
                {contact.replace("_", " ")}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {pressure.levels.map((level) => (
            <tr key={level.level}>
              <th scope="row">
                {level.level} {level.name}
              </th>
              <td>{level.words}</td>
              {Object.entries(pressure.contact_cm2).map(([contact, area]) => (
                <td key={contact}>{(level.n_per_cm2 * area).toFixed(1)} N</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p>
        {own
          ? "Your own levels, as measured with a kitchen scale."
          : "Training defaults. Set your own with a kitchen scale: any person's Measurements, next to Your hand."}
      </p>
    </div>
  );
}
