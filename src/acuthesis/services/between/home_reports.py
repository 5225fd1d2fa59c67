"""Reports from home, stored one by one: a rating, an episode, a log entry, a red flag. Nobody is signed in."""

import uuid
from collections.abc import Sequence
from datetime import date, datetime, timedelta

from pydantic import BaseModel
from sqlalchemy import select

from acuthesis.core.errors import CoreError, UnknownId
from acuthesis.core.follow.diary import (
    MOST_A_DAY,
    Asks,
    DiaryEntry,
    EpisodeOver,
    EpisodeSaid,
    FlagSaid,
    MedicineSaid,
    NoteSaid,
    PressedSaid,
    RatingSaid,
    SleepSaid,
    check_end,
    check_moment,
    clock_off,
)
from acuthesis.core.message import message
from acuthesis.core.safety.screening import questions
from acuthesis.services.people.complaints import raise_flags
from acuthesis.services.ratings.outcomes import soon_judged
from acuthesis.services.request.clock import now
from acuthesis.services.request.errors import TooManyTries
from acuthesis.services.request.here import Here
from acuthesis.store.model import ActivityRatingRow, ComplaintRow, DiaryRow, EpisodeRow, HomeFlagRow, LogRow, RatingRow


class WhatBecame(BaseModel):
    """What became of something that was told: kept, or why not."""

    id: uuid.UUID
    kept: bool
    why: str = ""


def save_report(here: Here, row: DiaryRow, sent_at: datetime, told: Sequence[DiaryEntry]) -> list[WhatBecame]:
    """Keep what was told, one by one: what cannot be kept says why, and keeps nothing else from being kept.

    Raises: TooManyTries where far more comes than anybody tells.
    """
    if row.told_on != here.today:
        row.told_on, row.told = here.today, 0
    # What is sent again because an answer was lost does not count, and a red flag always comes through.
    if row.told >= MOST_A_DAY and not any(isinstance(one, FlagSaid) for one in told):
        raise TooManyTries(message("home-reports-diary-reached-todays-limit-remaining"))
    row.heard_at, off = now(), clock_off(sent_at, now())
    outcomes = []
    for one in told:
        try:
            with here.db.begin_nested():
                _keep(here, row, one, off)
                row.told += bool(here.db.new)
                here.db.flush()
            outcomes.append(WhatBecame(id=one.id, kept=True))
        except CoreError as refused:
            outcomes.append(WhatBecame(id=one.id, kept=False, why=here.say(refused.message)))
    here.audit(row.person_id, "reported from home")
    here.db.flush()
    if any(isinstance(one, RatingSaid) for one in told):
        soon_judged(here)
    return outcomes


def _keep(here: Here, row: DiaryRow, one: DiaryEntry, off: timedelta) -> None:
    at, heard_at = one.at + off, now()
    check_moment(at, heard_at, row.made_at)
    at = min(at, heard_at)
    match one:
        case RatingSaid():
            _keep_rating(here, row, one, at)
        case EpisodeSaid():
            _keep_episode(here, row, one, at, None if one.ended_at is None else min(one.ended_at + off, heard_at))
        case EpisodeOver():
            _end_episode(here, row, one, at)
        case FlagSaid():
            _keep_flag(here, row, one, at)
        case PressedSaid():
            for id in one.pressed:
                here.entry(id)
            _keep_entry(here, row, one.id, "practice", _day(one, off), amount=one.minutes, pressed=list(one.pressed))
        case SleepSaid():
            _keep_entry(here, row, one.id, "sleep", _day(one, off), amount=one.hours)
        case MedicineSaid():
            _keep_entry(here, row, one.id, "medicine", _day(one, off), amount=float(one.times), words=one.words)
        case NoteSaid():
            _keep_entry(here, row, one.id, "event", _day(one, off), words=one.words)


def _day(one: DiaryEntry, off: timedelta) -> date:
    """The day on which it was told, where the person is."""
    return (one.at + off).date()


