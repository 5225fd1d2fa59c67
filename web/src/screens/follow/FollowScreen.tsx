/** Follow: what the ratings say in a sentence, one time line for everything, what comes next, and soreness as a film. */
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { useState } from "react";
import type { Schema } from "../../api/client";
import { courseQuery } from "../../api/queries";
import { Empty, ErrorPanel, Waiting } from "../../shared/parts";
import { type Side, sideWords } from "../../shared/words";
import { CourseChart } from "./CourseChart";
import css from "./FollowScreen.module.css";
import { LogPanel } from "./LogPanel";
import { NextStep } from "./NextStep";
import { PlayedSession } from "./PlayedSession";
import { Ratings } from "./Ratings";
import { Said } from "./Said";
import { SoreFilm } from "./SoreFilm";

type Complaint = Schema["ComplaintCourse"];
export const TRENDS: Record<Complaint["outcome"]["trend"], string> = {
  no_rating: "no rating yet",
  too_early: "too early to say",
  cannot_tell: "not clear yet",
  better: "better",
  no_change: "no real change",
  worse: "worse",
};

export function FollowScreen() {
  const { personId } = useParams({ from: "/inside/people/$personId" });
  const course = useQuery(courseQuery(personId));
  if (course.isPending) return <Waiting for="Calculating progress" />;
  if (course.isError) return <ErrorPanel error={course.error} retry={() => void course.refetch()} />;
  return <Course course={course.data} key={personId} />;
}

function Course({ course }: { course: Schema["PersonCourse"] }) {
  const open = course.complaints.filter((one) => one.closed_on === null);
  const [wanted, setWanted] = useState<string>();
  const [visit, setVisit] = useState<string>();
  const complaint = course.complaints.find((one) => one.id === wanted) ?? open[0] ?? course.complaints[0];
  if (!complaint) {
    return (
      <div className={css.page}>
        <Empty>No complaints yet. Add one under Complaints to track progress.</Empty>
        <LogPanel course={course} complaint={undefined} />
      </div>
    );
  }
  return (
    <div className={css.page}>
      <nav className={css.complaints} aria-label="Complaints">
        {course.complaints.map((one) => (
          <button key={one.id} type="button" aria-pressed={one.id === complaint.id} onClick={() => setWanted(one.id)}>
            <span>
              {one.name} <small>{sideWords[one.side as Side]}</small>
            </span>
            <strong data-trend={one.outcome.trend}>{one.closed_on ? "closed" : TRENDS[one.outcome.trend]}</strong>
          </button>
        ))}
      </nav>
      <p className={css.sentence} role="status">
        {complaint.outcome.sentence}
      </p>
      <CourseChart
        course={course}
        complaint={complaint}
        chosenVisit={visit}
        onVisit={(id) => setVisit(id === visit ? undefined : id)}
      />
      {visit && <PlayedSession visitId={visit} onClose={() => setVisit(undefined)} />}
      <div className={css.under}>
        <NextStep complaint={complaint} personId={course.person_id} key={complaint.id} />
        <Said complaint={complaint} practice={course.practice} />
      </div>
      <div className={css.under}>
        <SoreFilm course={course} />
        <LogPanel course={course} complaint={complaint} />
      </div>
      <Ratings complaint={complaint} personId={course.person_id} />
    </div>
  );
}
