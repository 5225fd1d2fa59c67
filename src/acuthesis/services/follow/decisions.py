"""A practitioner's decisions about a complaint, stored beside what was proposed; later, what came of them."""

import uuid
from datetime import datetime

from pydantic import BaseModel

from acuthesis.core.follow.decide import Proposal, ProposedStep
from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.store import follow as store
from acuthesis.store import people
from acuthesis.store.model import DecisionRow
from acuthesis.store.people import check_version


class DecisionOut(BaseModel):
    """A decision: the step taken, why, beside the one that was proposed then; and what came of it."""

    id: uuid.UUID
    version: int
    step: ProposedStep
    because: str
    proposed: Proposal
    decided_by: str
    decided_at: datetime
    came_of: str
    came_of_at: datetime | None


def decision_out(here: Here, row: DecisionRow) -> DecisionOut:
    """A decision with the name of whoever took it."""
    names = {colleague.id: colleague.name for colleague in here.colleagues}
    same = ("id", "version", "step", "because", "decided_at", "came_of", "came_of_at")
    return DecisionOut(
        **{name: getattr(row, name) for name in same},
        proposed=Proposal.model_validate(row.proposed),
        decided_by=names.get(row.decided_by, ""),
    )


def as_shown(here: Here, mine: Proposal, shown: Proposal) -> Proposal:
    """What to keep of a proposal that a browser shows: by code with the words that were read, where it still is what
    would be proposed; else the words alone.
    """
    label, why = here.say(mine.label), here.say(mine.why)
    if (mine.step, label, why) != (shown.step, here.say(shown.label), here.say(shown.why)):
        return shown
    return mine.model_copy(update={"label": mine.label.shown_as(label), "why": mine.why.shown_as(why)})


def record(
    here: Here, complaint_id: uuid.UUID, id: uuid.UUID, step: ProposedStep, because: str, proposed: Proposal
) -> DecisionRow:
    """Keep a decision beside the proposal that was shown; sending it twice changes nothing. Raises: NotFound."""
    complaint = people.complaint(here.db, complaint_id)
    known = here.db.get(DecisionRow, id)
    if known is not None:
        return known
    row = DecisionRow(
        id=id,
        practice_id=complaint.practice_id,
        person_id=complaint.person_id,
        complaint_id=complaint.id,
        version=1,
        proposed=proposed.model_dump(mode="json"),
        step=step,
        because=because,
        decided_by=here.practitioner.id,
        decided_at=now(),
    )
    here.db.add(row)
    here.audit(complaint.person_id, "next step decided")
    here.db.flush()
    return row


def came_of(here: Here, decision_id: uuid.UUID, version: int, words: str) -> DecisionRow:
    """Note what came of a decision. Raises: NotFound, Conflict."""
    row = store.decision(here.db, decision_id)
    check_version(row, version, "This decision")
    row.came_of, row.came_of_at = words, now() if words else None
    here.audit(row.person_id, "outcome of a decision recorded")
    here.db.flush()
    return row
