/** The diary: how is it now, in five seconds; below, what else there is to tell, what to press, and what to do when
 * something is wrong.
 */
import { useState } from "react";
import css from "./Diary.module.css";
import { reminders } from "./device";
import { Episode } from "./Episode";
import { HomeSet } from "./HomeSet";
import { Rate } from "./Rate";
import { Medicine, Note, Sleep } from "./Tell";
import { useDiary } from "./useDiary";
import { Wrong } from "./Wrong";

type Room = "rate" | "episode" | "press" | "sleep" | "medicine" | "note" | "wrong" | "about";

export function DiaryPage() {
  const diary = useDiary();
  const [room, setRoom] = useState<Room>("rate");
  const shown = diary.home?.shown;
  if (!shown) {
    return (
      <main className={css.page}>
        <div className={css.alone} role={diary.failure ? "alert" : "status"}>
          {diary.failure ? (
            <p>{diary.failure.message}</p>
          ) : diary.away ? (
            <p>You are offline. The diary will open when you are connected.</p>
          ) : (
            <p>Opening the diary</p>
          )}
        </div>
      </main>
    );
  }
  const back = () => setRoom("rate");
  const episodes = shown.complaints.filter((one) => one.episodes);
  const doors: [Room, string][] = [
    ...(shown.plan && shown.plan.sets.length > 0 ? ([["press", "Press now"]] as [Room, string][]) : []),
    ...(episodes.length > 0
      ? ([["episode", diary.home?.episode ? "Episode: over?" : "An episode"]] as [Room, string][])
      : []),
    ...(shown.sleep ? ([["sleep", "Sleep"]] as [Room, string][]) : []),
    ...(shown.medicine ? ([["medicine", "Medicine"]] as [Room, string][]) : []),
    ["note", "A note"],
  ];
  return (
    <main className={css.page}>
      <header className={css.head}>
        <p>
          <b>{shown.given_name}</b>, {shown.practice}
        </p>
        <button type="button" className={css.quiet} onClick={() => setRoom(room === "about" ? "rate" : "about")}>
          About
        </button>
      </header>
      {diary.failure && (
        <p className={css.refused} role="alert">
          {diary.failure.message}
        </p>
      )}
      {diary.refused.map((one) => (
        <p key={one.id} className={css.refused} role="alert">
          Something could not be saved: {one.why}{" "}
          <button type="button" className={css.quiet} onClick={() => diary.dismiss(one.id)}>
            Dismiss
          </button>
        </p>
      ))}
      <div className={css.room}>
        {room === "rate" && <Rate shown={shown} diary={diary} />}
        {room === "episode" && <Episode complaints={episodes} diary={diary} onDone={back} />}
        {room === "press" && shown.plan && <HomeSet shown={shown} plan={shown.plan} diary={diary} onDone={back} />}
        {room === "sleep" && <Sleep diary={diary} onDone={back} />}
        {room === "medicine" && <Medicine diary={diary} onDone={back} />}
        {room === "note" && <Note diary={diary} onDone={back} />}
        {room === "wrong" && <Wrong shown={shown} diary={diary} onDone={back} />}
        {room === "about" && <About until={shown.until} hours={shown.hours} practice={shown.practice} />}
      </div>
      {diary.last && (
        <div className={css.said} role="status">
          <span>{diary.last.words}</span>
          <button type="button" onClick={diary.undo}>
            Undo
          </button>
        </div>
      )}
      <nav className={css.doors} aria-label="Record something else">
        {room !== "rate" && (
          <button type="button" onClick={back}>
            How is it now?
          </button>
        )}
        {doors
          .filter(([one]) => one !== room)
          .map(([one, words]) => (
            <button key={one} type="button" onClick={() => setRoom(one)}>
              {words}
            </button>
          ))}
      </nav>
      <footer className={css.foot}>
        <button type="button" className={css.wrong} onClick={() => setRoom("wrong")}>
          Something is wrong
        </button>
        <p>
          This diary is not monitored. If it is urgent, call for help.
          {diary.waiting > 0 &&
            (diary.away ? ` Offline: ${diary.waiting} saved on this phone.` : ` Sending ${diary.waiting}.`)}
        </p>
      </footer>
    </main>
  );
}

function About({ until, hours, practice }: { until: string; hours: string[]; practice: string }) {
  const [failure, setFailure] = useState("");
  const last = new Date(`${until}T12:00:00Z`).toLocaleDateString("en-GB", { day: "numeric", month: "long" });
  return (
    <section className={css.panel} aria-label="About this diary">
      <h1>About this diary</h1>
      <p>
        What you enter goes only to {practice}. It is read at your next visit, not before: it is not monitored. The
        diary ends on {last}, or whenever {practice} ends it; everything on this phone is then removed.
      </p>
      <p>It works offline. Your entries are sent when you are online again and do not stay on the phone.</p>
      {hours.length > 0 && (
        <button
          type="button"
          className={css.big}
          onClick={() => void reminders().catch((error) => setFailure(error.message))}
        >
          Remind me at {hours.join(" and ")}
        </button>
      )}
      {failure && <p role="alert">{failure}</p>}
    </section>
  );
}
