"""Watching the person: what a reaction leads to, repeated reactions, and asking what is wrong."""

from acuthesis.core.safety.first_aid import Help, usual_help
from acuthesis.core.treat.events import AsPlanned, Came, Reacted, ReactionKind, Wrong, care, reactions
from acuthesis.core.treat.moves import advise, allowed, current, end, hold, leave, lighten, pressed_s
from acuthesis.core.treat.state import Lighter, Session, WrongStep
from acuthesis.core.treat.wrong import after, said, tree


def reacted(session: Session, event: Reacted) -> None:
    """Something was seen or said: kept with the stop, and what follows from it is done."""
    known = reactions()[event.reaction]
    record = session.records[session.current] if session.current else None
    again = record is not None and event.reaction in record.reactions
    if record is not None:
        record.reactions.append(event.reaction)
        if event.words:
            record.said.append(event.words)
    follows = known.second if again and known.second else known.then
    text = _filled(session, known.second_say if again and known.second else known.say, known.lay)
    if event.reaction == "asleep":
        session.asleep = True
        for one in session.records.values():
            one.level = min(one.level, care().asleep_most)
    elif event.reaction == "awake":
        session.asleep = False
    if follows == "stop_session":
        advise(session, text, follows)
        end(session, event.at, "stopped")
    elif record is not None and follows == "leave":
        leave(session, record, text)
    elif record is not None and follows == "lighten":
        lighten(session, record, " ".join([text, *_keeps_coming(session, event.reaction)]))
    else:
        advise(session, text)


def _keeps_coming(session: Session, reaction: ReactionKind) -> list[str]:
    """A reaction at one stop after another: everything still to come is made lighter, once; what to say of it."""
    shown = [one for one in session.records.values() if reaction in one.reactions]
    if session.lighter is not None or len(shown) < care().keeps_coming:
        return []
    session.lighter = Lighter(reaction=reaction, before={})
    for key, one in session.records.items():
        if not one.started and not one.left and one.level > 1:
            session.lighter.before[key] = one.level
            one.level -= 1
    return [care().words.keeps.format(reaction=reactions()[reaction].name, stops=len(shown))]


def as_planned(session: Session, _event: AsPlanned) -> None:
    """What was made lighter goes back to its level, where it has not been pressed yet."""
    lighter = session.lighter
    if lighter is None or lighter.taken_back:
        return
    for key, level in lighter.before.items():
        if key in session.records and not session.records[key].started:
            session.records[key].level = allowed(session, session.records[key], level)
    session.lighter = lighter.model_copy(update={"taken_back": True})
    advise(session, care().words.as_planned)


def came(session: Session, event: Came) -> None:
    """The sign that was waited for has come: let go."""
    record = current(session, event)
    record.signs.append(event.sign)
    record.came_s = pressed_s(session, event.at)
    advise(session, care().words.came)


def _filled(session: Session, text: str, lay: str) -> str:
    """Words with how this person is laid for what they need."""
    return text.replace("{lay}", _helped(session).lay[lay]) if lay else text


def _helped(session: Session) -> Help:
    return (session.score.help if session.score else None) or usual_help()


def wrong(session: Session, event: Wrong) -> None:
    """Stop the clock and go one question on; at an outcome, do what it says."""
    helped = _helped(session)
    to = "" if event.answer == "begun" else after(event.step, event.answer, helped)
    hold(session, event.at)
    session.wrong.append(WrongStep(at=event.at, step=event.step, answer=event.answer, to=to))
    outcome = tree().outcomes.get(to)
    if outcome is None:
        return
    text = said(outcome, helped)
    if outcome.then == "stop":
        advise(session, text, "stop_session")
        end(session, event.at, "stopped")
    elif outcome.then == "leave" and session.current is not None:
        leave(session, session.records[session.current], text)
    else:
        advise(session, text)
