"""The practice's follow-up: who gets worse, who did not come back, whose series ends; outcomes by complaint."""

import uuid
from collections.abc import Callable, Sequence
from datetime import date, timedelta

from pydantic import BaseModel

from acuthesis.core.follow.outcome import METHOD
from acuthesis.core.message import Message
from acuthesis.services.ratings.outcomes import outcomes_of, soon_judged
from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.store import follow_up as store
from acuthesis.store import people
from acuthesis.store.follow_up import PersonOnList

# Somebody who was treated is expected back within four weeks, and has stopped after eight. Source: usual practice of
# manual therapy, with visits one to three weeks apart.
BACK_WITHIN = timedelta(days=28)
STOPPED_AFTER = timedelta(days=56)
SMALL = 10  # people; of fewer no share is told
AT_ONCE = 8  # complaints that are judged while somebody waits for the list
MOST_TOLD = 40


class OnList(BaseModel):
    """Somebody on a list: the day it is about, and why in words."""

    person_id: uuid.UUID
    given_name: str
    family_name: str
    on: date | None
    words: str


class KindOutcomes(BaseModel):
    """How everybody did with whom work on a complaint began: `began` is the denominator of every number. `stopped`
    counts
    those who no longer come and whose complaint is open, whatever was found of them. `small`: too few for a share."""

    kind: str
    name: str
    began: int
    better: int
    no_change: int
    worse: int
    cannot_tell: int
    too_early: int
    no_rating: int
    stopped: int
    small: bool


class FollowUp(BaseModel):
    """The lists and the table; `waiting`: complaints whose ratings are still to be judged, which come in meanwhile."""

    worse: list[OnList]
    not_back: list[OnList]
    near_end: list[OnList]
    kinds: list[KindOutcomes]
    waiting: int


def follow_up(here: Here) -> FollowUp:
    """The follow-up of the whole practice. Nothing in it tells practitioners apart."""
    here.reads(None, "follow-up")
    ids = store.waiting(here.db, METHOD, AT_ONCE)
    if ids:
        outcomes_of(here, [people.complaint(here.db, id) for id in ids])
        soon_judged(here)  # the rest
    kinds = store.by_kind(here.db, METHOD, now() - STOPPED_AFTER, now())
    name = here.knowledge.name_of
    return FollowUp(
        worse=_told(
            here,
            store.getting_worse(here.db, METHOD),
            lambda one: f"{name(one.kind)}: {here.say(Message.read(one.told))}",
        ),
        not_back=_told(
            here,
            store.not_back(here.db, now() - BACK_WITHIN, now(), here.zone.key),
            lambda one: f"last session {(here.today - one.on_day).days} days ago, nothing booked",
        ),
        near_end=_told(
            here,
            store.near_the_end(here.db, here.today),
            lambda one: "the last visit of the series" + (f": {one.told}" if one.told else ""),
        ),
        kinds=[
            KindOutcomes(
                **{field: value for field, value in kind._asdict().items() if field != "waiting"},
                name=name(kind.kind),
                small=kind.began < SMALL,
            )
            for kind in kinds
        ],
        waiting=sum(kind.waiting for kind in kinds),
    )


def _told(here: Here, rows: Sequence[PersonOnList], words: Callable[[PersonOnList], str]) -> list[OnList]:
    return [
        OnList(
            person_id=one.person_id,
            given_name=one.given_name,
            family_name=one.family_name,
            on=one.on_day,
            words=words(one),
        )
        for one in [row for row in rows if here.may_list(row.person_id)][:MOST_TOLD]
    ]
