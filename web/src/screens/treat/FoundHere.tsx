/** Your finding at this place: how it feels, and how far beside its place; kept for the person's own map. */
import { useState } from "react";
import type { Schema } from "../../api/client";
import { facts } from "../../api/facts.gen";
import type { Keys } from "../../shared/keys";
import type { TreatmentState } from "../../treatment/fold";
import css from "./TreatScreen.module.css";
import type { Conductor } from "./useConductor";

type Texture = NonNullable<Schema["Found"]["texture"]>;
const TEXTURES = facts.textures as readonly Texture[];
const STEP_MM = 2;
const MOST_MM = 40;
/** Arrow keys by the place of their direction among the four: up and down first, then the two across. */
const ARROWS = ["arrowUp", "arrowDown", "arrowLeft", "arrowRight"];
const SIGNS = ["↑", "↓", "←", "→"];

type Props = { session: TreatmentState; conductor: Conductor; close: () => void };

/** What is chosen so far, and the keys that choose. */
export function useFoundHere({ session, conductor, close }: Props) {
  const { now, tell } = conductor;
  const { stop } = now;
  const side = stop?.side === "midline" ? "left" : now.side;
  const before = (session.found ?? []).find((one) => one.key === stop?.key && one.side === side);
  const [texture, setTexture] = useState<Texture | null>(null);
  const [mm, setMm] = useState<Record<string, number>>({});
  const ways = stop?.beside ?? [];
  /** One step along a direction takes back what was gone the other way. */
  const step = (rank: number) => {
    const way = ways[rank];
    const opposite = ways[rank ^ 1];
    if (!way || !opposite) return;
    const gone = (mm[way.name] ?? 0) - (mm[opposite.name] ?? 0) + STEP_MM;
    const { [way.name]: _, [opposite.name]: __, ...rest } = mm;
    if (gone > MOST_MM) return;
    setMm(gone === 0 ? rest : { ...rest, [gone > 0 ? way.name : opposite.name]: Math.abs(gone) });
  };
  const leave = () => {
    setTexture(null);
    setMm({});
    close();
  };
  const something = texture !== null || Object.keys(mm).length > 0;
  const keep = () => {
    if (something) tell({ kind: "found", side, texture, offset: { mm } });
    leave();
  };
  const keys: Keys = {
    ...Object.fromEntries(TEXTURES.map((one, n) => [`Digit${n + 1}`, () => setTexture(one)])),
    ...Object.fromEntries(ARROWS.map((key, rank) => [key, () => step(rank)])),
    enter: keep,
    escape: leave,
  };
  return { stop, side, before, texture, setTexture, mm, ways, step, something, keep, leave, keys };
}

export function FoundHere({ finding }: { finding: ReturnType<typeof useFoundHere> }) {
  const { stop, side, before, texture, setTexture, mm, ways, step, something, keep, leave } = finding;
  const words = Object.fromEntries(ways.map((way) => [way.name, way.words]));
  const said = Object.entries(mm).map(([name, value]) => `${value} mm ${words[name] ?? name}`);
  return (
    <section role="alertdialog" aria-label="Your finding" className={css.found} data-choices>
      <h2>Your finding{stop?.side === "midline" ? "" : `, ${side}`}</h2>
      {before && <p>Already recorded: the newest counts.</p>}
      <div>
        {TEXTURES.map((one, n) => (
          <button key={one} type="button" aria-pressed={texture === one} onClick={() => setTexture(one)}>
            {one} <kbd>{n + 1}</kbd>
          </button>
        ))}
      </div>
      {ways.length > 0 && (
        <div>
          {ways.map((way, rank) => (
            <button key={way.name} type="button" onClick={() => step(rank)}>
              {way.words} <kbd>{SIGNS[rank]}</kbd>
            </button>
          ))}
        </div>
      )}
      <p role="status" className={css.advice}>
        {said.length > 0 ? said.join(" and ") : "At its place"}
        {texture && `, ${texture}`}
      </p>
      <div>
        <button type="button" className={css.now} disabled={!something} onClick={keep}>
          Save <kbd>Enter</kbd>
        </button>
        <button type="button" onClick={leave}>
          Back to the stop <kbd>Esc</kbd>
        </button>
      </div>
    </section>
  );
}
