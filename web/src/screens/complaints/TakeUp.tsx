/** Taking a complaint up: what they say leads to what fits, with why; then its own questions, red flags and acts. */
import { Button, Checkbox, SegmentedControl, TagsInput, TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, lazy, Suspense, useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { kindsQuery, personQuery, refresh } from "../../api/queries";
import { usePatch } from "../../body/usePatch";
import { DayInput } from "../../shared/DayInput";
import desk from "../../shared/desk.module.css";
import { ErrorPanel, Waiting } from "../../shared/parts";
import type { Side } from "../../shared/words";
import { type Answers, AskFields, DoctorsLook, NOTHING } from "./AskFields";
import css from "./ComplaintsScreen.module.css";

/** Drawing in three dimensions comes as a chunk of its own, once somebody points. */
const PaintBody = lazy(() => import("../../body/PaintBody"));

type Props = { personId: string; taken: string[] };

export function TakeUp({ personId, taken }: Props) {
  const [said, setSaid] = useState("");
  const [wanted] = useDebouncedValue(said.trim(), 120);
  const [chosen, setChosen] = useState<{ kind: string; side: Side | null }>();
  const [all, setAll] = useState(false);
  const [denied, setDenied] = useState<string[]>([]);
  const [painting, setPainting] = useState(false);
  const [painted, setPainted] = useState<ReadonlySet<number>>(new Set());
  const [settled] = useDebouncedValue(painted, 400);
  const patch = usePatch(personId, settled);
  const where = patch.data?.regions ?? [];
  const heard = useQuery({
    queryKey: ["heard", wanted, where],
    queryFn: () => take(api.GET("/api/complaint-kinds/heard", { params: { query: { text: wanted, where } } })),
    enabled: wanted !== "" || where.length > 0,
    placeholderData: keepPreviousData,
  });
  const kinds = useQuery({ ...kindsQuery, enabled: all });
  const person = useQuery(personQuery(personId));
  const notOffered: Record<string, string> = person.data?.not_offered ?? {};
  const paintedSide = patch.data && patch.data.side !== "midline" ? patch.data.side : null;
  const pick = (kind: string) => setChosen({ kind, side: heard.data?.side ?? paintedSide });
  if (chosen) {
    return (
      <AskFirst
        key={chosen.kind}
        personId={personId}
        kind={chosen.kind}
        side={chosen.side}
        skin={[...painted]}
        onDone={() => {
          setChosen(undefined);
          setSaid("");
          setPainted(new Set());
          setPainting(false);
        }}
      />
    );
  }
  const found = wanted === "" && where.length === 0 ? [] : (heard.data?.fits ?? []);
  const fits = found.filter((fit) => !(fit.id in notOffered));
  const withheld = found.find((fit) => fit.id in notOffered);
  const first = fits[0];
  const alarms = (heard.data?.alarms ?? []).filter((alarm) => !denied.includes(alarm.flag));
  return (
    <section className={css.add} aria-label="New complaint">
      <h2>What is bothering them?</h2>
      <TextInput
        aria-label="What they say"
        placeholder="In their words: wakes at four, first steps in the morning"
        value={said}
        onChange={(event) => setSaid(event.currentTarget.value)}
        onKeyDown={(event) => {
          if (event.key === "Enter" && first && alarms.length === 0 && wanted === said.trim() && !heard.isFetching)
            pick(first.id);
        }}
      />
      <div className={desk.buttons}>
        <Button variant="default" onClick={() => setPainting(!painting)} aria-expanded={painting}>
          {painting ? "Hide the figure" : "Show on the figure"}
        </Button>
        <Button variant="subtle" onClick={() => setAll(!all)} aria-expanded={all}>
          {all ? "Hide the list" : "Choose from the list"}
        </Button>
      </div>
      {painting && (
        <Suspense fallback={<Waiting for="Loading the figure" />}>
          <PaintBody personId={personId} painted={painted} onPaint={setPainted} />
        </Suspense>
      )}
      {patch.data && <p role="status">{patch.data.words}</p>}
      {wanted !== "" && alarms.length > 0 && (
        <AskAtOnce
          personId={personId}
          alarms={alarms}
          onNo={(flag) => setDenied([...denied, flag])}
          onYes={() => setSaid("")}
        />
      )}
      {withheld && <p>{notOffered[withheld.id]}</p>}
      {wanted !== "" && heard.data && alarms.length === 0 && !withheld && fits.length === 0 && (
        <p>No match. Choose from the list.</p>
      )}
      <ul className={css.fits}>
        {(alarms.length === 0 ? fits : []).map((fit) => (
          <li key={fit.id}>
            <button type="button" onClick={() => pick(fit.id)}>
              <b>{fit.name}</b> {taken.includes(fit.id) && <span>already added</span>}
              <small>{fit.why}</small>
            </button>
          </li>
        ))}
      </ul>
      {all && (
        <ul className={css.fits}>
          {kinds.data?.map((one) => (
            <li key={one.id}>
              <button type="button" disabled={one.id in notOffered} onClick={() => pick(one.id)}>
                {one.name} {notOffered[one.id] && <small>{notOffered[one.id]}</small>}
              </button>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

type AlarmsProps = {
  personId: string;
  alarms: Schema["Alarm"][];
  onNo: (flag: string) => void;
  onYes: () => void;
};

/** What was said points at an emergency or a red flag: its question comes before any complaint. */
function AskAtOnce({ personId, alarms, onNo, onYes }: AlarmsProps) {
  const queries = useQueryClient();
  const raise = useMutation({
    mutationFn: (flag: string) =>
      take(
        api.POST("/api/people/{person_id}/screenings", {
          params: { path: { person_id: personId } },
          body: { answers: { [flag]: true }, in_full: false },
        }),
      ),
    onSuccess: async () => {
      await refresh(queries, ["person", personId]);
      await refresh(queries, ["day"]);
      onYes();
    },
  });
  return (
    <fieldset className={css.flags} aria-label="Ask first">
      <legend>Ask first</legend>
      {raise.isError && <ErrorPanel error={raise.error} />}
      {alarms.map((alarm) => (
        <div key={alarm.flag} className={css.alarm} data-severity={alarm.severity}>
          <p>
            <b>{alarm.ask}?</b> <small>said: {alarm.why}</small>
            {alarm.severity !== "context" && <em>If yes: {alarm.say}</em>}
          </p>
          <Button
            variant="default"
            loading={raise.isPending && raise.variables === alarm.flag}
            onClick={() => raise.mutate(alarm.flag)}
            aria-label={`Yes: ${alarm.ask}`}
          >
            Yes
          </Button>
          <Button variant="default" onClick={() => onNo(alarm.flag)} aria-label={`No: ${alarm.ask}`}>
            No
          </Button>
        </div>
      ))}
    </fieldset>
  );
}

type FirstProps = { personId: string; kind: string; side: Side | null; skin: number[]; onDone: () => void };

/** What a complaint is asked the first time. */
function AskFirst({ personId, kind, side: heardSide, skin, onDone }: FirstProps) {
  const ask = useQuery({
    queryKey: ["kind", kind],
    queryFn: () => take(api.GET("/api/complaint-kinds/{kind}", { params: { path: { kind } } })),
  });
  if (ask.isPending) return <Waiting for="Loading its questions" />;
  if (ask.isError) return <ErrorPanel error={ask.error} retry={onDone} />;
  return <Form ask={ask.data} personId={personId} heardSide={heardSide} skin={skin} onDone={onDone} />;
}

type FormProps = { ask: Schema["ToAsk"]; personId: string; heardSide: Side | null; skin: number[]; onDone: () => void };

function Form({ ask, personId, heardSide, skin, onDone }: FormProps) {
  const [side, setSide] = useState<Side>(heardSide ?? "both");
  const [acts, setActs] = useState<string[]>([]);
  const [since, setSince] = useState("");
  const [answers, setAnswers] = useState<Answers>(NOTHING);
  const [flags, setFlags] = useState<string[]>([]);
  const [look, setLook] = useState({ by: "", seen_on: "" });
  const queries = useQueryClient();
  const add = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/people/{person_id}/complaints", {
          params: { path: { person_id: personId } },
          body: {
            kind: ask.id,
            side: ask.one_sided ? side : "both",
            acts,
            since: since || null,
            answers,
            skin: skin.length ? skin : null,
            confirmed: ask.checked && look.by && look.seen_on ? look : null,
            red_flags: Object.fromEntries(ask.red_flags.map((one) => [one.id, flags.includes(one.id)])),
          },
        }),
      ),
    onSuccess: async () => {
      await refresh(queries, ["person", personId]);
      await refresh(queries, ["day"]);
      onDone();
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    add.mutate();
  };
  return (
    <form className={css.add} onSubmit={submit} aria-label={ask.name}>
      <h2>{ask.name}</h2>
      {ask.red_flags.length > 0 && (
        <fieldset className={css.flags}>
          <legend>Ask first: any of these?</legend>
          {ask.red_flags.map((flag) => (
            <Checkbox
              key={flag.id}
              label={flag.text}
              checked={flags.includes(flag.id)}
              onChange={(event) =>
                setFlags(event.currentTarget.checked ? [...flags, flag.id] : flags.filter((other) => other !== flag.id))
              }
            />
          ))}
        </fieldset>
      )}
      {flags.length > 0 && (
        <p role="alert">
          <b>This goes into the screening and rules out a session.</b> Save it and follow the screening advice.
        </p>
      )}
      {ask.checked && <DoctorsLook checked={ask.checked} value={look} onChange={setLook} />}
      {ask.one_sided && (
        <div>
          <span className={css.label} id="side-label">
            Side
          </span>
          <SegmentedControl
            fullWidth
            aria-labelledby="side-label"
            data={[
              { value: "left", label: "left" },
              { value: "both", label: "both" },
              { value: "right", label: "right" },
            ]}
            value={side}
            onChange={(value) => setSide(value as Side)}
          />
        </div>
      )}
      <TagsInput
        label="Activity affected"
        description="Up to three specific activities, rated again later"
        data={[...ask.acts]}
        maxTags={3}
        value={acts}
        onChange={setActs}
        acceptValueOnBlur
      />
      <AskFields questions={ask.questions} value={answers} onChange={setAnswers} />
      <DayInput label="Since" value={since} onChange={setSince} />
      {add.isError && <ErrorPanel error={add.error} />}
      <div className={desk.buttons}>
        <Button type="submit" loading={add.isPending}>
          Add complaint
        </Button>
        <Button variant="default" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </form>
  );
}
