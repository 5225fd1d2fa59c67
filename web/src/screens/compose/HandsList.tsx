/** Hand positions as a list: the numbers on the body, in their order, with side and where one stands. */
import type { Schema } from "../../api/client";
import { isPressed } from "../../score/shapes";
import { shortId, sideWords } from "../../shared/words";
import css from "./ComposeScreen.module.css";

const ONE_SIDE: Stop["side"][] = ["left", "right"];

type Stop = Schema["Stop"];
type Props = { stops: Stop[]; onChoose: (key: string) => void };

/** The stops that the way leads to: what is pressed and sounds. */
export const onTheWay = (stops: Schema["Stop"][]) => stops.filter((stop) => !stop.muted && isPressed(stop));

export function HandsList({ stops, onChoose }: Props) {
  return (
    <ol className={css.hands} aria-label="Hand positions">
      {onTheWay(stops).map((stop) => (
        <li key={stop.key} data-core={(stop.core_of ?? []).length > 0 || undefined}>
          <button type="button" onClick={() => onChoose(stop.key)}>
            <b>{shortId(stop.id)}</b> {ONE_SIDE.includes(stop.side) && <small>{sideWords[stop.side]}</small>}
          </button>
        </li>
      ))}
    </ol>
  );
}
