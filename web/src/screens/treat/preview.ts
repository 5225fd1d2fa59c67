/** What the server will say once it has the events that wait here: just enough to go on working while it is away.
 *
 * The core's fold decides; this is only its echo, without advice, and is replaced by every answer of the server.
 * Decision: docs/decisions/0005-treating-offline.md
 */
import type { Event, Session } from "./outbox";

type Records = Session["records"];

const seconds = (from: string, to: string) => Math.max((Date.parse(to) - Date.parse(from)) / 1000, 0);

function held(session: Session, at: string): Session {
  const { current, running_since } = session;
  const record = current ? session.records?.[current] : undefined;
  if (!current || !running_since || !record) return session;
  const records = {
    ...session.records,
    [current]: { ...record, active_s: (record.active_s ?? 0) + seconds(running_since, at) },
  };
  return { ...session, records, running_since: null, status: "paused" };
}

function changed(session: Session, change: (record: Records[string]) => Partial<Records[string]>): Session {
  const { current } = session;
  const record = current ? session.records?.[current] : undefined;
  if (!current || !record) return session;
  return { ...session, records: { ...session.records, [current]: { ...record, ...change(record) } } };
}

export function preview(session: Session, events: Event[]): Session {
  return events.reduce(apply, session);
}

function apply(session: Session, event: Event): Session {
  switch (event.kind) {
    case "begin": {
      const sounding = event.score.stops.filter((stop) => !stop.muted);
      const records = Object.fromEntries(
        sounding.map((stop) => [
          stop.key,
          {
            key: stop.key,
            started: 0,
            active_s: 0,
            level: stop.level,
            soreness: [],
            reactions: [],
            techniques: [],
            left: false,
          },
        ]),
      );
      return { ...session, status: "ready", score: event.score, records, began_at: event.at };
    }
    case "start_stop": {
      const moved = held(session, event.at);
      const next: Session = { ...moved, current: event.key, running_since: event.at, status: "running", advice: null };
      next.second_looks = next.second_looks.filter((key) => key !== event.key);
      return changed(next, (record) => ({ started: (record.started ?? 0) + 1 }));
    }
    case "pause":
      return held(session, event.at);
    case "resume":
      return session.current && !session.running_since
        ? { ...session, running_since: event.at, status: "running" }
        : session;
    case "level":
      return changed(session, () => ({ level: event.level }));
    case "soreness":
      return changed(session, (record) => ({
        soreness: [
          ...record.soreness,
          { value: event.value, level: record.level, at: event.at, side: event.side ?? null },
        ],
      }));
    case "reaction":
      return changed(session, (record) => ({ reactions: [...record.reactions, event.reaction] }));
    case "technique":
      return changed(session, (record) => ({
        techniques: [...record.techniques, event.technique],
        level: event.technique === "ease" ? Math.max(record.level - 1, 1) : record.level,
      }));
    case "later":
      return session.current && !session.second_looks.includes(session.current)
        ? { ...session, second_looks: [...session.second_looks, session.current] }
        : session;
    case "end":
      return { ...held(session, event.at), status: event.reason, ended_at: event.at };
  }
}
