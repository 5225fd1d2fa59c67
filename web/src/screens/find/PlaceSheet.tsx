/** Everything about one place on this person: distance, fingers, steps, methods, cautions. All of it from the rule. */
import { useQuery } from "@tanstack/react-query";
import type { Schema } from "../../api/client";
import { safetyQuery } from "../../api/queries";
import { Figure } from "../../shared/parts";
import { shortId } from "../../shared/words";
import css from "./PlaceSheet.module.css";

type Located = Schema["Located"];

export function PlaceSheet({ located, personId }: { located: Located; personId: string }) {
  const atlas = useAtlasNames(located.point);
  return (
    <div className={css.sheet}>
      <header>
        <h2>
          {shortId(located.point)} <span lang="zh-Hant">{atlas?.characters}</span>
        </h2>
        <p className={css.romanised}>
          {atlas?.romanised && `${atlas.romanised} · `}
          {located.name} · {located.region}
        </p>
      </header>
      {located.refused && <p className={css.refused}>Left out: {located.refused.text}</p>}
      <Distance located={located} />
      <ol className={css.steps}>
        {located.steps.map((step) => (
          <li key={step}>{step}</li>
        ))}
      </ol>
      {located.fingers.length > 0 && <FingerBars checks={located.fingers} />}
      {located.methods.length > 1 && <Methods methods={located.methods} />}
      <Pressure located={located} />
      {located.cautions.length > 0 && (
        <section>
          <h3>Mind</h3>
          <ul className={css.cautions}>
            {located.cautions.map((caution) => (
              <li key={caution}>{caution}</li>
            ))}
          </ul>
        </section>
      )}
      <a
        className={css.drawing}
        href={`/api/people/${personId}/places/${located.point}/drawing?side=${located.side}`}
        target="_blank"
        rel="noreferrer"
      >
        Open as a drawing
      </a>
    </div>
  );
}

function useAtlasNames(id: string): Schema["Names"] | undefined {
  const atlas = useQuery({
    queryKey: ["atlas"],
    queryFn: async () => (await fetch("/api/atlas")).json() as Promise<{ id: string; names: Schema["Names"] }[]>,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return atlas.data?.find((entry) => entry.id === id)?.names;
}

function Distance({ located }: { located: Located }) {
  const { segment, level_cun } = located;
  if (located.area_cm2) return <Figure value={located.area_cm2.toFixed(1)} unit="cm²" words="on this person" />;
  if (!segment) return <Figure value={`±${located.uncertainty_cm.toFixed(1)}`} unit="cm" words="to feel around" />;
  const nearer = level_cun === null || level_cun === undefined ? null : Math.min(level_cun, segment.cun - level_cun);
  return (
    <div className={css.distance}>
      {nearer !== null && (
        <Figure
          value={(nearer * segment.cun_cm).toFixed(1)}
          unit="cm"
          words={`${+nearer.toFixed(2)} of ${segment.cun} parts`}
        />
      )}
      <Figure
        value={segment.cun_cm.toFixed(2)}
        unit="cm"
        words={segment.measured ? "one cun, measured" : "one cun, from the fit"}
      />
      <Figure value={`±${located.uncertainty_cm.toFixed(1)}`} unit="cm" words="the ring" />
    </div>
  );
}

const SPANS: Record<string, string> = {
  thumb_width: "thumb",
  two_fingers: "two fingers",
  three_fingers: "three fingers",
  four_fingers: "four fingers",
};

/** Fingers as bars to one scale: what is wanted, theirs, yours. */
function FingerBars({ checks }: { checks: Schema["FingerCheck"][] }) {
  const longest = Math.max(...checks.flatMap((check) => [check.wanted_cm, check.own_cm, check.practitioner_cm ?? 0]));
  const bar = (label: string, length: number, kind: string) => (
    <div className={css.bar} data-kind={kind}>
      <span>{label}</span>
      <i style={{ width: `${(length / longest) * 100}%` }} />
      <b>{length.toFixed(1)}</b>
    </div>
  );
  return (
    <section>
      <h3>In fingers</h3>
      {checks.map((check) => (
        <div key={check.span} className={css.bars}>
          {bar("wanted", check.wanted_cm, "wanted")}
          {bar(`their ${SPANS[check.span]}${check.own_measured ? "" : " (estimate)"}`, check.own_cm, "own")}
          {check.practitioner_cm && bar(`your ${SPANS[check.span]}`, check.practitioner_cm, "yours")}
          <p>{fingerSentence(check)}</p>
        </div>
      ))}
    </section>
  );
}

function fingerSentence(check: Schema["FingerCheck"]): string {
  const off = Math.abs(check.error_cm);
  if (off < 0.3) return "Their hand fits the distance.";
  return `Their hand is ${off.toFixed(1)} cm ${check.error_cm > 0 ? "too wide" : "short"} here: trust the parts.`;
}

function Methods({ methods }: { methods: Schema["MethodPlace"][] }) {
  return (
    <section>
      <h3>Ways to the place</h3>
      <ul className={css.methods}>
        {methods.map((method, index) => (
          <li key={method.name} data-agrees={method.agrees}>
            <b>{index === 0 ? "trusted" : `${method.off_cm.toFixed(1)} cm off`}</b> {method.name}
          </li>
        ))}
      </ul>
    </section>
  );
}

function Pressure({ located }: { located: Located }) {
  const safety = useQuery(safetyQuery);
  const level = safety.data?.pressure.levels.find((one) => one.level === located.press.max_level);
  return (
    <section>
      <h3>Press</h3>
      <p>
        With the {located.press.contact.replace("_", " ")}, {located.press.toward}.
        {located.press.support && ` Support: ${located.press.support}.`}
      </p>
      <p>
        At most level {located.press.max_level}
        {level && ` (${level.name}: ${level.words})`}. {located.press.max_level_reasons.join(" ")}
      </p>
    </section>
  );
}
