"""Planned and done, stop by stop; and the first draft of a visit's write-up, in plain sentences."""

from collections.abc import Sequence
from typing import Literal

from pydantic import BaseModel

from acuthesis.core.atlas.locating.finding import LEAST_MM, in_words_of_texture
from acuthesis.core.compose.knowledge.dose import SIGN_WORDS
from acuthesis.core.compose.score.score import PRESSED, Score, Stop
from acuthesis.core.treat.events import reactions, seconds_between
from acuthesis.core.treat.state import FoundHere, SoreSpotTry, StopRecord, TreatmentState
from acuthesis.core.treat.wrong import tree
from acuthesis.core.words import POSITION_WORDS, short_id

StopOutcome = Literal["done", "shortened", "extended", "left", "not_reached", "muted"]
# A stop was played as planned within a tenth of its time, or ten seconds. Source: how exactly hands follow a clock.
AS_PLANNED, AS_PLANNED_S = 0.1, 10.0


class StopAccount(BaseModel):
    """One stop: planned against done. Soreness is the first and the last that was said, and the level of the first."""

    key: str
    id: str
    name: str
    side: str
    kind: str
    outcome: StopOutcome
    why: str
    planned_s: float
    done_s: float
    planned_level: int
    level: int
    sore_first: int | None
    sore_last: int | None
    reactions: list[str]
    techniques: list[str]
    said: list[str] = []
    signs: list[str] = []
    rounds: list[SoreSpotTry] = []
    notes: list[str] = []
    found: list[str] = []


class WriteUp(BaseModel):
    """The words of a visit's record, by heading."""

    asked: str = ""
    done: str = ""
    felt: str = ""
    observed: str = ""
    next: str = ""


class RatedAtVisit(BaseModel):
    """A complaint as it was rated at the visit, 0 to 10."""

    name: str
    side: str
    act: str
    before: int | None
    after: int | None


def account(treatment: TreatmentState, score: Score | None) -> list[StopAccount]:
    """What became of every stop of the score that was played, in its order; of a score not begun, nothing yet.

    Parameters: treatment, the treatment's fold; score, the visit's own, for a treatment that has not begun.
    Returns: one row a stop, muted ones too.
    """
    played = treatment.score or score
    notes: dict[str, list[str]] = {}
    for note in treatment.notes:
        notes.setdefault(note.key or "", []).append(note.text)
    stops = played.stops if played else ()
    found: dict[str, list[str]] = {}
    for one in treatment.found:
        found.setdefault(one.key, []).append(_found(treatment.stops[one.key], one))
    return [
        _of_stop(stop, treatment.records.get(stop.key), notes.get(stop.key, []), found.get(stop.key, []))
        for stop in stops
    ]


def _found(stop: Stop, one: FoundHere) -> str:
    """What a hand found, in words: "right: a knot, 4 mm toward the knee"."""
    words = {way.name: way.words for way in stop.beside}
    places = [f"{mm:.0f} mm {words.get(name, name)}" for name, mm in one.offset.mm.items() if mm >= LEAST_MM]
    side = "" if stop.side == "midline" else f"{one.side}: "
    felt = [in_words_of_texture(one.texture)] if one.texture else []
    return side + ", ".join([*felt, *([" and ".join(places)] if places else [])])


def _of_stop(stop: Stop, record: StopRecord | None, notes: list[str], found: list[str]) -> StopAccount:
    felt = record.soreness if record else []
    outcome, why = _outcome(stop, record)
    return StopAccount(
        key=stop.key,
        id=stop.id,
        name=f"{short_id(stop.id)} {stop.name}" if stop.kind in PRESSED else stop.name,
        side=stop.side,
        kind=stop.kind,
        outcome=outcome,
        why=why,
        planned_s=stop.duration_s,
        done_s=record.active_s if record else 0.0,
        planned_level=stop.level,
        level=record.level if record else stop.level,
        sore_first=felt[0].value if felt else None,
        sore_last=felt[-1].value if felt else None,
        reactions=[reactions()[kind].name for kind in (record.reactions if record else [])],
        techniques=list(record.techniques) if record else [],
        said=list(record.said) if record else [],
        signs=[SIGN_WORDS[sign] for sign in (record.signs if record else [])],
        rounds=list(record.rounds) if record else [],
        notes=notes,
        found=found,
    )


def _outcome(stop: Stop, record: StopRecord | None) -> tuple[StopOutcome, str]:
    if stop.muted:
        return "muted", "removed beforehand"
    if record is None or not record.started:
        return ("left", "skipped") if record and record.left else ("not_reached", "not reached")
    if record.left:
        return "left", _why_left(record)
    off = record.active_s - stop.duration_s
    if abs(off) <= max(AS_PLANNED * stop.duration_s, AS_PLANNED_S):
        return "done", ""
    return ("shortened", "shorter than planned") if off < 0 else ("extended", "longer than planned")


