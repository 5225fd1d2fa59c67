"""A simulated practitioner: plays a score into the events that a real treatment would leave.

Everything that varies comes from the random generator that is given, so the same seed plays the same treatment.
"""

import random
import uuid
from collections.abc import Mapping
from datetime import datetime, timedelta

from acuthesis.core.compose.score.score import Score
from acuthesis.core.treat.events import Begin, End, Event, Reacted, Soreness, StartStop

CALM_REACTIONS = ("relaxed", "warm", "pulse_felt")


def event_id(chance: random.Random) -> uuid.UUID:
    """A random UUID from the given generator."""
    return uuid.UUID(int=chance.getrandbits(128), version=4)


def play(score: Score, began: datetime, sore: Mapping[str, int], chance: random.Random) -> list[Event]:
    """Play a score to its end. `sore` gives the soreness of points by id; it eases by one or two while worked on."""
    events: list[Event] = [Begin(id=event_id(chance), at=began, score=score)]
    for stop in score.stops:
        if stop.muted:
            continue
        at = began + timedelta(seconds=stop.start_s)
        events.append(StartStop(id=event_id(chance), at=at, key=stop.key))
        first = sore.get(stop.id, 0)
        if first:
            side = "left" if stop.side == "left" else "right" if stop.side == "right" else None
            events.append(Soreness(id=event_id(chance), at=at + timedelta(seconds=4), value=first, side=side))
            eased = max(first - chance.choice((1, 1, 2)), 0)
            late = at + timedelta(seconds=max(stop.duration_s - 2, 5))
            events.append(Soreness(id=event_id(chance), at=late, value=eased, side=side))
        elif chance.random() < 0.25:
            reaction = chance.choice(CALM_REACTIONS)
            events.append(Reacted(id=event_id(chance), at=at + timedelta(seconds=6), reaction=reaction))
    events.append(End(id=event_id(chance), at=began + timedelta(seconds=score.total_s + 20), reason="finished"))
    return events
