"""The sore spot: what its soreness leads to, the next thing to try on it, and the reason for each.

A spot that is sore enough gets a way: carry on and come back, lighten and hold, or circle the rim. When its time is
over it is pressed as before and asked again. Two rounds, and where the school does so one short firmer press; then it
is enough for today. Whatever is proposed, the hand may take another way; both are kept. Source: manual-therapy
teaching; that nothing is forced: manual-therapy caution.
"""

from datetime import datetime

from acuthesis.core.compose.score.score import Score, Stop
from acuthesis.core.treat.events import ChangeTechnique, Later, Soreness, SoreSpotWay, Why, care
from acuthesis.core.treat.moves import advise, allowed, close, current, leave, pressed_s, queue, unqueue
from acuthesis.core.treat.state import Felt, Loop, Sided, SoreSpotTry, StopRecord, TreatmentState

OTHER: dict[SoreSpotWay, SoreSpotWay] = {"ease": "rim", "rim": "ease"}
OF_SCHOOL: dict[str, SoreSpotWay] = {"leave": "later", "ease": "ease", "rim": "rim", "short_firm_press": "ease"}


def choose(score: Score, stop: Stop, value: int, side: Sided) -> tuple[SoreSpotWay, Why]:
    """The way that a sore spot gets first, and why: how sore it is, what helped here before, its size, the school.

    Parameters: value, its soreness (0 to 10); side, the side that was said, None in the middle or for both.
    """
    if value >= care().too_sore:
        return "ease", "very"
    for visit in reversed(stop.before):
        if visit.way in OTHER and visit.side == (side or stop.side):
            return visit.way, "helped"
    if value <= care().sore_enough and any(one.kind == "second_look" and not one.muted for one in score.stops):
        return "later", "mild"
    if stop.kind == "area":
        return "rim", "area"
    way = OF_SCHOOL[score.sore.then]
    return way, "school" if score.sore.school else "usual"


def felt(treatment: TreatmentState, event: Soreness) -> None:
    """A soreness was said of the current stop."""
    record, told = current(treatment, event), care()
    going = _going(treatment, record, event.side)
    if going is not None:
        close(treatment)
        going.after = event.value
    before = record.felt(event.side)
    here = Felt(value=event.value, level=record.level, at=event.at, side=event.side, by=event.by)
    record.soreness.append(here)
    if event.value <= told.loop.hardly and not any(one.value >= told.sore_enough for one in _last(record)):
        unqueue(treatment, record.key)
    same = [one for one in before if one.level == record.level]
    if event.value > told.too_sore and any(one.value > told.too_sore for one in before):
        leave(treatment, record, told.words.very_sore_twice)
    elif same and event.value - same[-1].value >= told.worse_by:
        leave(treatment, record, told.words.grows)
    elif going is not None:
        if event.value > told.too_sore:
            record.level = max(record.level - 1, 1)
        _combine(treatment, record, going, here)
    elif event.value > told.too_sore or (event.value >= told.sore_enough and not before):
        _propose(treatment, record, here)
    elif before and event.value < before[-1].value:
        advise(treatment, told.words.eases.format(before=before[-1].value, now=event.value))


def _last(record: StopRecord) -> list[Felt]:
    """The last that was said of each side."""
    return list({one.side: one for one in record.soreness}.values())


def _going(treatment: TreatmentState, record: StopRecord, side: Sided) -> SoreSpotTry | None:
    """The round that an answer of this side belongs to, if one goes on."""
    loop = treatment.loop
    return record.rounds[-1] if loop is not None and (loop.key, loop.side) == (record.key, side) else None


def _propose(treatment: TreatmentState, record: StopRecord, here: Felt) -> None:
    """The first round at a side that is sore. While one goes on at the other side, it waits for its second look."""
    queue(treatment, record.key)
    if here.value > care().too_sore:
        record.level = max(record.level - 1, 1)
    if treatment.loop is not None or treatment.score is None:
        return
    way, why = choose(treatment.score, treatment.stops[record.key], here.value, here.side)
    _begin(treatment, record, way, why, here, here.at)


