"""Home plans: proposed by the core, stored as they were given, drawn on the person's own figure, as a calendar."""

import uuid
from collections.abc import Sequence
from datetime import date, datetime, time, timedelta

from pydantic import BaseModel

from acuthesis.core.atlas.entries.catalogue import part_of
from acuthesis.core.atlas.entries.fingers import SPAN_WORDS
from acuthesis.core.compose.home import plan as planning
from acuthesis.core.compose.home.plan import HomePlace, HomePlan, HomeWish
from acuthesis.core.compose.home.words import in_centimetres
from acuthesis.core.errors import CoreError, NotAllowed, OutOfRange
from acuthesis.core.message import message
from acuthesis.exchange.drawn import DrawnPlace
from acuthesis.exchange.home_calendar import home_calendar
from acuthesis.exchange.home_paper import HomePaper, home_pdf
from acuthesis.services import workers
from acuthesis.services.body.bodies import screening_on_body
from acuthesis.services.body.locating import located_for
from acuthesis.services.calendar import booking
from acuthesis.services.request.clock import now
from acuthesis.services.request.here import Here
from acuthesis.store import home as store
from acuthesis.store.model import HomePlanRow

USUAL_HOURS = {1: ("20:00",), 2: ("08:00", "20:00"), 3: ("08:00", "14:00", "20:00")}
USUAL_DAYS = 28
LONGEST_DAYS = 366


class GivenPlan(BaseModel):
    """A plan as it was given: `hours` of the day ("08:00"), its first day and last, who gave it and when."""

    id: uuid.UUID
    plan: HomePlan
    hours: list[str]
    first_day: date
    until: date
    given_by: str
    given_at: datetime


class Proposed(BaseModel):
    """What could be given now. `stopped`: why nothing is pressed at home, where nothing is."""

    plan: HomePlan
    hours: list[str]
    first_day: date
    until: date
    stopped: list[str]


def proposed(here: Here, person_id: uuid.UUID, wish: HomeWish) -> Proposed:
    """The plan for this person's open complaints. Raises: NotFound; NotAllowed for what they must not do."""
    known = here.person(person_id, "home plan")
    plan = _plan(here, person_id, wish)
    stopped = [reason.text for reason in known.verdict.reasons if known.verdict.decision != "ok"]
    return Proposed(
        plan=plan,
        hours=list(hours_for(plan.times_a_day)),
        first_day=here.today,
        until=here.today + timedelta(days=USUAL_DAYS - 1),
        stopped=stopped,
    )


def hours_for(times_a_day: int) -> Sequence[str]:
    """Usual hours for so many times a day; more than three are spread from eight in the morning."""
    if times_a_day in USUAL_HOURS:
        return USUAL_HOURS[times_a_day]
    return tuple(f"{8 + round(12 * number / (times_a_day - 1)):02d}:00" for number in range(times_a_day))


def give(
    here: Here, person_id: uuid.UUID, id: uuid.UUID, wish: HomeWish, hours: Sequence[time], first_day: date, until: date
) -> HomePlanRow:
    """Keep a plan as it is given today; it takes the place of the one before, which stays on record.

    Raises: NotFound; NotAllowed where nothing may be pressed, or not there; OutOfRange for days that cannot be;
    CoreError where the hours are not as many as the times a day.
    """
    known = here.person(person_id)
    kept = here.db.get(HomePlanRow, id)
    if kept is not None:
        return kept
    plan = _plan(here, person_id, wish)
    if not plan.places:
        raise NotAllowed(message("home-plan-no-home-pressing-allowed-now"), where="places")
    if not here.today <= first_day <= until:
        raise OutOfRange(message("home-plan-plan-must-start-today-or"), where="until")
    if until > here.today + timedelta(days=LONGEST_DAYS):
        raise OutOfRange(message("home-plan-plan-last-at-most-one"), where="until")
    if len(set(hours)) != plan.times_a_day:
        raise CoreError(
            message("home-plan-times-day-needs-different-times", times_a_day=plan.times_a_day), where="hours"
        )
    row = HomePlanRow(
        id=id,
        practice_id=here.practice_id,
        person_id=known.id,
        plan=plan.model_copy(update={"others": ()}).model_dump(mode="json"),
        hours=[f"{hour:%H:%M}" for hour in sorted(hours)],
        first_day=first_day,
        until=until,
        made_by=here.practitioner.id,
        made_at=now(),
    )
    here.db.add(row)
    here.audit(known.id, "home plan saved")
    here.db.flush()
    return row


def given_out(here: Here, row: HomePlanRow) -> GivenPlan:
    """A kept plan with who gave it."""
    names = {colleague.id: colleague.name for colleague in here.colleagues}
    return GivenPlan(
        id=row.id,
        plan=HomePlan.model_validate(row.plan),
        hours=row.hours,
        first_day=row.first_day,
        until=row.until,
        given_by=names[row.made_by],
        given_at=row.made_at,
    )


