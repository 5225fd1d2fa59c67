/** Everything about one place on this person: distance, fingers, steps, methods, cautions. All of it from the rule. */
import { Button, HoverCard } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import type { Schema } from "../../api/client";
import { safetyQuery, useMe } from "../../api/queries";
import { useShownNames } from "../../shared/languages";
import { Figure } from "../../shared/parts";
import { shortId } from "../../shared/words";
import { CrossSection } from "./CrossSection";
import { Elsewhere } from "./Elsewhere";
import { FeltIt } from "./FeltIt";
import { MeasureHere } from "./MeasureHere";
import css from "./PlaceSheet.module.css";

type Located = Schema["Located"];
type Props = {
  located: Located;
  personId: string;
  step: number | null;
  onStep: (step: number | null) => void;
  pose: string;
  felt: Schema["FoundOut"][];
  nudging: boolean;
  nudged: number[] | null;
  onNudge: (on: boolean) => void;
  onNudged: (at: number[] | null) => void;
  onEdit: () => void;
  onNear: () => void;
  both: boolean;
  onBoth: (on: boolean) => void;
};

export function PlaceSheet(props: Props) {
  const { located, personId } = props;
  const shown = useShownNames();
  return (
    <div className={css.sheet}>
      <header>
        <h2>
          {shortId(located.id)} {shown("characters") && <span lang="zh-Hant">{located.characters}</span>}
        </h2>
        <p className={css.romanised}>
          {[shown("romanised") && located.romanised, shown("english") && located.name, located.region]
            .filter(Boolean)
            .join(" · ")}
        </p>
      </header>
      {located.refused && <p className={css.refused}>Left out: {located.refused.text}</p>}
      {located.cautions.length > 0 && (
        <ul className={css.cautions} aria-label="Cautions">
          {located.cautions.map((caution) => (
            <li key={caution}>{caution}</li>
          ))}
        </ul>
      )}
      <LastTime felt={props.felt} />
      <Distance located={located} />
      {located.posture && <p className={css.posture}>Posture: {located.posture}.</p>}
      <Steps {...props} />
      <MeasureHere personId={personId} id={located.id} ring={located.uncertainty_cm} />
      {located.fingers.length > 0 && <FingerBars checks={located.fingers} />}
      {located.methods.length > 1 && <Methods methods={located.methods} />}
      {located.alternatives && located.alternatives.length > 0 && (
        <Elsewhere id={located.id} places={located.alternatives} both={props.both} onBoth={props.onBoth} />
      )}
      {located.under && <CrossSection section={located.under} />}
      <Pressure located={located} />
      <FeltIt key={`${located.id}-${located.side}`} {...props} />
      <p className={css.source}>Source: {located.source}.</p>
      <footer className={css.drawing}>
        <a
          href={`/api/people/${personId}/places/${located.id}/drawing?side=${located.side}`}
          target="_blank"
          rel="noreferrer"
        >
          Drawing
        </a>
        <a
          href={`/api/people/${personId}/plates?ids=${located.id}&side=${located.side}`}
          target="_blank"
          rel="noreferrer"
        >
          Print this point
        </a>
        <Button variant="default" size="compact-sm" onClick={props.onNear}>
          What is nearby
        </Button>
        {located.id.startsWith("own_") && (
          <Button variant="default" size="compact-sm" onClick={props.onEdit}>
            Edit its rule
          </Button>
        )}
      </footer>
    </div>
  );
}

function LastTime({ felt }: { felt: Schema["FoundOut"][] }) {
  const last = felt.at(-1);
  if (!last) return null;
  const day = new Date(last.at).toLocaleDateString("en-GB", { day: "numeric", month: "short" });
  return (
    <p className={css.last}>
      <b>Last time</b> {last.words}
      {last.note && `: ${last.note}`} <small>{day}</small>
    </p>
  );
}

function Distance({ located }: { located: Located }) {
  const { segment, counted_cun, way } = located;
  const span = useMe().data?.fingers.hand_span;
  if (located.area_cm2) return <Figure value={located.area_cm2.toFixed(1)} unit="cm²" words="on this person" />;
  const counted = counted_cun || null; // at the landmark itself nothing is counted
  return (
    <div className={css.distance}>
      {segment && counted !== null && (
        <Figure
          value={(counted * segment.cun_cm).toFixed(1)}
          unit="cm"
          words={`${+counted.toFixed(2)} of ${segment.cun} cun`}
        />
      )}
      {segment && (
        <Figure
          value={segment.cun_cm.toFixed(2)}
          unit="cm"
          words={segment.measured ? "1 cun, measured" : "1 cun, estimated"}
        />
      )}
      {located.across && (
        <Figure
          value={located.across.distance_cm.toFixed(1)}
          unit="cm"
          words={`lateral to the midline, ${+located.across.cun.toFixed(2)} cun`}
        />
      )}
      <Figure value={`±${located.uncertainty_cm.toFixed(1)}`} unit="cm" words="search radius" />
      {way && (
        <p className={css.way}>
          From the {way.from_name}: {way.skin_cm.toFixed(1)} cm along the skin, {way.straight_cm.toFixed(1)} cm straight
          {span && way.skin_cm > span / 3 ? `, ${(way.skin_cm / span).toFixed(1)} of your span.` : "."}
        </p>
      )}
    </div>
  );
}

/** The way, one step at a time: a step that asks for a landmark shows its picture, and turns the body to it. */
function Steps({ located, personId, step, onStep }: Props) {
  return (
    <ol className={css.steps} aria-label="How to find it">
      {located.steps.map((text, index) => {
        const landmark = located.step_landmarks[index];
        const button = (
          <button type="button" onClick={() => onStep(index === step ? null : index)}>
            {text}
          </button>
        );
        return (
          <li key={text} aria-current={index === step ? "step" : undefined}>
            {landmark ? (
              <HoverCard position="left" openDelay={250} width={220} keepMounted={false}>
                <HoverCard.Target>{button}</HoverCard.Target>
                <HoverCard.Dropdown>
                  <img
                    className={css.landmark}
                    src={`/api/people/${personId}/landmarks/${landmark}/drawing?side=${located.side}`}
                    alt={located.landmark_names[landmark] ?? landmark}
                  />
                </HoverCard.Dropdown>
              </HoverCard>
            ) : (
              button
            )}
          </li>
        );
      })}
    </ol>
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
  if (off < 0.3) return "Their finger widths match the distance.";
  return `Their fingers measure ${off.toFixed(1)} cm ${check.error_cm > 0 ? "too wide" : "short"} here. Use the cun measurement.`;
}

/** Each way to the place: how far from the first, how exact on this person, which one to trust and why. */
function Methods({ methods }: { methods: Schema["MethodPlace"][] }) {
  return (
    <section>
      <h3>Locating methods</h3>
      <ul className={css.methods}>
        {methods.map((method, index) => (
          <li key={method.name} data-agrees={method.agrees} data-trusted={method.trusted || undefined}>
            <p>
              {method.trusted && <em>drawn here</em>} {method.name}
            </p>
            <p>
              <b>±{method.error_cm.toFixed(1)} cm</b>
              {index > 0 && <b>{method.off_cm.toFixed(1)} cm from the first</b>}
              {!method.agrees && <strong>disagrees</strong>}
            </p>
            <small>{method.why}</small>
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