def _why_left(record: StopRecord) -> str:
    if record.reactions:
        return reactions()[record.reactions[-1]].name.lower()
    return f"sore, {record.soreness[-1].value}" if record.soreness else "left"


def write_up(rated: Sequence[RatedAtVisit], stops: Sequence[StopAccount], treatment: TreatmentState) -> WriteUp:
    """The write-up as it begins: what was asked, done and felt, from ratings and events; the rest is the hand's.

    Returns sentences that a practitioner edits; nothing in them is a judgement.
    """
    return WriteUp(
        asked=_asked(rated),
        done=_done(stops, treatment),
        felt=_felt(rated, stops),
        observed=" ".join(f"{note.text.rstrip('.')}." for note in treatment.notes),
    )


def _asked(rated: Sequence[RatedAtVisit]) -> str:
    told = []
    for rating in rated:
        side = f", {rating.side}" if rating.side in ("left", "right") else ""
        act = f" ({rating.act})" if rating.act else ""
        told.append(
            f"{rating.name}{side}{act}: " + ("not rated" if rating.before is None else f"{rating.before} of 10")
        )
    return ". ".join(told) + "." if told else ""


def _done(stops: Sequence[StopAccount], treatment: TreatmentState) -> str:
    if treatment.score is None:
        return ""
    sounded = [stop for stop in stops if stop.outcome != "muted"]
    pressed = [stop for stop in sounded if stop.outcome in ("done", "shortened", "extended")]
    minutes = round(sum(stop.done_s for stop in stops) / 60)
    where = list(dict.fromkeys(POSITION_WORDS[stop.position] for stop in treatment.score.stops if not stop.muted))
    told = [f"{len(pressed)} of {len(sounded)} stops in {minutes} minutes, {', then '.join(where)}."]
    told += [f"{stop.name} {stop.why}." for stop in sounded if stop.outcome in ("left", "not_reached")]
    told += _wrong(treatment)
    told += dict.fromkeys(_tried(stop) for stop in stops if stop.rounds)
    if treatment.lighter is not None and not treatment.lighter.taken_back:
        told.append(
            f"Repeated reaction ({reactions()[treatment.lighter.reaction].name.lower()}): remaining stops were one "
            "level lighter."
        )
    if treatment.status == "stopped":
        told.append("The session was stopped early.")
    return " ".join(told)


TRIED = {"later": "rechecked later", "ease": "lightened", "rim": "rim circled", "firm": "once more firmly"}


def _tried(stop: StopAccount) -> str:
    ways = " and ".join(dict.fromkeys(TRIED[one.taken] for one in stop.rounds))
    return f"{stop.name}: {ways}."


def was_wrong(treatment: TreatmentState) -> bool:
    """Whether something was wrong: not where each time it was only opened by mistake.

    >>> was_wrong(TreatmentState())
    False
    """
    last = treatment.wrong[-1].answer if treatment.wrong else "closed"
    return last != "closed" or any(step.to in tree().outcomes for step in treatment.wrong)


def _wrong(treatment: TreatmentState) -> list[str]:
    """What was wrong, and when: each time it was looked into, in what it ended."""
    told = []
    for step in treatment.wrong:
        outcome = tree().outcomes.get(step.to)
        if outcome is not None and treatment.began_at is not None:
            minutes = round(seconds_between(treatment.began_at, step.at) / 60)
            told.append(f"Something was wrong after {minutes} minutes: {outcome.title.lower()}.")
    if was_wrong(treatment) and not told:
        told.append("“Something is wrong” was started; no cause was identified.")
    return told


def _felt(rated: Sequence[RatedAtVisit], stops: Sequence[StopAccount]) -> str:
    told = [
        f"{rating.name}: {rating.before} before, {rating.after} after."
        for rating in rated
        if rating.before is not None and rating.after is not None
    ]
    for one in stops:
        if one.sore_first is not None:
            eased = "" if one.sore_last == one.sore_first else f", then {one.sore_last}"
            told.append(f"{one.name}: soreness {one.sore_first}{eased}.")
        if one.reactions:
            told.append(f"{one.name}: {', '.join(name.lower() for name in dict.fromkeys(one.reactions))}.")
        told += [f"{one.name}: “{words}”." for words in one.said]
        told += [f"{one.name}, {words}." for words in one.found]
    return " ".join(told)
