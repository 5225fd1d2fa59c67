/** What a score leaves out, with the reason; what each complaint gets; what to look out for. */
import { useState } from "react";
import type { Schema } from "../../api/client";
import { Asks } from "../../shared/parts";
import { shortId, sideWords } from "../../shared/words";
import css from "./ComposeScreen.module.css";

type Props = {
  made: Schema["Score"];
  onPin: (id: string) => void;
  onAdd: (id: string, reason?: string) => void;
};
/** What a rule lets a signature lift: the reason is kept with the stop, and audited. */
function Sign({ onSign }: { onSign: (reason: string) => void }) {
  const [reason, setReason] = useState<string | null>(null);
  if (reason === null)
    return (
      <button type="button" onClick={() => setReason("")}>
        Override
      </button>
    );
  return (
    <form
      className={css.sign}
      onSubmit={(event) => {
        event.preventDefault();
        onSign(reason.trim());
        setReason(null);
      }}
    >
      <input
        aria-label="Reason for the override"
        placeholder="Why is it appropriate today?"
        value={reason}
        onChange={(event) => setReason(event.currentTarget.value)}
      />
      <button type="submit" disabled={reason.trim().length < 8}>
        Override
      </button>
    </form>
  );
}

type Row = Schema["Score"]["left_out"][number];
const ORDER = { refuse: 0, limit: 1, note: 2 } as const;

export function LeftOut({ made, onPin, onAdd }: Props) {
  const begins = (row: Row) => ((row.core_of ?? []).length > 0 ? 0 : 1);
  const rows = made.left_out.toSorted((a, b) => begins(a) - begins(b) || ORDER[a.severity] - ORDER[b.severity]);
  return (
    <section className={css.leftOut} aria-label="Left out">
      <Asks asks={made.asks} />
      {made.coverage?.map((row) => (
        <p key={row.complaint} className={css.coverage}>
          <b>{row.name}</b>
          {(row.core ?? []).length > 0 && (
            <>
              : core points <span className={css.core}>{row.core?.map(shortId).join(", ")}</span>
            </>
          )}
          . {covered(row)}
          {row.missing?.map((reason) => (
            <em key={reason}>{reason}</em>
          ))}
        </p>
      ))}
      <h2>Left out{rows.length > 0 && `: ${rows.length}`}</h2>
      {rows.length === 0 && <p>Nothing left out. All traditionally used points fit.</p>}
      <ul>
        {rows.map((row) => (
          <li key={`${row.id}-${row.side}`} data-severity={row.severity}>
            <b className={begins(row) === 0 ? css.core : undefined}>{shortId(row.id)}</b>{" "}
            <small>{sideWords[row.side]}</small> {row.reason}
            {row.overridable && <Sign onSign={(reason) => onAdd(row.id, reason)} />}
            {row.severity === "note" && (
              <>
                {" "}
                <button type="button" onClick={() => onAdd(row.id)}>
                  Add
                </button>
                <button type="button" onClick={() => onPin(row.id)}>
                  Pin
                </button>
              </>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Which kinds of points a complaint has in the score. */
function covered(row: Schema["Coverage"]): string {
  const kinds = [row.local && "local", row.far && "distal", row.calm && "calming"].filter(Boolean);
  return kinds.length > 0 ? `Covered: ${kinds.join(", ")}.` : "";
}
