"""Complaints of a person: added with questions and red flags, asked again, activities rated, episodes recorded."""

import uuid
from collections import defaultdict
from collections.abc import Mapping, Sequence
from datetime import date, datetime, timedelta
from typing import Any

from pydantic import BaseModel

from acuthesis.core.body.regions import patch_of
from acuthesis.core.compose.knowledge.complaint_questions import MOST_ACTS, Answers
from acuthesis.core.compose.knowledge.said import can_be_one_sided
from acuthesis.core.errors import CoreError, NotAllowed, OutOfRange, UnknownId
from acuthesis.core.message import message
from acuthesis.core.safety.limits import complaints_out
from acuthesis.core.safety.screening import open_form, parse_screening, questions
from acuthesis.services.body.bodies import body_of
from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.services.visit.treatment import person_changed
from acuthesis.store import complaints as store
from acuthesis.store import people
from acuthesis.store.model import (
    ActivityRatingRow,
    ComplaintAnswersRow,
    ComplaintPlaceRow,
    ComplaintRow,
    ConfirmationRow,
    EpisodeRow,
    PersonRow,
)
from acuthesis.store.people import check_version


class Examination(BaseModel):
    """That a doctor has looked at what a complaint calls for: who, and when."""

    by: str
    seen_on: date


class Episode(BaseModel):
    """An episode to keep, with moments by the clock of whoever tells it."""

    started_at: datetime
    ended_at: datetime | None
    goes_on: bool
    day_only: bool
    day_said: bool
    strength: int | None
    trigger: str
    helped: str
    medicine: str
    said_by: str


def add_complaint(
    here: Here,
    person_id: uuid.UUID,
    kind_id: str,
    side: str,
    acts: Sequence[str],
    since: date | None,
    answers: Answers,
    confirmed: Examination | None,
    red_flags: Mapping[str, bool],
) -> ComplaintRow:
    """Take a complaint up. Red flags that are answered with yes go into the screening, where they stop the work.

    Raises: NotFound; NotAllowed for one that is not worked on with this person; UnknownId for a complaint, or a red
    flag that it does not ask; CoreError for a side where it has none, and where the doctor's look that it calls for is
    not said; OutOfRange for a day to come.
    """
    known = here.person(person_id)
    person, kind = known.row, here.knowledge.complaint(kind_id)
    not_offered = complaints_out(known.screening)
    if kind_id in not_offered:
        raise NotAllowed(
            message("complaints-not-offered", name=kind.name, not_offered=not_offered[kind_id]), where="kind"
        )
    if side in ("left", "right") and not can_be_one_sided(kind):
        raise CoreError(message("complaints-no-side", name=kind.name), where="side")
    if since is not None and since > here.today:
        raise OutOfRange(message("day-in-the-future", day=since), where="since")
    if kind.checked and confirmed is None:
        raise CoreError(message("complaints-enter-who-when", checked=kind.checked), where="confirmed")
    for flag in red_flags:
        if flag not in kind.red_flags:
            raise UnknownId(message("complaints-does-not-ask", name=kind.name, flag=flag), where="red_flags")
    row = ComplaintRow(
        id=uuid.uuid4(),
        practice_id=here.practice_id,
        person_id=person.id,
        version=1,
        kind=kind_id,
        side=side,
        acts=_acts(acts, []),
        since=since,
        created_at=now(),
    )
    here.db.add(row)
    here.db.flush()
    here.audit(person.id, "complaint added")
    if answers != Answers():
        _keep_answers(here, row, answers)
    if confirmed is not None:
        confirm(here, row, confirmed)
    _keep_answered(here, person, red_flags)
    here.db.flush()
    here.forget(person.id)
    return row


