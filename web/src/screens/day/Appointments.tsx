/** The day for whoever books and sees no health record: when, who, with whom, where. */
import { useQuery } from "@tanstack/react-query";
import { type Appointment, weekQuery } from "../../api/booking";
import desk from "../../shared/desk.module.css";
import { Empty, ErrorPanel, Waiting } from "../../shared/parts";
import { clock } from "../../shared/words";
import css from "./DayScreen.module.css";

type Props = { day: string; onOpen: (one: Appointment) => void };

export function Appointments({ day, onOpen }: Props) {
  const found = useQuery(weekQuery(day, 1));
  if (found.isPending) return <Waiting for="Loading the day" />;
  if (found.isError) return <ErrorPanel error={found.error} retry={() => void found.refetch()} />;
  if (found.data.appointments.length === 0) return <Empty>No appointments on this day. Press B to book one.</Empty>;
  return (
    <ol className={css.list}>
      {found.data.appointments.map((one) => (
        <li key={one.visit_id} className={css.booked} data-attendance={one.attendance}>
          <span className={css.time}>{clock(one.starts_at)}</span>
          <button type="button" onClick={() => onOpen(one)}>
            {one.given_name} {one.family_name}
          </button>
          <span>{one.minutes} min</span>
          <span>{[one.practitioner, one.place].filter(Boolean).join(", ")}</span>
          <span className={desk.small}>
            {one.attendance === "cancelled" ? `cancelled: ${one.reason}` : ""}
            {one.attendance === "not_come" ? "did not come" : ""}
            {one.clashes.map((clash) => `clash: ${clash.words}`).join("; ")}
          </span>
        </li>
      ))}
    </ol>
  );
}
