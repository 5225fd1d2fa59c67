/** Between visits: what this person presses at home, and the diary they keep. */
import { useParams } from "@tanstack/react-router";
import css from "./AtHomeScreen.module.css";
import { Diaries } from "./Diaries";
import { Plan } from "./Plan";

export function AtHomeScreen() {
  const { personId } = useParams({ from: "/inside/people/$personId" });
  return (
    <div className={css.page}>
      <Plan personId={personId} key={`plan-${personId}`} />
      <Diaries personId={personId} key={`diaries-${personId}`} />
    </div>
  );
}
