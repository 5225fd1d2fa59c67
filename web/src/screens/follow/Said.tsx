/** What has been worked out from the ratings, number first; each says what it cannot tell. */
import type { Schema } from "../../api/client";
import { Figure } from "../../shared/parts";
import { dateOf } from "../../shared/words";
import css from "./FollowScreen.module.css";

type Complaint = Schema["ComplaintCourse"];
const minus = (text: string) => text.replaceAll("-", "−");
const signed = (value: number) => minus(value > 0 ? `+${value.toFixed(1)}` : value.toFixed(1));
const between = ({ low, high }: Schema["Estimate"]) => `${signed(low)} to ${signed(high)}`;

export function Said({ complaint, practice }: { complaint: Complaint; practice: Schema["HomePractice"] }) {
  const { outcome, analysis, episodes, acts, questions } = complaint;
  const { overlap, trend, turn, carry_over, needed } = analysis;
  return (
    <section className={css.said} aria-label="Outcome">
      <h2>Outcome</h2>
      <div className={css.numbers}>
        {outcome.points && (
          <Figure value={signed(outcome.points.middle)} words={`points, ${between(outcome.points)}`} />
        )}
        {outcome.per_cent !== null && outcome.per_cent !== undefined && (
          <Figure value={signed(outcome.per_cent).replace(".0", "")} unit="%" words="of baseline" />
        )}
        {outcome.noticeable !== null && outcome.noticeable !== undefined && (
          <Figure value={Math.round(100 * outcome.noticeable)} unit="%" words="chance of a noticeable change" />
        )}
        <Figure value={outcome.ratings} words={`ratings, ${outcome.baseline} at baseline`} />
      </div>
      <dl className={css.list}>
        {outcome.scatter !== null && outcome.scatter !== undefined && (
          <>
            <dt>Scatter</dt>
            <dd>
              Ratings vary by about {outcome.scatter.toFixed(1)} points. Two ratings must differ by{" "}
              {outcome.reliable?.toFixed(1)} to show a real change.
            </dd>
          </>
        )}
        {trend && (
          <>
            <dt>Trend</dt>
            <dd>
              {signed(trend.per_week.middle)} points per week ({between(trend.per_week)}), over {trend.ratings} ratings
              in {trend.days} days.
            </dd>
          </>
        )}
        {turn && (
          <>
            <dt>Turning point</dt>
            <dd>
              About {dateOf(turn.on)} (between {dateOf(turn.earliest)} and {dateOf(turn.latest)}): {turn.before} before,{" "}
              {turn.after} after.
            </dd>
          </>
        )}
        {overlap && (
          <>
            <dt>Overlap</dt>
            <dd>
              Of {overlap.pairs} pairs (one earlier, one recent rating), the recent one is lower in{" "}
              {Math.round(100 * overlap.lower_now)} %. Chance alone would show as much in{" "}
              {Math.max(Math.round(100 * overlap.by_chance), 1)} of 100.
              {overlap.trend_taken_out !== null &&
                ` The earlier trend (${signed(overlap.trend_taken_out)} per week) has been removed.`}
            </dd>
          </>
        )}
        {complaint.with_practice && (
          <>
            <dt>With earlier people</dt>
            <dd>{complaint.with_practice.sentence}</dd>
          </>
        )}
        <dt>Relief per session</dt>
        <dd>
          {carry_over.sentence} {carry_over.why_not}
        </dd>
        {episodes && (
          <>
            <dt>Episodes</dt>
            <dd>
              {episodes.sentence}
              {episodes.clustered && " They occur in clusters, so the interval is too narrow."}
              <Counts name="Before it" rows={episodes.triggers} />
              <Counts name="Helped" rows={episodes.helped} />
              {episodes.before.hours !== null && episodes.since.hours !== null && (
                <span className={css.small}>
                  They last {episodes.before.hours} h before, {episodes.since.hours} h since.
                </span>
              )}
            </dd>
          </>
        )}
        {acts
          .filter((act) => act.ratings.length > 0)
          .map((act) => (
            <span key={act.id} className={css.pair}>
              <dt>{act.words}</dt>
              <dd>{act.outcome.sentence}</dd>
            </span>
          ))}
        {practice.entries > 0 && (
          <>
            <dt>At home</dt>
            <dd>{practice.sentence} One log cannot show whether it helped.</dd>
          </>
        )}
        {needed && !needed.enough && (
          <>
            <dt>Ratings needed</dt>
            <dd>{needed.plan}</dd>
          </>
        )}
      </dl>
      {questions.length > 0 && (
        <div className={css.ask}>
          <h3>To ask at the next visit</h3>
          {questions.map((one) => (
            <p key={one.id}>{minus(one.words)}</p>
          ))}
        </div>
      )}
    </section>
  );
}

function Counts({ name, rows }: { name: string; rows: Schema["Counted"][] }) {
  if (rows.length === 0) return null;
  return (
    <span className={css.small}>
      {name}:{" "}
      {rows
        .slice(0, 3)
        .map((one) => `${one.words} ${one.count} of ${one.of}`)
        .join(", ")}
      .
    </span>
  );
}