def _complaint(here: Here, row: DiaryRow, complaint_id: uuid.UUID) -> ComplaintRow:
    asks = Asks.model_validate(row.asks)
    found = next(
        (complaint for complaint in here.person(row.person_id).open_complaints if complaint.id == complaint_id), None
    )
    if found is None or complaint_id not in (*asks.complaints, *asks.episodes):
        raise UnknownId(message("home-reports-no-longer-asked"), where="complaint_id")
    return found


def _from_home(row: DiaryRow, id: uuid.UUID) -> dict[str, object]:
    return {
        "id": id,
        "practice_id": row.practice_id,
        "person_id": row.person_id,
        "said_by": "from_home",
        "recorded_by": None,
    }


def _keep_rating(here: Here, row: DiaryRow, one: RatingSaid, at: datetime) -> None:
    complaint = _complaint(here, row, one.complaint_id)
    plain = {**_from_home(row, one.id), "complaint_id": complaint.id, "moment": "home", "value": one.value}
    if one.act_id is None:
        if here.db.get(RatingRow, one.id) is None:
            here.db.add(RatingRow(**plain, rated_at=at))
        return
    if str(one.act_id) not in {act["id"] for act in complaint.acts}:
        raise UnknownId(message("home-reports-no-longer-asked"), where="act_id")
    if here.db.get(ActivityRatingRow, one.id) is None:
        here.db.add(ActivityRatingRow(**plain, act_id=one.act_id, rated_at=at))


def _keep_episode(here: Here, row: DiaryRow, one: EpisodeSaid, at: datetime, ended_at: datetime | None) -> None:
    complaint = _complaint(here, row, one.complaint_id)
    if ended_at is not None:
        check_end(at, ended_at, now())
    if here.db.get(EpisodeRow, one.id) is None:
        here.db.add(
            EpisodeRow(
                **_from_home(row, one.id),
                complaint_id=complaint.id,
                version=1,
                started_at=at,
                ended_at=ended_at,
                goes_on=ended_at is None,
                strength=one.strength,
                trigger=one.trigger,
                helped=one.helped,
                recorded_at=now(),
            )
        )


def _end_episode(here: Here, row: DiaryRow, one: EpisodeOver, at: datetime) -> None:
    """End an episode that came from home and goes on; another is none of this diary's business."""
    found = here.db.scalar(
        select(EpisodeRow)
        .where(EpisodeRow.id == one.episode_id, EpisodeRow.person_id == row.person_id)
        .with_for_update()
    )
    if found is None or found.said_by != "from_home":
        raise UnknownId(message("home-reports-there-no-such-episode"), where="episode_id")
    if not found.goes_on:
        return  # it was ended before: by this entry, sent again, or in the practice
    check_end(found.started_at, at, now())
    found.goes_on, found.ended_at = False, at
    found.helped = one.helped or found.helped
    found.version += 1


def _keep_flag(here: Here, row: DiaryRow, one: FlagSaid, at: datetime) -> None:
    """Mark the day, and have the screening say it: what stops the work stops it until somebody has looked."""
    if one.question not in questions() or questions()[one.question].severity not in ("emergency", "refer"):
        raise UnknownId(message("home-reports-not-asked"), where="question")
    if here.db.get(HomeFlagRow, one.id) is not None:
        return
    here.db.add(
        HomeFlagRow(
            id=one.id,
            practice_id=row.practice_id,
            person_id=row.person_id,
            diary_id=row.id,
            question=one.question,
            said_at=at,
            heard_at=now(),
        )
    )
    raise_flags(here, here.person(row.person_id).row, [one.question])


def _keep_entry(
    here: Here,
    row: DiaryRow,
    id: uuid.UUID,
    kind: str,
    on_day: date,
    amount: float | None = None,
    words: str = "",
    pressed: Sequence[str] = (),
) -> None:
    if here.db.get(LogRow, id) is None:
        here.db.add(
            LogRow(
                **_from_home(row, id),
                kind=kind,
                on_day=min(on_day, here.today),
                amount=amount,
                words=words,
                pressed=list(pressed),
                recorded_at=now(),
            )
        )
