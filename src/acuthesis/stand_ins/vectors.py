"""Test vectors of the fold: drawn courses of events with what the core says after each, for the interface's own fold.

Run as `python -m acuthesis.stand_ins.vectors FILE COUNT`; the same seed writes the same file.
"""

import json
import random
import sys
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from acuthesis.core.atlas.locating.finding import Offset, WayBeside
from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.compose.score.score import Before, Score, SoreWay
from acuthesis.core.message import Message
from acuthesis.core.safety.first_aid import help_for
from acuthesis.core.safety.screening import parse_screening
from acuthesis.core.treat.events import (
    EVENT,
    AsPlanned,
    Begin,
    Breath,
    Came,
    Ceiling,
    ChangeRest,
    ChangeTechnique,
    End,
    Event,
    Found,
    Later,
    NewLimits,
    Note,
    Pause,
    PutTime,
    Reacted,
    Resume,
    SetLevel,
    Soreness,
    StartStop,
    Undo,
    Wrong,
    reactions,
)
from acuthesis.core.treat.fold import AT_STOP, fold_what_follows
from acuthesis.core.treat.second import second_visit
from acuthesis.core.treat.state import TreatmentState
from acuthesis.core.treat.wrong import tree
from acuthesis.stand_ins.hands import event_id

SEED = 9
# How often what is drawn.
OFTEN = {"start": 24, "sore": 34, "more": 26, "react": 16, "level": 8, "ease": 8, "later": 6, "pause": 5, "resume": 5}
OFTEN |= {"rest": 5, "limits": 3, "wrong": 4, "end": 1, "begin": 1}
LONGEST = 24  # events of one course
BEGAN = datetime(2026, 3, 1, 9, tzinfo=UTC)


def scores() -> list[Score]:
    """Short scores that differ in what they allow."""
    wanted = ComposeRequest(complaints=[ComplaintNow(id="neck_shoulder_ache", rating=7, side="right")], minutes=9)
    thin = compose(wanted, parse_screening({"blood_thinner": True}))
    plain = compose(wanted, parse_screening({}))
    expecting = parse_screening({"pregnancy_weeks": 30})
    plain = plain.model_copy(update={"help": help_for(expecting, "999", "The room over the yard")})
    muted = [stop.model_copy(update={"muted": rank % 3 == 1}) for rank, stop in enumerate(plain.stops)]
    # A school that tries once firmer, on a person who was here before.
    known = [
        stop.model_copy(update={"before": (Before(on=BEGAN.date(), side=stop.side, first=7, last=3, way="rim"),)})
        for stop in plain.stops
    ]
    ways = tuple(WayBeside(name=name, words=name) for name in ("proximal", "distal", "medial", "lateral"))
    known = [stop.model_copy(update={"beside": ways}) for stop in known]
    own = {"sore": SoreWay(then="rim", school="Foot and hand reflexes", firm=True), "stops": tuple(known)}
    return [plain, thin, plain.model_copy(update={"stops": tuple(muted)}), plain.model_copy(update=own)]


def course(score: Score, chance: random.Random) -> list[Event]:
    """Events in an order that mostly makes sense, and now and then none."""
    at = BEGAN
    keys = [stop.key for stop in score.stops] + ["SP99-1"]
    events: list[Event] = [] if chance.random() < 0.05 else [Begin(id=event_id(chance), at=at, score=score)]
    for _ in range(chance.randint(1, LONGEST)):
        # Whole milliseconds, as a browser stamps; and a clock that is set back now and then.
        at += timedelta(milliseconds=chance.choice((0, 40, 900, 5_000, 31_250, -2_000)))
        stamp: dict[str, Any] = {"id": event_id(chance), "at": at}
        events.append(_late(_one(stamp, keys, score, events, chance), keys, chance))
        if chance.random() < 0.05:
            events.append(events[-1])  # sent twice
    return events


def _late(event: Event, keys: list[str], chance: random.Random) -> Event:
    """Now and then something is said of a stop by its key: mostly of one that the hands have left."""
    if not isinstance(event, AT_STOP) or chance.random() < 0.75:
        return event
    return event.model_copy(update={"key": chance.choice(keys)})


def _one(stamp: dict[str, Any], keys: list[str], score: Score, before: list[Event], chance: random.Random) -> Event:
    side = chance.choice(("left", "right", None, None, None))
    kind = chance.choices(tuple(OFTEN), tuple(OFTEN.values()))[0]
    match kind:
        case "start":
            return StartStop(**stamp, key=chance.choice(keys))
        case "sore":
            value = chance.choice((0, 2, 4, 5, 5, 5, 6, 6, 6, 7, 7, 8, 9, 10))
            return Soreness(**stamp, value=value, side=side, by=chance.choice(("hand", "hand", "person")))
        case "react":
            mild = [name for name in reactions() if _mild(name, chance)]
            return Reacted(**stamp, reaction=chance.choice(mild), words=chance.choice(("", "", "like a rope")))
        case "level":
            return SetLevel(**stamp, level=chance.randint(1, 5), by=chance.choice(("hand", "hand", "person")))
        case "ease":
            return ChangeTechnique(**stamp, technique=chance.choice(("ease", "rim")))
        case "wrong":
            # Mostly a mild answer, so that courses are long; and now and then a question that nobody asks.
            step = chance.choice((*tree().questions, "nerve", "stops", "stops", "weather"))
            return Wrong(**stamp, step=step, answer=chance.choice(("begun", "no", "no", "yes")))
        case "limits":
            return _limits(stamp, keys, chance)
        case "end":
            return End(**stamp, reason=chance.choice(("finished", "stopped")))
        case "begin":
            return Begin(**stamp, score=score)
        case "rest":
            return _rest(stamp, score, chance)
        case "more":
            return _more(stamp, keys, before, chance)
    return Later(**stamp) if kind == "later" else Pause(**stamp) if kind == "pause" else Resume(**stamp)


