/** Named doses with their computed lengths, and the techniques beside pressing. */
import { Button, NumberInput } from "@mantine/core";
import type { Schema } from "../../api/client";
import { outline } from "../../score/shapes";
import { positionWords } from "../../shared/words";
import css from "./CatalogueScreen.module.css";
import { type LayerOfPractice, without } from "./useLayer";

type Match = (...texts: string[]) => boolean;

export function Doses(props: { pages: Schema["DosePage"][]; layer: LayerOfPractice; match: Match }) {
  const { pages, layer, match } = props;
  return (
    <table className={css.wide}>
      <thead>
        <tr>
          <th scope="col">Dose</th>
          <th scope="col">Symbol</th>
          <th scope="col">Description</th>
          <th scope="col">Duration</th>
          <th scope="col">Level</th>
          <th scope="col">Used by</th>
        </tr>
      </thead>
      <tbody>
        {pages
          .filter((page) => match(page.id.replaceAll("_", " "), page.words, page.used_by.join(" ")))
          .map((page) => (
            <tr key={`${page.id}-${page.changed}`}>
              <th scope="row">
                {page.id.replaceAll("_", " ")} {page.changed && <mark>customised</mark>}
              </th>
              <td>
                <svg width="90" height="26" viewBox="0 -24 90 26" aria-hidden className={css.shape}>
                  <path d={outline(page.dose.dose, Math.min(page.seconds, 88), 6 + 3.4 * page.dose.level)} />
                </svg>
              </td>
              <td>{page.words}</td>
              <td>{page.seconds} s</td>
              <td>
                <NumberInput
                  size="xs"
                  w={60}
                  aria-label={`Level of ${page.id.replaceAll("_", " ")}`}
                  min={1}
                  max={5}
                  allowDecimal={false}
                  defaultValue={page.dose.level}
                  onBlur={(event) => {
                    const level = Number(event.currentTarget.value);
                    if (level >= 1 && level !== page.dose.level)
                      layer.change({ doses: { ...layer.layer.doses, [page.id]: { ...page.dose, level } } });
                  }}
                />
              </td>
              <td>
                {page.used_by.join(", ")}
                {page.changed && (
                  <Button
                    size="compact-xs"
                    variant="default"
                    onClick={() => layer.change({ doses: without(layer.layer.doses, page.id) })}
                  >
                    Restore default
                  </Button>
                )}
              </td>
            </tr>
          ))}
      </tbody>
    </table>
  );
}

const KINDS = { stroke: "stroke", loosen: "loosening", stretch: "stretch", breathe: "breathing" } as const;

export function Techniques({ rows, match }: { rows: Schema["Technique"][]; match: Match }) {
  return (
    <table className={css.wide}>
      <thead>
        <tr>
          <th scope="col">Technique</th>
          <th scope="col">Kind</th>
          <th scope="col">Instructions</th>
          <th scope="col">Positions</th>
        </tr>
      </thead>
      <tbody>
        {rows
          .filter((row) => match(row.name, row.words, KINDS[row.kind]))
          .map((row) => (
            <tr key={row.id}>
              <th scope="row">{row.name}</th>
              <td>{KINDS[row.kind]}</td>
              <td>{row.words}</td>
              <td>{row.positions.map((position) => positionWords[position]).join(", ")}</td>
            </tr>
          ))}
      </tbody>
    </table>
  );
}
