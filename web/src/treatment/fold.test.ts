/** The fold says what the core says: thousands of drawn events, the state compared after each. */
import { readFileSync } from "node:fs";
import { expect, test } from "vitest";
import { Disputed, type Event, NOTHING_YET, preview, type Score, step, type TreatmentState } from "./fold";
import { type Look, secondVisit } from "./second";

type Step = {
  event: Event;
  disputed: boolean;
  state: Omit<TreatmentState, "score"> & { looks: Look[]; order: string[] };
};
type Course = { score: number; steps: Step[] };
const written = process.env.ACUTHESIS_VECTORS ?? "../.acuthesis/vectors.json"; // see vectors.setup.ts
const vectors: { scores: Score[]; courses: Course[] } = JSON.parse(readFileSync(written, "utf8"));

/** As the vectors tell a state: without the score, and of its records only those that something happened to. */
function told(session: TreatmentState) {
  const { score, records, past, ...rest } = session;
  const order = (score?.stops ?? []).map((stop) => stop.key);
  const told = past.map((one) => {
    const { score: _, ...before } = one.session;
    return { ...one, session: before };
  });
  const stops = new Map(score?.stops.map((stop) => [stop.key, stop]));
  const touched = Object.entries(records).filter(([key, record]) => {
    const stop = stops.get(key);
    const lists = [record.soreness, record.rounds, record.reactions, record.techniques, record.signs, record.said];
    const said = lists.some((list) => list.length > 0);
    const moved = record.ceiling !== stop?.ceiling || record.level !== stop?.level || record.active_s > 0;
    return record.started > 0 || said || record.left || moved;
  });
  return inMilliseconds({
    ...rest,
    order,
    past: told,
    records: Object.fromEntries(touched),
    looks: secondVisit(session, 120),
  });
}

const SECONDS = new Set(["active_s", "at_s", "came_s", "look_s"]);
/** Seconds to the millisecond: two machines add them up in another order. */
const inMilliseconds = (state: unknown): unknown =>
  JSON.parse(JSON.stringify(state), (key, value) =>
    SECONDS.has(key) && value !== null ? Math.round(value * 1000) : value,
  );

test("the fold says after every event what the core says", () => {
  let compared = 0;
  let disputed = 0;
  for (const [number, course] of vectors.courses.entries()) {
    const score = vectors.scores[course.score] ?? null;
    let session = NOTHING_YET;
    const seen = new Set<string>();
    for (const [rank, one] of course.steps.entries()) {
      let refused = false;
      if (!seen.has(one.event.id)) {
        try {
          session = step(session, one.event, score);
        } catch (error) {
          expect(error).toBeInstanceOf(Disputed);
          refused = true;
        }
      }
      seen.add(one.event.id);
      const where = `course ${number}, event ${rank}: ${one.event.kind}`;
      expect(refused, where).toBe(one.disputed);
      expect(told(session), where).toEqual(inMilliseconds(one.state));
      compared += 1;
      disputed += refused ? 1 : 0;
    }
  }
  expect(compared).toBeGreaterThan(10 * vectors.courses.length);
  expect(disputed).toBeGreaterThan(1.25 * vectors.courses.length);
});

test("what cannot follow is named and moves nothing", () => {
  const course = vectors.courses.find((one) => one.steps.some((each) => each.disputed));
  const score = vectors.scores[course?.score ?? 0] ?? null;
  const events = [...new Map(course?.steps.map((one) => [one.event.id, one.event])).values()];
  const { session, disputed } = preview(NOTHING_YET, events, score);
  expect(disputed.size).toBeGreaterThan(0);
  const without = events.filter((event) => !disputed.has(event.id));
  expect(preview(NOTHING_YET, without, score).session).toEqual(session);
});