def _more(stamp: dict[str, Any], keys: list[str], before: list[Event], chance: random.Random) -> Event:
    """What is said beside the pressing: taking back (mostly the last that was said), notes, times, breath, signs."""
    match chance.choice(("undo", "undo", "undo", "note", "time", "breath", "sign", "as_planned", "found")):
        case "undo":
            told = before[-1 - chance.randint(0, 4) // 4 :] if len(before) > 1 else before
            return Undo(**stamp, of=told[0].id if told else stamp["id"])
        case "note":
            return Note(**stamp, text=chance.choice(("warmer than last week", "asked about work")))
        case "time":
            return PutTime(**stamp, key=chance.choice(keys), active_s=chance.choice((0, 12.5, 60)))
        case "breath":
            return Breath(**stamp, seconds=chance.choice((4.5, 6, 8.25)))
        case "found":
            offset = Offset(mm=chance.choice(({}, {"distal": 4.0}, {"medial": 2.0, "proximal": 6.0})))
            texture = chance.choice((None, "knot", "hollow"))
            return Found(**stamp, side=chance.choice(("left", "right")), texture=texture, offset=offset)
        case "sign":
            return Came(**stamp, sign=chance.choice(("eases", "pulse", "letting_go", "warm")))
    return AsPlanned(**stamp)


def _rest(stamp: dict[str, Any], score: Score, chance: random.Random) -> ChangeRest:
    """Some stops of the score once more, under keys of their own, which now and then are used already."""
    number = chance.choice((2, 3, 4))
    some = chance.sample(score.stops, k=min(4, len(score.stops)))
    stops = [
        stop.model_copy(update={"key": f"{stop.id}-{number}", "start_s": stop.start_s + 300, "muted": False})
        for stop in some
    ]
    return ChangeRest(**stamp, stops=tuple(stops), why=chance.choice(("", "10 minutes left")))


def _mild(name: str, chance: random.Random) -> bool:
    """What ends a treatment is drawn seldom, so that courses are long."""
    known = reactions()[name]  # type: ignore[index]
    return "stop_session" not in (known.then, known.second) or chance.random() < 0.15


def _limits(stamp: dict[str, Any], keys: list[str], chance: random.Random) -> NewLimits:
    touched = chance.sample(keys, k=min(3, len(keys)))
    return NewLimits(
        **stamp,
        ceilings={key: Ceiling(ceiling=chance.randint(1, 5), reasons=("A new answer.",)) for key in touched[:2]},
        refused={touched[-1]: "Not here any more."} if chance.random() < 0.3 else {},
        no_session="Fever today." if chance.random() < 0.05 else "",
    )


def _told(treatment: TreatmentState) -> dict[str, Any]:
    """A state without its score, which never changes, and of its records only those that something happened to."""
    told = treatment.model_dump(mode="json", exclude={"score": True, "past": {"__all__": {"session": {"score"}}}})
    told["order"] = [stop.key for stop in treatment.score.stops] if treatment.score else []
    empty: tuple[str, ...] = ("soreness", "rounds", "reactions", "techniques", "signs", "said")
    untouched = {"started": 0, "left": False, "active_s": 0, **{name: [] for name in empty}}
    told["records"] = {
        key: record
        for key, record in told["records"].items()
        if any(record[name] != value for name, value in untouched.items())
        or record["ceiling"] != treatment.stops[key].ceiling
        or record["level"] != treatment.stops[key].level
    }
    told["looks"] = [look.model_dump() for look in second_visit(treatment, 120)]
    return told


def vectors(count: int) -> dict[str, Any]:
    """So many courses: the scores, and for each course its score's place, its events and what is told after each."""
    chance = random.Random(SEED)
    known = scores()
    courses = []
    for number in range(count):
        rank = number % len(known)
        state, steps, seen = TreatmentState(), [], set()
        for event in course(known[rank], chance):
            disputed: dict[Any, Message] = {}
            if event.id not in seen:
                state, disputed = fold_what_follows([event], state)
            seen.add(event.id)
            body = EVENT.dump_python(event, mode="json", exclude={"score"})
            steps.append({"event": body, "disputed": bool(disputed), "state": _told(state)})
        courses.append({"score": rank, "steps": steps})
    return {"scores": [score.model_dump(mode="json") for score in known], "courses": courses}


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(json.dumps(vectors(int(sys.argv[2])), separators=(",", ":")))
