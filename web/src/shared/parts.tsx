/** Shared parts that know nothing of a screen. */
import { Button, Loader } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";
import { ApiError } from "../api/client";
import css from "./parts.module.css";

/** What holds for a person, in few words each; hatched, because it takes something away. */
export function LimitStrip({ limits, more = 4 }: { limits: string[]; more?: number }) {
  if (limits.length === 0) return null;
  const hidden = limits.length - more;
  return (
    <ul className={css.limits} aria-label="Limits">
      {limits.slice(0, more).map((limit) => (
        <li key={limit}>{limit}</li>
      ))}
      {hidden > 0 && <li title={limits.slice(more).join(" · ")}>and {hidden} more</li>}
    </ul>
  );
}

/** What has to be asked before hands go on. */
export function Asks({ asks }: { asks: string[] | undefined }) {
  if (!asks?.length) return null;
  return (
    <ul className={css.asks} aria-label="Ask first">
      {asks.map((one) => (
        <li key={one}>{one}</li>
      ))}
    </ul>
  );
}

/** A soreness numeral in a ring whose thickness grows with it. */
export function SoreRing({ value, size = 34 }: { value: number; size?: number }) {
  const width = 1 + (value / 10) * (size / 6);
  return (
    <svg width={size} height={size} viewBox={`0 0 ${size} ${size}`} role="img" aria-label={`soreness ${value}`}>
      <circle
        cx={size / 2}
        cy={size / 2}
        r={size / 2 - width / 2 - 0.5}
        fill="none"
        stroke="currentColor"
        strokeWidth={width}
      />
      <text
        x="50%"
        y="50%"
        dy="0.36em"
        textAnchor="middle"
        fontSize={size * 0.42}
        fill="currentColor"
        className={css.figures}
      >
        {value}
      </text>
    </svg>
  );
}

/** Eleven buttons from 0 to 10. */
export function Scale({
  value,
  onChange,
  label,
  low = "none",
  high = "worst",
}: {
  value: number | null;
  onChange: (value: number) => void;
  label: string;
  low?: string;
  high?: string;
}) {
  return (
    <div className={css.scale} role="radiogroup" aria-label={label}>
      {Array.from({ length: 11 }, (_, n) => n).map((n) => (
        // biome-ignore lint/a11y/useSemanticElements: a row of large buttons is what a hand at arm's length can hit
        <button key={n} type="button" role="radio" aria-checked={value === n} onClick={() => onChange(n)}>
          {n}
        </button>
      ))}
      <span aria-hidden>{low}</span>
      <span aria-hidden>{high}</span>
    </div>
  );
}

/** Says that something is coming, once it has taken a quarter of a second. */
export function Waiting({ for: what }: { for: string }) {
  return (
    <div className={css.waiting} role="status">
      <Loader size="sm" color="var(--later)" /> {what}
    </div>
  );
}

/** An error in its own words, with the way on: to try again, or to sign in where the session has ended meanwhile. */
export function ErrorPanel({ error, retry }: { error: unknown; retry?: () => void }) {
  const message = error instanceof ApiError ? error.message : "Something went wrong on this screen. Reload it.";
  const { pathname, href, origin } = window.location;
  const ended = error instanceof ApiError && error.status === 401 && pathname !== "/sign-in";
  return (
    <div className={css.trouble} role="alert">
      <p>{message}</p>
      {ended && (
        <Button renderRoot={(props) => <Link {...props} to="/sign-in" search={{ next: href.slice(origin.length) }} />}>
          Sign in
        </Button>
      )}
      {retry && !ended && (
        <Button variant="default" onClick={retry}>
          Try again
        </Button>
      )}
    </div>
  );
}

/** An empty place says what to do next. */
export function Empty({ children }: { children: ReactNode }) {
  return <div className={css.empty}>{children}</div>;
}

/** A number first, then what it means. */
export function Figure({ value, unit, words }: { value: ReactNode; unit?: string; words: ReactNode }) {
  return (
    <div className={css.figure}>
      <strong className={css.figures}>
        {value}
        {unit && <small>{unit}</small>}
      </strong>
      <span>{words}</span>
    </div>
  );
}
