"""Entries of the diary that a person keeps at home, and what it asks. Append-only; not monitored.

A device's clock may be wrong, and what it tells may be days old: it says its own time beside, and everything is placed
by the difference.
"""

import uuid
from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from acuthesis.core.compose.home.words import warnings
from acuthesis.core.compose.knowledge.complaints import ComplaintKind
from acuthesis.core.errors import OutOfRange
from acuthesis.core.instant import Instant
from acuthesis.core.message import message
from acuthesis.core.safety.screening import Question, questions

CLOCK_OFF = timedelta(minutes=2)  # a device whose clock is farther off is corrected
BEFORE_IT_BEGAN = timedelta(days=7)  # what is told may be of the days before the diary was opened
LATEST = timedelta(minutes=5)
LONGEST_EPISODE = timedelta(days=60)
MOST_AT_ONCE = 200
MOST_A_DAY = 400  # of one diary: what a person tells, and far below what would fill a disk

Short = Annotated[str, StringConstraints(max_length=120, strip_whitespace=True)]
Rating = Annotated[int, Field(ge=0, le=10)]


class _Said(BaseModel):
    """Something that was told. `at`: by the device's clock; the id makes sending it twice harmless."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: uuid.UUID
    at: Instant


class RatingSaid(_Said):
    """How much it troubles them now; with `act_id`, how much it hinders that."""

    kind: Literal["rating"] = "rating"
    complaint_id: uuid.UUID
    act_id: uuid.UUID | None = None
    value: Rating


class EpisodeSaid(_Said):
    """An episode; `at`: when it began. Without an end it goes on."""

    kind: Literal["episode"] = "episode"
    complaint_id: uuid.UUID
    ended_at: Instant | None = None
    strength: Rating | None = None
    trigger: Short = ""
    helped: Short = ""


class EpisodeOver(_Said):
    """That an episode, told before, is over; `at`: when it ended."""

    kind: Literal["episode_over"] = "episode_over"
    episode_id: uuid.UUID
    helped: Short = ""


class PressedSaid(_Said):
    """What was pressed (ids of points and areas), and for how many minutes."""

    kind: Literal["pressed"] = "pressed"
    pressed: Annotated[tuple[Short, ...], Field(min_length=1, max_length=20)]
    minutes: Annotated[float, Field(ge=0, le=600, allow_inf_nan=False)]


class SleepSaid(_Said):
    """Hours slept in the night before `at`."""

    kind: Literal["sleep"] = "sleep"
    hours: Annotated[float, Field(ge=0, le=24, allow_inf_nan=False)]


class MedicineSaid(_Said):
    """A medicine that was taken, how many times."""

    kind: Literal["medicine"] = "medicine"
    words: Annotated[Short, Field(min_length=1)]
    times: Annotated[int, Field(ge=1, le=50)] = 1


class NoteSaid(_Said):
    """A note on the time line."""

    kind: Literal["note"] = "note"
    words: Annotated[Short, Field(min_length=1)]


class FlagSaid(_Said):
    """A red flag (the id of a question) that is so."""

    kind: Literal["flag"] = "flag"
    question: Short


DiaryEntry = Annotated[
    RatingSaid | EpisodeSaid | EpisodeOver | PressedSaid | SleepSaid | MedicineSaid | NoteSaid | FlagSaid,
    Field(discriminator="kind"),
]


class Asks(BaseModel):
    """What a diary asks for: complaints (ids) that are rated, with their acts and episodes where that is wanted; sleep,
    medicines; at which hours ("20:00") the person wants to be reminded.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    complaints: Annotated[tuple[uuid.UUID, ...], Field(max_length=10)]
    acts: bool = False
    episodes: tuple[uuid.UUID, ...] = Field((), max_length=10)
    sleep: bool = False
    medicine: bool = False
    hours: tuple[Annotated[str, StringConstraints(pattern=r"^([01]\d|2[0-3]):[0-5]\d$")], ...] = Field((), max_length=4)


class HomeWarning(BaseModel):
    """A red flag as it is asked at home, and what is said at once where it is so. `emergency`: call for help now."""

    id: str
    ask: str
    say: str
    emergency: bool


SEE_A_DOCTOR = "See a doctor about this before you press again or come to a session. If you are unsure, go today."


def warnings_at_home(complaints: Sequence[ComplaintKind]) -> list[HomeWarning]:
    """Every emergency, then the red flags that these complaints ask: what a person at home is told at once."""
    emergencies = [question for question in questions().values() if question.severity == "emergency"]
    referred = [one for one in warnings(complaints) if one.severity == "refer" and not one.only_in_the_room]
    return [_warning(one) for one in (*emergencies, *referred)]


def _warning(question: Question) -> HomeWarning:
    emergency = question.severity == "emergency"
    said = question.at_home or (question.say if emergency else SEE_A_DOCTOR)
    return HomeWarning(id=question.id, ask=question.ask_at_home or question.ask, say=said, emergency=emergency)


def clock_off(sent_at: datetime, heard_at: datetime) -> timedelta:
    """What is to be added to a device's times: nothing, where its clock is right as far as can be told.

    >>> from datetime import UTC
    >>> noon = datetime(2026, 3, 2, 12, tzinfo=UTC)
    >>> clock_off(noon - timedelta(hours=1), noon), clock_off(noon - timedelta(seconds=40), noon)
    (datetime.timedelta(seconds=3600), datetime.timedelta(0))
    """
    off = heard_at - sent_at
    return off if abs(off) > CLOCK_OFF else timedelta(0)


def check_moment(at: datetime, heard_at: datetime, opened_at: datetime) -> None:
    """Raises: OutOfRange for a moment that is still to come, or long before the diary was opened."""
    if at > heard_at + LATEST:
        raise OutOfRange(message("diary-in-the-future"), where="at")
    if at < opened_at - BEFORE_IT_BEGAN:
        raise OutOfRange(message("diary-long-before-diary-started-mention"), where="at")


def check_end(began: datetime, ended: datetime, heard_at: datetime) -> None:
    """Raises: OutOfRange for an episode that ends before it began, in the future, or months later."""
    if not began <= ended <= heard_at + LATEST or ended - began > LONGEST_EPISODE:
        raise OutOfRange(message("diary-episode-must-end-after-started"), where="ended_at")
