"""Ratings of complaints and of their activities, with who gave them; a correction replaces another, which is kept."""

import uuid
from collections.abc import Sequence
from typing import Literal, TypeVar

from pydantic import BaseModel
from sqlalchemy import select

from acuthesis.core.errors import CoreError
from acuthesis.core.message import message
from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.store import people, visits
from acuthesis.store.model import ActivityRatingRow, ComplaintRow, RatingRow
from acuthesis.store.people import NotFound, holding

RatingMoment = Literal["before", "after", "home"]
SaidBy = Literal["person", "from_home", "carer", "practitioner"]
SomeRating = TypeVar("SomeRating", RatingRow, ActivityRatingRow)


class RatingInput(BaseModel):
    """A rating to keep (0 to 10); the id makes sending it twice harmless."""

    id: uuid.UUID
    value: int
    moment: RatingMoment
    visit_id: uuid.UUID | None
    said_by: SaidBy


def rate(here: Here, complaint_id: uuid.UUID, rated: RatingInput) -> ComplaintRow:
    """Keep a rating of a complaint. One that is given again at the same moment of a visit takes the other's place.

    Raises: NotFound; CoreError where the moment and the visit do not fit together; NotAllowed after the record is
    closed.
    """
    row = _checked(here, complaint_id, rated)
    if here.db.get(RatingRow, rated.id) is None:
        at_moment = RatingRow.complaint_id == row.id
        here.db.add(RatingRow(**_columns(here, row, rated), replaces=_replaced(here, RatingRow, [at_moment], rated)))
        here.audit(row.person_id, "rated")
        here.db.flush()
    return row


def rate_activity(here: Here, complaint_id: uuid.UUID, act_id: uuid.UUID, rated: RatingInput) -> ComplaintRow:
    """Keep a rating of an act, in the same way. Raises: also NotFound for an act that the complaint does not have."""
    row = _checked(here, complaint_id, rated)
    if str(act_id) not in {act["id"] for act in row.acts}:
        raise NotFound(message("rating-there-no-such-activity-complaint"), where="act_id")
    if here.db.get(ActivityRatingRow, rated.id) is None:
        at_moment = [ActivityRatingRow.complaint_id == row.id, ActivityRatingRow.act_id == act_id]
        replaced = _replaced(here, ActivityRatingRow, at_moment, rated)
        here.db.add(ActivityRatingRow(**_columns(here, row, rated), act_id=act_id, replaces=replaced))
        here.audit(row.person_id, "activity rated")
        here.db.flush()
    return row


def correct(here: Here, rating_id: uuid.UUID, id: uuid.UUID, value: int | None) -> ComplaintRow:
    """Put another value in the place of a rating, or (none) take it back. What was said first stays, and no longer
    counts.

    Raises: NotFound; Conflict where it was corrected already; NotAllowed after the record of its visit is closed.
    """
    whole = here.db.get(RatingRow, rating_id)
    if whole is not None:
        return _corrected(here, RatingRow, whole, id, value)
    of_act = here.db.get(ActivityRatingRow, rating_id)
    if of_act is not None:
        return _corrected(here, ActivityRatingRow, of_act, id, value)
    raise NotFound(message("rating-there-no-such-rating-practice"), where="rating_id")


def _corrected(
    here: Here, table: type[SomeRating], found: SomeRating, id: uuid.UUID, value: int | None
) -> ComplaintRow:
    row = people.complaint(here.db, found.complaint_id, lock=True)
    if here.db.get(table, id) is not None:
        return row
    if here.db.scalar(select(table.id).where(table.id == found.id, holding(table))) is None:
        raise people.Conflict(message("rating-rating-already-been-corrected-reload"), where="rating_id")
    if found.visit_id is not None:
        visits.require_open(visits.visit(here.db, found.visit_id))
    same = ("practice_id", "person_id", "complaint_id", "visit_id", "moment", "rated_at", "said_by")
    made = table(**{name: getattr(found, name) for name in same})
    made.id, made.replaces, made.recorded_by = id, found.id, here.practitioner.id
    made.value, made.dropped = found.value if value is None else value, value is None
    if isinstance(made, ActivityRatingRow) and isinstance(found, ActivityRatingRow):
        made.act_id = found.act_id
    here.db.add(made)
    here.audit(row.person_id, "rating deleted" if value is None else "rating corrected")
    here.db.flush()
    return row


def _checked(here: Here, complaint_id: uuid.UUID, rated: RatingInput) -> ComplaintRow:
    row = people.complaint(here.db, complaint_id, lock=True)
    if (rated.moment == "home") != (rated.visit_id is None):
        raise CoreError(message("rating-rating-before-or-after-needs"), where="visit_id")
    if rated.visit_id is not None:
        visit = visits.visit(here.db, rated.visit_id)
        if visit.person_id != row.person_id:
            raise CoreError(message("rating-visit-another-persons"), where="visit_id")
        visits.require_open(visit)
    return row


def _columns(here: Here, row: ComplaintRow, rated: RatingInput) -> dict[str, object]:
    return {
        **rated.model_dump(),
        "practice_id": row.practice_id,
        "person_id": row.person_id,
        "complaint_id": row.id,
        "recorded_by": here.practitioner.id,
        "rated_at": now(),
    }


def _replaced(here: Here, table: type[SomeRating], of: Sequence[object], rated: RatingInput) -> uuid.UUID | None:
    """The rating of the same moment of the same visit that holds, if there is one."""
    if rated.visit_id is None:
        return None
    where = (*of, table.visit_id == rated.visit_id, table.moment == rated.moment, holding(table))
    return here.db.scalar(select(table.id).where(*where).order_by(table.rated_at.desc()))  # type: ignore[arg-type]
