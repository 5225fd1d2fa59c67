"""Watching the person: what a reaction leads to, repeated reactions, and asking what is wrong."""

from acuthesis.core.safety.first_aid import Help, usual_help
from acuthesis.core.treat.events import AsPlanned, Came, Reacted, ReactionKind, Wrong, care, reactions
from acuthesis.core.treat.moves import advise, allowed, current, end, hold, leave, lighten, pressed_s
from acuthesis.core.treat.state import Lighter, TreatmentState, WrongStep
from acuthesis.core.treat.wrong import after, said, tree


def reacted(treatment: TreatmentState, event: Reacted) -> None:
    """Something was seen or said: kept with the stop, and what follows from it is done."""
    known = reactions()[event.reaction]
    record = treatment.records[treatment.current] if treatment.current else None
    again = record is not None and event.reaction in record.reactions
    if record is not None:
        record.reactions.append(event.reaction)
        if event.words:
            record.said.append(event.words)
    follows = known.second if again and known.second else known.then
    text = _filled(treatment, known.second_say if again and known.second else known.say, known.lay)
    if event.reaction == "asleep":
        treatment.asleep = True
        for one in treatment.records.values():
            one.level = min(one.level, care().asleep_most)
    elif event.reaction == "awake":
        treatment.asleep = False
    if follows == "stop_session":
        advise(treatment, text, follows)
        end(treatment, event.at, "stopped")
    elif record is not None and follows == "leave":
        leave(treatment, record, text)
    elif record is not None and follows == "lighten":
        lighten(treatment, record, " ".join([text, *_keeps_coming(treatment, event.reaction)]))
    else:
        advise(treatment, text)


def _keeps_coming(treatment: TreatmentState, reaction: ReactionKind) -> list[str]:
    """A reaction at one stop after another: everything still to come is made lighter, once; what to say of it."""
    shown = [record for record in treatment.records.values() if reaction in record.reactions]
    if treatment.lighter is not None or len(shown) < care().keeps_coming:
        return []
    treatment.lighter = Lighter(reaction=reaction, before={})
    for key, one in treatment.records.items():
        if not one.started and not one.left and one.level > 1:
            treatment.lighter.before[key] = one.level
            one.level -= 1
    return [care().words.keeps.format(reaction=reactions()[reaction].name, stops=len(shown))]


def as_planned(treatment: TreatmentState, _event: AsPlanned) -> None:
    """What was made lighter goes back to its level, where it has not been pressed yet."""
    lighter = treatment.lighter
    if lighter is None or lighter.taken_back:
        return
    for key, level in lighter.before.items():
        if key in treatment.records and not treatment.records[key].started:
            treatment.records[key].level = allowed(treatment, treatment.records[key], level)
    treatment.lighter = lighter.model_copy(update={"taken_back": True})
    advise(treatment, care().words.as_planned)


def came(treatment: TreatmentState, event: Came) -> None:
    """The sign that was waited for has come: let go."""
    record = current(treatment, event)
    record.signs.append(event.sign)
    record.came_s = pressed_s(treatment, event.at)
    advise(treatment, care().words.came)


def _filled(treatment: TreatmentState, text: str, lay: str) -> str:
    """Words with how this person is laid for what they need."""
    return text.replace("{lay}", _helped(treatment).lay[lay]) if lay else text


def _helped(treatment: TreatmentState) -> Help:
    return (treatment.score.help if treatment.score else None) or usual_help()


def wrong(treatment: TreatmentState, event: Wrong) -> None:
    """Stop the clock and go one question on; at an outcome, do what it says. What was opened by mistake is closed."""
    helped = _helped(treatment)
    to = "" if event.answer == "begun" or event.answer == "closed" else after(event.step, event.answer, helped)
    hold(treatment, event.at)
    treatment.wrong.append(WrongStep(at=event.at, step=event.step, answer=event.answer, to=to))
    outcome = tree().outcomes.get(to)
    if outcome is None:
        return
    text = said(outcome, helped)
    if outcome.then == "stop":
        advise(treatment, text, "stop_session")
        end(treatment, event.at, "stopped")
    elif outcome.then == "leave" and treatment.current is not None:
        leave(treatment, treatment.records[treatment.current], text)
    else:
        advise(treatment, text)