def _combine(treatment: TreatmentState, record: StopRecord, tried: SoreSpotTry, here: Felt) -> None:
    """An answer after a round: enough, the other way, once firmer, or enough of trying."""
    told = care()
    fell = (tried.before or 0) - here.value
    if here.value < told.sore_enough or fell >= told.loop.eased_by:
        treatment.advice = None
        if fell > 0:
            advise(treatment, told.words.carry_on.format(before=tried.before, now=here.value))
        return
    rounds = [one for one in record.rounds if one.side == here.side and one.taken != "later"]
    if len([one for one in rounds if one.taken != "firm"]) < told.loop.rounds and tried.taken in OTHER:
        _begin(treatment, record, OTHER[tried.taken], "again", here, here.at)
    elif _firm_may(treatment, record, here.value) and not any(one.taken == "firm" for one in rounds):
        _begin(treatment, record, "firm", "school", here, here.at)
    else:
        queue(treatment, record.key)
        advise(treatment, told.words.enough)


def _firm_may(treatment: TreatmentState, record: StopRecord, value: int) -> bool:
    assert treatment.score is not None
    higher = record.level + 1
    return (
        treatment.score.sore.firm
        and value <= care().loop.firm_most
        and allowed(treatment, record, higher) == higher
        and treatment.lighter is None
    )


def _begin(
    treatment: TreatmentState, record: StopRecord, way: SoreSpotWay, why: Why, here: Felt | None, at: datetime
) -> None:
    """A round begins: its level, its time, and what is said. `here`: what was felt last; None where nothing was."""
    assert treatment.score is not None
    side, before = (here.side, here.value) if here is not None else (None, None)
    proposed = None if why == "hand" else way
    tried = SoreSpotTry(side=side, proposed=proposed, why=why, taken=way, level=record.level, before=before, at=at)
    record.rounds.append(tried)
    _work(treatment, record, tried, at)
    told = care()
    words = told.ways[way]
    if proposed is not None:
        said = told.whys[why].format(school=treatment.score.sore.school)
        words = " ".join(told.words.sore.format(now=before, why=said, way=words).split())
    advise(treatment, words, "lighten" if way == "ease" else "none")


def _work(treatment: TreatmentState, record: StopRecord, tried: SoreSpotTry, at: datetime) -> None:
    """Press as the way wants it, for as long as it wants."""
    times = care().loop
    if tried.taken == "later":
        treatment.loop = None
        queue(treatment, record.key)
        return
    seconds = {"ease": times.ease_s, "rim": times.rim_s, "firm": times.firm_s}[tried.taken]
    lowered = (tried.before or 0) > care().too_sore  # already, and it is asked again at that
    step = {"ease": 0 if lowered else -1, "rim": 0, "firm": 1}[tried.taken]
    record.level = max(allowed(treatment, record, tried.level + step), 1)
    side, key = tried.side, record.key
    treatment.loop = Loop(key=key, side=side, way=tried.taken, at_s=pressed_s(treatment, at), seconds=seconds)


def overrule(treatment: TreatmentState, event: ChangeTechnique | Later) -> None:
    """The hand takes another way than was proposed, or a way where none was; the proposal stays in the log."""
    record = current(treatment, event)
    way: SoreSpotWay = "later" if isinstance(event, Later) else event.technique
    if isinstance(event, ChangeTechnique):
        record.techniques.append(way)
    loop = treatment.loop
    if loop is not None and loop.key == record.key:
        tried = record.rounds[-1]
        close(treatment)
        record.rounds[-1] = tried.model_copy(update={"taken": way})
        _work(treatment, record, record.rounds[-1], event.at)
        advise(treatment, care().ways[way], "lighten" if way == "ease" else "none")
    elif isinstance(event, Later):
        queue(treatment, record.key)
    else:
        last = record.soreness[-1] if record.soreness else None
        _begin(treatment, record, way, "hand", last, event.at)