def given(here: Here, person_id: uuid.UUID) -> GivenPlan | None:
    """The plan that this person was given last, if any. Raises: NotFound."""
    known = here.person(person_id, "home plan")
    row = store.newest_plan(here.db, known.id)
    return None if row is None else given_out(here, row)


def still_allowed(here: Here, person_id: uuid.UUID, plan: HomePlan) -> HomePlan:
    """A plan that was given, as this person may press it now, with the way to each place on their own body."""
    now_allowed = planning.still_allowed(plan, screening_on_body(here, person_id), here.knowledge)
    return _on_body(here, person_id, now_allowed)


def _on_body(here: Here, person_id: uuid.UUID, plan: HomePlan) -> HomePlan:
    known = here.person(person_id)
    if not known.has_figure:
        return plan

    def located(one: HomePlace) -> HomePlace:
        found, _, _ = located_for(here, known, one.id, "right" if one.side == "right" else "left")
        cun_cm = None if found.segment is None else found.segment.cun_cm
        ways = [
            f"The distance is {check.wanted_cm:.1f} cm; {SPAN_WORDS[check.span]} of your own hand "
            f"{('is' if check.span == 'thumb_width' else 'are')} {check.own_cm:.1f} cm."
            for check in found.fingers
        ]
        return one.model_copy(update={"where": in_centimetres(one.where, cun_cm), "measure": " ".join(ways)})

    places = {place.id: located(place) for place in plan.places}
    sets = [own.model_copy(update={"points": tuple(places[point.id] for point in own.points)}) for own in plan.sets]
    return plan.model_copy(update={"sets": tuple(sets)})


def _current(here: Here, person_id: uuid.UUID) -> GivenPlan:
    """The plan that was given, as it may be pressed now; what would be proposed, where none was."""
    known = here.person(person_id)
    row = store.newest_plan(here.db, known.id)
    if row is not None:
        found = given_out(here, row)
        return found.model_copy(update={"plan": still_allowed(here, known.id, found.plan)})
    plan = _on_body(here, known.id, _plan(here, known.id, HomeWish()))
    return GivenPlan(
        id=uuid.uuid5(known.id, "home"),
        plan=plan,
        hours=list(hours_for(plan.times_a_day)),
        first_day=here.today,
        until=here.today + timedelta(days=USUAL_DAYS - 1),
        given_by="",
        given_at=now(),
    )


def sheet(here: Here, person_id: uuid.UUID, large: bool) -> bytes:
    """The sheet (PDF, one page) of the plan that was given, or of what would be proposed. Raises: NotFound."""
    known, current = here.person(person_id), _current(here, person_id)
    here.audit(known.id, "home sheet printed")
    assert known.facts
    assert here.own is not None
    paper = HomePaper(
        person=known.row.given_name,
        practice=here.practice.name,
        on=here.today,
        first_day=current.first_day,
        plan=current.plan,
        hours=current.hours,
        emergency=here.practice.emergency,
        back_on=_back_on(here, known.id),
    )
    here.release()  # drawing and printing hold no connection and no lock
    drawings = {place.id: drawn_at_home(here, person_id, place) for place in current.plan.places}
    return workers.printing.run(home_pdf, paper, drawings, large)


def _back_on(here: Here, person_id: uuid.UUID) -> date | None:
    """The day of the next visit that is booked."""
    coming = [one for one in booking.of_person(here, person_id) if one.attendance == "expected"]
    days = [here.day_of(one.starts_at) for one in coming]
    return min((day for day in days if day > here.today), default=None)


def drawn_at_home(here: Here, person_id: uuid.UUID, place: HomePlace) -> DrawnPlace:
    """A place on the person's own draped figure. At home they press with their own hand: the practitioner's width is no
    help there. Raises: UnknownId."""
    found, target, ready = located_for(
        here, here.person(person_id), place.id, "right" if place.side == "right" else "left"
    )
    alone = [check.model_copy(update={"practitioner_cm": None}) for check in found.fingers]
    found = found.model_copy(update={"fingers": alone})
    return DrawnPlace(found, ready.plate(found, part_of(target), at_home=True))


def as_calendar(here: Here, person_id: uuid.UUID) -> bytes:
    """The same plan as a calendar, its sets in turn. Raises: NotFound."""
    known, own = here.person(person_id), _current(here, person_id)
    here.audit(known.id, "home plan exported")
    return home_calendar(own.id, here.practice.name, own.plan, own.hours, own.first_day, own.until, own.given_at)


def _plan(here: Here, person_id: uuid.UUID, wish: HomeWish) -> HomePlan:
    known = here.person(person_id)
    kinds = [row.kind for row in known.open_complaints if row.kind in here.knowledge.complaints]
    return planning.home_plan(kinds, screening_on_body(here, person_id), wish, here.knowledge)
