/** Close flat views of ear, foot, hand, face and scalp: every area, two traditions side by side, their differences. */
import { SegmentedControl } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schema, take } from "../../api/client";
import { ErrorPanel, Waiting } from "../../shared/parts";
import css from "./SheetView.module.css";

type Known = Schema["SheetKnown"];
type Tradition = Known["traditions"][number];
type Props = {
  personId: string;
  figureKey: string;
  sheets: Known[];
  side: "left" | "right";
  chosen: string | undefined;
  onChoose: (id: string) => void;
};

export function SheetView({ personId, figureKey, sheets, side, chosen, onChoose }: Props) {
  const [wanted, setWanted] = useState(sheets[0]?.id ?? "");
  const [only, setOnly] = useState<Tradition | "both">("both");
  const sheet = sheets.find((one) => one.id === wanted) ?? sheets[0];
  if (!sheet) return null;
  const picked = sheet.traditions.filter((tradition) => only === "both" || tradition === only);
  const shown = picked.length > 0 ? picked : sheet.traditions;
  return (
    <div className={css.page}>
      <div className={css.which}>
        {sheets.length > 1 && (
          <SegmentedControl
            aria-label="Sheet"
            data={sheets.map((one) => ({ value: one.id, label: one.name }))}
            value={sheet.id}
            onChange={setWanted}
          />
        )}
        {sheet.traditions.length > 1 && (
          <SegmentedControl
            aria-label="Map"
            data={[
              { value: "both", label: "both" },
              { value: "first", label: "first" },
              { value: "second", label: "second" },
            ]}
            value={only}
            onChange={(next) => setOnly(next as Tradition | "both")}
          />
        )}
      </div>
      <div className={css.pair} data-wide={sheet.wide || undefined}>
        {shown.map((tradition) => (
          <OneSheet
            key={tradition}
            personId={personId}
            figureKey={figureKey}
            sheet={sheet.id}
            tradition={tradition}
            side={side}
            chosen={chosen}
            onChoose={onChoose}
            titled={sheet.traditions.length > 1}
          />
        ))}
      </div>
      {sheet.traditions.length > 1 && (
        <p className={css.legend}>
          <span className={css.moved} /> elsewhere on the other map
          <span className={css.alone} /> only on this map
        </p>
      )}
    </div>
  );
}

type OneProps = Omit<Props, "sheets"> & { sheet: string; tradition: Tradition; titled: boolean };

function OneSheet({ personId, figureKey, sheet, tradition, side, chosen, onChoose, titled }: OneProps) {
  const drawn = useQuery({
    queryKey: ["person", personId, "figure", "sheet", figureKey, sheet, tradition, side],
    queryFn: () =>
      take(
        api.GET("/api/people/{person_id}/sheets/{sheet}", {
          params: { path: { person_id: personId, sheet }, query: { tradition, side } },
        }),
      ),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [pointed, setPointed] = useState<string | null>(null);
  if (drawn.isPending) return <Waiting for="Drawing the sheet" />;
  if (drawn.isError) return <ErrorPanel error={drawn.error} retry={() => void drawn.refetch()} />;
  const { left_cm, top_cm, width_cm, height_cm, letter_cm, areas, body } = drawn.data;
  // Small areas lie over others: they are drawn last, and the chosen one is seen whole.
  const inTurn = areas.toSorted((a, b) => b.size_cm2 - a.size_cm2);
  const told = areas.find((one) => one.id === (pointed ?? chosen));
  return (
    <figure className={css.sheet} aria-label={`${drawn.data.name}, ${side}, ${tradition} map`}>
      {titled && <figcaption>{tradition === "first" ? "First map" : "Second map"}</figcaption>}
      {/* biome-ignore lint/a11y/noSvgWithoutTitle: the figure around it is named, and each area in it */}
      <svg viewBox={`${left_cm} ${top_cm} ${width_cm} ${height_cm}`} preserveAspectRatio="xMidYMin">
        {/* The drawing comes from our own server, made of numbers only. */}
        {/* biome-ignore lint/security/noDangerouslySetInnerHtml: paths that the server computed from the figure */}
        <g className={css.stone} dangerouslySetInnerHTML={{ __html: body }} />
        {inTurn.map((area) => (
          // biome-ignore lint/a11y/useSemanticElements: an area of a drawing cannot be a button element
          <polygon
            key={area.id}
            role="button"
            tabIndex={area.id === chosen ? 0 : -1}
            aria-label={area.name}
            aria-pressed={area.id === chosen}
            points={area.outline.map((corner) => corner.join(",")).join(" ")}
            data-moved={area.elsewhere !== null || undefined}
            data-alone={area.alone || undefined}
            strokeWidth={letter_cm / 12}
            onClick={() => onChoose(area.id)}
            onKeyDown={(event) => event.key === "Enter" && onChoose(area.id)}
            onPointerEnter={() => setPointed(area.id)}
            onPointerLeave={() => setPointed(null)}
          />
        ))}
        {areas.map((area) => (
          <g key={area.id} className={css.name} data-chosen={area.id === chosen || undefined} aria-hidden>
            {area.leader && (
              <polyline points={area.leader.map((end) => end.join(",")).join(" ")} strokeWidth={letter_cm / 16} />
            )}
            <text
              x={area.label_at[0]}
              y={area.label_at[1]}
              fontSize={letter_cm}
              textAnchor={area.anchor}
              strokeWidth={letter_cm / 4}
            >
              {area.label}
            </text>
          </g>
        ))}
      </svg>
      <p className={css.told} role="status">
        {told && (
          <>
            <b>{told.name}</b> {told.size_cm2.toFixed(1)} cm²
            {told.elsewhere && `; on the other map ${told.elsewhere}`}
            {told.alone && titled && "; only on this map"}
          </>
        )}
      </p>
    </figure>
  );
}