def _keep_answered(here: Here, person: PersonRow, red_flags: Mapping[str, bool]) -> None:
    """Red flags that were answered with yes go into the screening; with no, where a rule waits for a no."""
    raised = sorted(flag for flag, is_so in red_flags.items() if is_so)
    if raised:
        raise_flags(here, person, raised)
    known = here.person(person.id)
    denied = [
        flag
        for flag, is_so in sorted(red_flags.items())
        if not is_so and questions()[flag].explicit and not known.screening.was_asked(flag)
    ]
    if denied:
        answer_too(here, person, dict.fromkeys(denied, False), "screened")


def change(
    here: Here,
    complaint_id: uuid.UUID,
    version: int,
    side: str | None,
    acts: Sequence[str] | None,
    since: date | None,
    closed: bool | None,
) -> ComplaintRow:
    """Change a complaint, close it or open it again. An act that keeps its words keeps its ratings.

    Raises: NotFound, Conflict, CoreError, OutOfRange.
    """
    row = people.complaint(here.db, complaint_id)
    kind = here.knowledge.complaints.get(row.kind)
    if side in ("left", "right") and kind is not None and not can_be_one_sided(kind):
        raise CoreError(message("complaints-no-side", name=kind.name), where="side")
    if since is not None and since > here.today:
        raise OutOfRange(message("day-in-the-future", day=since), where="since")
    check_version(row, version, "This complaint")
    row.side = side or row.side
    row.since = since or row.since
    if acts is not None:
        row.acts = _acts(acts, row.acts)
    if closed is not None:
        row.closed_on = here.today if closed else None
    here.audit(row.person_id, "complaint changed")
    here.db.flush()
    here.forget(row.person_id)
    return row


def ask_again(here: Here, complaint_id: uuid.UUID, answers: Answers, confirmed: Examination | None) -> ComplaintRow:
    """Keep new answers; what was answered before stays beside them. Raises: NotFound, OutOfRange."""
    row = people.complaint(here.db, complaint_id)
    _keep_answers(here, row, answers)
    if confirmed is not None:
        confirm(here, row, confirmed)
    here.db.flush()
    here.forget(row.person_id)
    return row


def confirm(here: Here, row: ComplaintRow, said: Examination) -> None:
    """Keep that a doctor has looked. Raises: OutOfRange for a day to come."""
    if said.seen_on > here.today:
        raise OutOfRange(message("day-in-the-future", day=said.seen_on), where="confirmed.seen_on")
    here.db.add(
        ConfirmationRow(
            id=uuid.uuid4(),
            practice_id=row.practice_id,
            person_id=row.person_id,
            complaint_id=row.id,
            by=said.by,
            seen_on=said.seen_on,
            recorded_by=here.practitioner.id,
            recorded_at=now(),
        )
    )
    here.audit(row.person_id, "medical check recorded")


def paint(here: Here, row: ComplaintRow, skin: list[int]) -> None:
    """Keep where a complaint is, as it was painted on the figure. Raises: CoreError for what is on no figure."""
    ready = body_of(here.person(row.person_id))
    with ready.lock:
        patch = patch_of(skin, ready.body)
    here.db.add(
        ComplaintPlaceRow(
            id=uuid.uuid4(),
            practice_id=row.practice_id,
            person_id=row.person_id,
            complaint_id=row.id,
            skin=sorted(set(skin)),
            words=patch.words,
            painted_by=here.practitioner.id,
            painted_at=now(),
        )
    )
    here.audit(row.person_id, "area of a complaint marked")
    here.db.flush()


def add_episodes(here: Here, complaint_id: uuid.UUID, told: Sequence[Episode]) -> list[EpisodeRow]:
    """Keep episodes, all of them or none. Raises: NotFound; OutOfRange for times that cannot be."""
    row = people.complaint(here.db, complaint_id)
    for rank, one in enumerate(told):
        _check_times(one, f"episodes.{rank}")
    kept = [
        EpisodeRow(
            id=uuid.uuid4(),
            practice_id=row.practice_id,
            person_id=row.person_id,
            complaint_id=row.id,
            version=1,
            recorded_by=here.practitioner.id,
            recorded_at=now(),
            **one.model_dump(),
        )
        for one in told
    ]
    here.db.add_all(kept)
    here.audit(row.person_id, "episodes recorded")
    here.db.flush()
    return kept


