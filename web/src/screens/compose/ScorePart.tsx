/** The score and the row of tools under it. */
import { Button, Menu } from "@mantine/core";
import type { Schema } from "../../api/client";
import { Overview } from "../../score/Overview";
import { ScoreView } from "../../score/ScoreView";
import { AddByName } from "../../shared/AddByName";
import { counted, minutesAndSeconds } from "../../shared/words";
import css from "./ComposeScreen.module.css";
import type { Composer, Panel } from "./useComposer";

type Score = Schema["Score"];

export function EditedScore({ composer, made }: { composer: Composer; made: Score }) {
  const { score, window, budget_s } = composer;
  return (
    <div className={css.score} data-busy={score.busy || undefined}>
      <ScoreView
        score={made}
        lane={62}
        budget_s={budget_s}
        window={window.shown}
        chosen={composer.chosen}
        onChoose={composer.choose}
        edit={{
          move: score.move,
          stretch: (key, seconds) => void score.stretch(key, seconds),
          raise: (key, level) => score.change(key, { level }),
          side: score.side,
        }}
      />
      {window.shown && <Overview score={made} budget_s={budget_s} window={window.shown} onWindow={window.setMiddle} />}
    </div>
  );
}

type ToolsProps = { composer: Composer; made: Score; visitId: string; techniques: Schema["Catalogue"]["techniques"] };

export function ScoreTools({ composer, made, visitId, techniques }: ToolsProps) {
  const { score, window, asking } = composer;
  return (
    <div className={css.tools}>
      <AddByName
        label="Add a stop"
        placeholder="Add: SP6, inner wrist, calf strokes"
        techniques={techniques}
        onAdd={composer.add}
        input={composer.adding}
      />
      <Button variant="default" disabled={!score.canUndo} onClick={score.undo}>
        Undo
      </Button>
      <Button variant="default" disabled={!score.canRedo} onClick={score.redo}>
        Redo
      </Button>
      <Button variant="default" aria-pressed={asking} onClick={() => composer.setAsking(!asking)}>
        What if
      </Button>
      <More onPanel={composer.setPanel} visitId={visitId} made />
      {window.long && (
        <Button variant="default" aria-pressed={window.shown !== undefined} onClick={window.toggle}>
          {window.shown ? "Show all" : "Zoom in"}
        </Button>
      )}
      <Worth objective={made.objective} />
    </div>
  );
}

type MoreProps = { onPanel: (panel: Panel) => void; visitId: string; made: boolean };

export function More({ onPanel, visitId, made }: MoreProps) {
  return (
    <Menu position="bottom-start">
      <Menu.Target>
        <Button variant="default">More</Button>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item disabled={!made} onClick={() => onPanel("drafts")}>
          Drafts: save, compare
        </Menu.Item>
        <Menu.Item onClick={() => onPanel("protocols")}>Protocols: save, share, apply</Menu.Item>
        <Menu.Item onClick={() => onPanel("programme")}>Several visits, and home</Menu.Item>
        {made && (
          <Menu.Item component="a" href={`/api/visits/${visitId}/score.pdf`} target="_blank" rel="noreferrer">
            Print for the table
          </Menu.Item>
        )}
      </Menu.Dropdown>
    </Menu>
  );
}

export function Total({ total_s, budget_s }: { total_s: number; budget_s: number }) {
  const left = budget_s - total_s;
  return (
    <p className={css.total} data-over={left < 0 || undefined}>
      <strong>{minutesAndSeconds(total_s)}</strong>
      <span>
        of {minutesAndSeconds(budget_s)}
        {left < 0 && `, ${minutesAndSeconds(-left)} over the booked time`}
      </span>
    </p>
  );
}

/** How good the composition is proven to be. */
function Worth({ objective }: { objective: Schema["Objective"] }) {
  if (!objective.value) return null;
  const gap = objective.gap ?? 0;
  return (
    <p className={css.worth}>
      {gap < 0.0005 ? "Proven best" : `Within ${(gap * 100).toFixed(1)}% of the best`} (value{" "}
      {objective.value.toFixed(1)}); {counted(objective.position_changes, "change")} of position
      {(objective.walked_m ?? 0) > 0 && `, ${Math.round(objective.walked_m ?? 0)} m walking`}
      {(objective.tool_changes ?? 0) > 0 && `, ${counted(objective.tool_changes ?? 0, "change")} of contact`}
    </p>
  );
}
