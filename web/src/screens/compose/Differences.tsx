/** What one score has that another has not, and what both do otherwise. */
import type { Schema } from "../../api/client";
import { isPressed } from "../../score/shapes";
import { minutesAndSeconds, shortId, sideWords } from "../../shared/words";
import css from "./ComposeScreen.module.css";

type Score = Schema["Score"];
type Stop = Schema["Stop"];

/** Stops by what they are: id and side, of those that sound. */
const byPlace = (score: Score) =>
  new Map(
    score.stops.filter((stop) => !stop.muted && isPressed(stop)).map((stop) => [`${stop.id} ${stop.side}`, stop]),
  );

export function Differences({ from, to }: { from: Score; to: Score }) {
  const before = byPlace(from);
  const after = byPlace(to);
  const gone = [...before].filter(([place]) => !after.has(place)).map(([, stop]) => stop);
  const come = [...after].filter(([place]) => !before.has(place)).map(([, stop]) => stop);
  const other = [...after].flatMap(([place, stop]) => {
    const was = before.get(place);
    return was && (was.duration_s !== stop.duration_s || was.level !== stop.level) ? [{ was, stop }] : [];
  });
  if (gone.length + come.length + other.length === 0)
    return <p className={css.hint}>Same stops, durations and levels.</p>;
  return (
    <dl className={css.differences}>
      <Row words="added" stops={come} />
      <Row words="removed" stops={gone} />
      {other.length > 0 && (
        <div>
          <dt>changed</dt>
          <dd>
            {other.map(({ was, stop }) => (
              <span key={stop.key}>
                <b>{shortId(stop.id)}</b> {minutesAndSeconds(was.duration_s)} → {minutesAndSeconds(stop.duration_s)}
                {was.level !== stop.level && `, level ${was.level} → ${stop.level}`}
              </span>
            ))}
          </dd>
        </div>
      )}
    </dl>
  );
}

function Row({ words, stops }: { words: string; stops: Stop[] }) {
  if (stops.length === 0) return null;
  return (
    <div>
      <dt>{words}</dt>
      <dd>
        {stops.map((stop) => (
          <span key={`${stop.id} ${stop.side}`}>
            <b>{shortId(stop.id)}</b> {sideWords[stop.side]}
          </span>
        ))}
      </dd>
    </div>
  );
}
