/** What lies under a place, from the skin inward: layers as bands of ink, tendons, vessels and nerves where they run. */
import type { Schema } from "../../api/client";
import css from "./CrossSection.module.css";

type Section = Schema["TissueSection"];
type Layer = Section["layers"][number];
type Neighbour = NonNullable<Section["beside"]>[number];

const WIDTH = 320;
const DRAWN = 120; // the drawing's own width; names stand beside it
const HEIGHT = 176;
const LEAST = 15; // a band no lower than its name
const APART = 12;
const ABOVE = 14; // room for the arrow of the finger
const LONGEST = 29; // characters on a line beside the drawing
const LINE = 12;

type Band = Layer & { top: number; height: number };

function bandsOf(layers: Layer[]): Band[] {
  const whole = layers.reduce((sum, layer) => sum + (layer.thick ?? 1), 0);
  const spare = HEIGHT - LEAST * layers.length;
  let top = 0;
  return layers.map((layer) => {
    const height = LEAST + (spare * (layer.thick ?? 1)) / whole;
    top += height;
    return { ...layer, top: top - height, height };
  });
}

/** Where the names of neighbours stand so that none lies over another, from the highest down. */
function labelled(beside: Neighbour[], from: number): { one: Neighbour; x: number; y: number; label: number }[] {
  let last = Number.NEGATIVE_INFINITY;
  return beside
    .map((one) => ({
      one,
      x: DRAWN / 2 + (one.side * DRAWN) / 2.4,
      y: from + one.depth * (HEIGHT - from - 8) + 4,
    }))
    .sort((a, b) => a.y - b.y)
    .map((place) => {
      last = Math.max(place.y, last + APART);
      return { ...place, label: last };
    });
}

const MARK = {
  tendon: (x: number, y: number) => <ellipse cx={x} cy={y} rx={7} ry={4.5} className={css.tendon} />,
  vessel: (x: number, y: number) => <circle cx={x} cy={y} r={4.5} className={css.vessel} />,
  nerve: (x: number, y: number) => (
    <g className={css.nerve}>
      <circle cx={x} cy={y} r={4} />
      <path d={`M${x - 2.8} ${y - 2.8}l5.6 5.6m0 -5.6l-5.6 5.6`} />
    </g>
  ),
  gland: (x: number, y: number) => <ellipse cx={x} cy={y} rx={8} ry={6} className={css.gland} />,
  organ: (x: number, y: number) => <ellipse cx={x} cy={y} rx={9} ry={8} className={css.organ} />,
};

export function CrossSection({ section }: { section: Section }) {
  const bands = bandsOf(section.layers);
  const beside = labelled(section.beside ?? [], bands[1] ? bands[1].top : 0);
  const height = Math.max(HEIGHT, ...beside.map((one) => one.label + 6));
  const said = [
    ...section.layers.map((layer) => layer.name),
    ...(section.beside ?? []).map((one) => `${one.kind}: ${one.name}`),
  ].join("; ");
  return (
    <section>
      <h3>What is under it</h3>
      {section.gap && (
        <p className={css.gap}>
          Between two tendons: {section.gap[0]} and {section.gap[1]}.
        </p>
      )}
      <svg
        viewBox={`0 ${-ABOVE} ${WIDTH} ${height + 2 + ABOVE}`}
        role="img"
        aria-label={`From the skin inwards: ${said}`}
      >
        <defs>
          <pattern id="section-muscle" width="4" height="4" patternUnits="userSpaceOnUse">
            <path d="M0 2h4" className={css.hatch} />
          </pattern>
          <pattern id="section-bone" width="5" height="5" patternUnits="userSpaceOnUse">
            <circle cx="2.5" cy="2.5" r="0.8" className={css.dot} />
          </pattern>
          <pattern id="section-organ" width="6" height="6" patternUnits="userSpaceOnUse">
            <path d="M0 6l6 -6" className={css.hatch} />
          </pattern>
        </defs>
        {bands.map((band) => (
          <g key={`${band.kind}-${band.name}-${band.top}`}>
            <rect
              x={0.5}
              y={band.top + 0.5}
              width={DRAWN}
              height={band.height}
              data-kind={band.kind}
              className={css.band}
            />
          </g>
        ))}
        <path d={`M${DRAWN / 2} ${-ABOVE}v${ABOVE}m-4 -5l4 5l4 -5`} className={css.press} />
        {beside.map(({ one, x, y }) => (
          <g key={one.name}>{MARK[one.kind](x, y)}</g>
        ))}
        <Names bands={bands} />
      </svg>
      {beside.length > 0 && (
        <ul className={css.beside}>
          {beside.map(({ one }) => (
            <li key={one.name}>
              <svg viewBox="0 0 18 14" width={18} height={14} aria-hidden>
                {MARK[one.kind](9, 7)}
              </svg>
              {one.name}
            </li>
          ))}
        </ul>
      )}
      <small>Schematic: shows the order of tissues, not distances. People differ.</small>
    </section>
  );
}

/** A long name on two lines, parted at the space nearest to its middle. */
function lines(name: string): string[] {
  if (name.length <= LONGEST) return [name];
  const spaces = [...name.matchAll(/ /g)].map((found) => found.index);
  const at = spaces.sort((a, b) => Math.abs(a - name.length / 2) - Math.abs(b - name.length / 2))[0];
  return at === undefined ? [name] : [name.slice(0, at), name.slice(at + 1)];
}

function Names({ bands }: { bands: Band[] }) {
  return bands.map((band) => {
    const parts = lines(band.name);
    const middle = band.top + band.height / 2 + 4 - ((parts.length - 1) * LINE) / 2;
    return (
      <text key={`${band.name}-${band.top}`} className={css.name}>
        {parts.map((part, n) => (
          <tspan key={part} x={DRAWN + 8} y={middle + n * LINE}>
            {part}
          </tspan>
        ))}
      </text>
    );
  });
}