def change_episode(here: Here, episode_id: uuid.UUID, version: int, told: Episode | None, dropped: bool) -> EpisodeRow:
    """Change an episode, or drop one that was noted by mistake; what it said before stays with it.

    Raises: NotFound, Conflict, OutOfRange.
    """
    row = store.episode(here.db, episode_id)
    if told is not None:
        _check_times(told, "episode")
    check_version(row, version, "This episode")
    if told is not None:
        before = Episode(**{name: getattr(row, name) for name in Episode.model_fields})
        if before != told:
            changed = {"changed_at": now().isoformat(), "changed_by": str(here.practitioner.id)}
            row.earlier = [*row.earlier, {**before.model_dump(mode="json"), **changed}]
        for name, value in told.model_dump().items():
            setattr(row, name, value)
    row.dropped_at = (row.dropped_at or now()) if dropped else None
    here.audit(row.person_id, "episode removed" if dropped else "episode changed")
    here.db.flush()
    return row


def _check_times(one: Episode, where: str) -> None:
    latest = now() + timedelta(hours=26)  # a day that was told ends in the evening, wherever the practice is
    if one.started_at > latest or (one.ended_at is not None and one.ended_at > latest):
        raise OutOfRange(message("complaints-episode-cannot-begin-or-end"), where=f"{where}.started_at")
    if one.ended_at is not None and (one.ended_at < one.started_at or one.goes_on):
        raise OutOfRange(message("complaints-episode-must-end-after-started"), where=f"{where}.ended_at")


def _acts(words: Sequence[str], before: Sequence[Mapping[str, str]]) -> list[dict[str, str]]:
    said = list(dict.fromkeys(word.strip() for word in words if word.strip()))
    if len(said) > MOST_ACTS:
        raise CoreError(message("complaints-at-most-activities-rated-choose", most_acts=MOST_ACTS), where="acts")
    ids = {act["words"]: act["id"] for act in before}
    return [{"id": ids.get(one, str(uuid.uuid4())), "words": one} for one in said]


def _keep_answers(here: Here, row: ComplaintRow, answers: Answers) -> None:
    here.db.add(
        ComplaintAnswersRow(
            id=uuid.uuid4(),
            practice_id=row.practice_id,
            person_id=row.person_id,
            complaint_id=row.id,
            answers=answers.model_dump(mode="json"),
            asked_by=here.practitioner.id,
            asked_at=now(),
        )
    )
    here.audit(row.person_id, "complaint details recorded")


def raise_flags(here: Here, person: PersonRow, flags: Sequence[str]) -> None:
    """A red flag is an answer of the screening, wherever it was asked: the newest answers with these added.

    What stops the work stops it at once, also a treatment that is under way.
    """
    answer_too(here, person, dict.fromkeys(flags, True), "red flag recorded")


def answer_too(here: Here, person: PersonRow, more: Mapping[str, Any], action: str) -> None:
    """The newest answers with these added, one key a question. Nobody is taken for screened by it, and no older answer
    for a fresh one.

    Raises: UnknownId, CoreError where the answers do not fit the questions.
    """
    newest = here.person(person.id).answered
    before = open_form(parse_screening(newest.answers)) if newest else {}
    people.add_screening(here.db, person, {**before, **more}, here.signed_in, now(), in_full=False)
    here.audit(person.id, action)
    person_changed(here, person.id)


def by_complaint(rows: Sequence[ActivityRatingRow]) -> Mapping[uuid.UUID, list[ActivityRatingRow]]:
    """Ratings of acts by their complaint, in order of time."""
    found: dict[uuid.UUID, list[ActivityRatingRow]] = defaultdict(list)
    for row in rows:
        found[row.complaint_id].append(row)
    return found
