/** An appointment that will not be, or was not: cancelled with a reason, missed, or expected after all. */
import { Button, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { type Appointment, appointmentsChanged } from "../../api/booking";
import { api, type Schema, take } from "../../api/client";
import { useMay } from "../../api/practice";
import desk from "../desk.module.css";
import { ErrorPanel } from "../parts";
import css from "./Booking.module.css";

type Attendance = Schema["Mark"]["attendance"];

export function Marking({ appointment, onDone }: { appointment: Appointment; onDone: () => void }) {
  const [reason, setReason] = useState("");
  const queries = useQueryClient();
  const navigate = useNavigate();
  const reads = useMay("read_health");
  const mark = useMutation({
    mutationFn: (attendance: Attendance) =>
      take(
        api.POST("/api/appointments/{visit_id}/attendance", {
          params: { path: { visit_id: appointment.visit_id } },
          body: { version: appointment.version, attendance, reason },
        }),
      ),
    onSuccess: async () => {
      await appointmentsChanged(queries, appointment.person_id);
      onDone();
    },
  });
  const begun = appointment.treatment !== "not_begun";
  const past = new Date(appointment.starts_at) < new Date();
  return (
    <div className={css.marking}>
      {appointment.attendance !== "expected" ? (
        <>
          <p>
            {appointment.attendance === "cancelled" ? "Cancelled" : "Did not come"}
            {appointment.reason && `: ${appointment.reason}`}.
          </p>
          <div className={desk.buttons}>
            <Button variant="default" loading={mark.isPending} onClick={() => mark.mutate("expected")}>
              Reinstate
            </Button>
          </div>
        </>
      ) : (
        !begun && (
          <>
            <TextInput
              label="Reason"
              placeholder="Reason for cancelling"
              maxLength={120}
              value={reason}
              onChange={(event) => setReason(event.currentTarget.value)}
            />
            <div className={desk.buttons}>
              <Button
                variant="default"
                disabled={reason.trim() === ""}
                loading={mark.isPending}
                onClick={() => mark.mutate("cancelled")}
              >
                Cancel the appointment
              </Button>
              {past && (
                <Button variant="default" loading={mark.isPending} onClick={() => mark.mutate("not_come")}>
                  Did not come
                </Button>
              )}
            </div>
          </>
        )
      )}
      {mark.isError && <ErrorPanel error={mark.error} />}
      <div className={desk.buttons}>
        <Button
          variant="subtle"
          component="a"
          href={`/api/appointments/${appointment.visit_id}/appointment.ics`}
          download
        >
          Calendar file for {appointment.given_name}
        </Button>
        <Button
          variant="subtle"
          onClick={() => void navigate({ to: "/people/$personId", params: { personId: appointment.person_id } })}
        >
          Open {appointment.given_name}
        </Button>
        {reads && (
          <Button
            variant="subtle"
            onClick={() => void navigate({ to: "/visits/$visitId", params: { visitId: appointment.visit_id } })}
          >
            Visit record
          </Button>
        )}
      </div>
    </div>
  );
}
