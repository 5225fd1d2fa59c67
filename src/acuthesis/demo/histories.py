"""Generates plausible demo histories from the world: visits, ratings and treatments, with a fixed seed."""

import random
import uuid
from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import select

from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.compose.score.score import Score
from acuthesis.core.safety.screening import Screening, parse_screening
from acuthesis.demo.between import FeltOverTime, episodes, log, taken_home
from acuthesis.demo.world import (
    EMAIL,
    EMERGENCY,
    HANDS,
    HOURS,
    LETTER_DAYS_AGO,
    LOCAL_RULES,
    PASSWORD,
    PLACES,
    PLAYERS,
    PRACTICE,
    PRACTITIONER,
    QUICK_WORDS,
    TIME_ZONE,
    Player,
)
from acuthesis.services.people.file import CONSENTS
from acuthesis.services.practice.practice import hours_to_keep
from acuthesis.stand_ins.hands import event_id, play
from acuthesis.store import access, treatments
from acuthesis.store.database import Db, see_practice
from acuthesis.store.model import (
    ComplaintRow,
    ConsentRow,
    LetterRow,
    MeasureRow,
    PersonRow,
    PlaceRow,
    PlannedVisitRow,
    PractitionerRow,
    RatingRow,
    ScreeningRow,
    StoryRow,
    VisitRow,
)

SEED = 20
ROUND = 10
AN_HOUR = 1 / 24


def load_demo(db: Db, now: datetime, zone: str = TIME_ZONE) -> bool:
    """Load the demo world around `now`, by the clock of its practice in `zone`. Returns whether it was loaded.

    Where it is there already nothing is touched but the visits that nobody has held yet: they move to today, so that
    the day is never empty.
    """
    now = now.astimezone(ZoneInfo(zone))
    present = access.account(db, EMAIL)
    if present is not None:
        see_practice(db, present.practice_id)
        _bring_to_today(db, now)
        return False
    practice = access.add_practice(db, PRACTICE, zone)
    practice.local_rules, practice.emergency = LOCAL_RULES, EMERGENCY
    practice.quick_words = list(QUICK_WORDS)
    practice.hours = hours_to_keep(HOURS)
    practitioner = access.add_practitioner(db, practice.id, PRACTITIONER, EMAIL, PASSWORD)
    practitioner.fingers = dict(HANDS)
    chance = random.Random(SEED)
    aside = random.Random(f"{SEED} places")
    places = [
        PlaceRow(id=event_id(aside), practice_id=practice.id, name=name, address=address, version=1)
        for name, address in PLACES
    ]
    db.add_all(places)
    db.flush()
    for player in PLAYERS:
        _Grower(db, practitioner, player, now, chance, places[0].id).grow()
    return True


def _bring_to_today(db: Db, now: datetime) -> None:
    midnight = datetime.combine(now.date(), time(), now.tzinfo)
    not_held = (VisitRow.treatment == "not_begun") & (VisitRow.attendance == "expected") & VisitRow.closed_at.is_(None)
    late = select(VisitRow).where(VisitRow.starts_at < midnight, not_held).order_by(VisitRow.starts_at.desc())
    moved = set()
    for visit in db.scalars(late):
        if visit.person_id in moved:
            visit.attendance = "not_come"  # nobody comes twice a day
            continue
        moved.add(visit.person_id)
        at = visit.starts_at.astimezone(now.tzinfo)
        visit.starts_at = datetime.combine(now.date(), at.time(), now.tzinfo)


class _Grower:
    """Grows one person."""

    def __init__(
        self,
        db: Db,
        practitioner: PractitionerRow,
        player: Player,
        now: datetime,
        chance: random.Random,
        place_id: uuid.UUID,
    ) -> None:
        self.db, self.practitioner, self.player = db, practitioner, player
        self.now, self.chance, self.place_id = now, chance, place_id
        # What stands beside the course draws from a chance of its own: the course stays as it was.
        self.more = random.Random(f"{SEED} {player.given}")
        # So do ratings, which do not hang on how many places were pressed.
        felt = random.Random(f"{SEED} {player.given}, felt")
        self.feelings = [FeltOverTime(player, complaint, felt) for complaint in player.complaints]
        self.person_id = event_id(chance)
        self.home = {"practice_id": practitioner.practice_id, "person_id": self.person_id}
        self.complaints: list[ComplaintRow] = []
        self.scores: dict[tuple[tuple[str, int], ...], Score] = {}

    def grow(self) -> None:
        player = self.player
        began = self.now - timedelta(days=player.sessions * player.every_days + 1)
        self.db.add(
            PersonRow(
                id=self.person_id,
                practice_id=self.practitioner.practice_id,
                version=1,
                given_name=player.given,
                family_name=player.family,
                born=_born(player.age, self.now.date()),
                sex=player.sex,
                height_cm=player.height_cm,
                weight_kg=player.weight_kg,
                fingers=player.fingers,
                in_charge=self.practitioner.id,
                emergency_contact="The company's stage manager, at the stage door",
                created_at=began,
            )
        )
        self.db.flush()
        self._file(began)
        self._screen_and_measure(began)
        for number in range(player.sessions):
            days_ago = (player.sessions - number) * player.every_days
            self._past_visit(number, self.now - timedelta(days=days_ago))
        self._today()
        self._between()
        self._to_come()
        self.db.flush()

    def _between(self) -> None:
        """What was told from home: ratings, episodes, the log."""
        if not self.player.sessions:
            return
        hour, minute = self.player.at
        first_day = (self.now - timedelta(days=self.player.sessions * self.player.every_days)).date()
        first = datetime.combine(first_day, time(hour, minute), self.now.tzinfo)
        for complaint, felt in zip(self.complaints, self.feelings, strict=True):
            for day in felt.from_home():
                self._rate(None, complaint, "home", felt.at(day), first + timedelta(days=day))
        ids = [complaint.id for complaint in self.complaints]
        self.db.add_all(episodes(self.player, ids[0], first, self.now, self.home))
        self.db.add_all(log(self.player, ids, first, self.now.date(), self.home))
        kinds = [complaint.kind for complaint in self.complaints]
        given = (self.practitioner.id, first, self.now, self.home)
        self.db.add_all(taken_home(self.player, ids, kinds, self._screening(), *given))

    def _file(self, began: datetime) -> None:
        """Story, consents, and the letter that waits for an answer."""
        by = self.practitioner.id
        self.db.add(
            StoryRow(
                id=event_id(self.more),
                told=self.player.story,
                told_on=began.date(),
                written_by=by,
                written_at=began,
                **self.home,
            )
        )
        agreed = ("treatment", "records", *(("letters",) if self.player.letters else ()))
        for about in agreed if self.player.sessions else ():
            self.db.add(
                ConsentRow(
                    id=event_id(self.more),
                    about=about,
                    given=True,
                    said=CONSENTS[about],
                    how="in_writing",
                    given_on=began.date(),
                    recorded_by=by,
                    recorded_at=began,
                    **self.home,
                )
            )
        if self.player.letter:
            sent = self.now.date() - timedelta(days=LETTER_DAYS_AGO)
            self.db.add(
                LetterRow(
                    id=event_id(self.more),
                    recipient="their doctor",
                    about=self.player.letter,
                    sent_on=sent,
                    answer_due=sent + timedelta(days=LETTER_DAYS_AGO - 1),
                    answer="",
                    sent_by=by,
                    version=1,
                    **self.home,
                )
            )

    def _to_come(self) -> None:
        """The next visits of a series: the first is booked, the others are planned."""
        if not self.player.next_in_days:
            return
        series = event_id(self.more)
        for number, days in enumerate(self.player.next_in_days, start=1):
            due = self.now.date() + timedelta(days=days)
            booked = None
            if number == 1 and not self.player.next_unbooked:
                hour, minute = self.player.at
                booked = self._visit(datetime.combine(due, time(hour, minute), self.now.tzinfo), self.more)
                booked.purpose = self.player.purpose
            self.db.add(
                PlannedVisitRow(
                    id=event_id(self.more),
                    series_id=series,
                    number=number,
                    due_on=due,
                    minutes=self.player.minutes,
                    purpose=self.player.purpose,
                    visit_id=booked.id if booked else None,
                    planned_by=self.practitioner.id,
                    planned_at=self.now,
                    **self.home,
                )
            )

    def _screening(self) -> Screening:
        return parse_screening(self.player.screening or {}, self.player.age)

    def _screen_and_measure(self, began: datetime) -> None:
        player = self.player
        if player.screening is not None:
            at = self.now - timedelta(days=player.screened_days_ago)
            self.db.add(
                ScreeningRow(
                    id=event_id(self.chance),
                    answered_at=at,
                    answered_by=self.practitioner.id,
                    answers=player.screening,
                    **self.home,
                )
            )
        for name, value in player.measures.items():
            self.db.add(MeasureRow(id=event_id(self.chance), name=name, value_cm=value, taken_at=began, **self.home))
        for complaint in player.complaints:
            row = ComplaintRow(
                id=event_id(self.chance),
                version=1,
                kind=complaint.kind,
                side=complaint.side,
                acts=[{"id": str(event_id(self.more)), "words": complaint.act}] if complaint.act else [],
                since=(self.now - timedelta(weeks=complaint.weeks)).date(),
                created_at=began,
                **self.home,
            )
            self.db.add(row)
            self.complaints.append(row)
        self.db.flush()

    def _visit(self, starts_at: datetime, chance: random.Random | None = None) -> VisitRow:
        row = VisitRow(
            id=event_id(chance or self.chance),
            practitioner_id=self.practitioner.id,
            starts_at=starts_at,
            minutes=self.player.minutes,
            place_id=self.place_id,
            version=1,
            booking_version=1,
            booked_by=self.practitioner.id,
            **self.home,
        )
        self.db.add(row)
        self.db.flush()
        return row

    def _rate(self, visit: VisitRow | None, complaint: ComplaintRow, moment: str, value: int, at: datetime) -> None:
        self.db.add(
            RatingRow(
                id=event_id(self.chance),
                complaint_id=complaint.id,
                visit_id=visit.id if visit else None,
                moment=moment,
                value=min(max(value, 0), 10),
                rated_at=at,
                said_by="person" if visit else "from_home",
                recorded_by=self.practitioner.id if visit else None,
                **self.home,
            )
        )

    def _course(self, number: int) -> list[int]:
        """Ratings before a session."""
        return [felt.at(number * self.player.every_days) for felt in self.feelings]

    def _compose(self, values: list[int]) -> Score:
        wanted = [
            ComplaintNow(id=complaint.kind, rating=max(value, 1), side=complaint.side)
            for complaint, value in zip(self.player.complaints, values, strict=True)
        ]
        # The same wish again is not composed again: a demo of fifty visits is loaded in seconds.
        key = tuple((one.id, round(one.rating / 3)) for one in wanted)
        if key not in self.scores:
            request = ComposeRequest(complaints=wanted, minutes=self.player.minutes, school=self.player.school)
            self.scores[key] = compose(request, self._screening())
        return self.scores[key]

    def _treated(self, visit: VisitRow, number: int, values: list[int], at: datetime) -> None:
        score = self._compose(values)
        visit.score = score.model_dump(mode="json")
        easing = number // 3
        sore = {
            id: max(value - easing + self.chance.choice((-1, 0, 0, 1)), 1) for id, value in self.player.sore.items()
        }
        treatments.save_course(self.db, visit, play(score, at + timedelta(minutes=8), sore, self.chance))
        done = at + timedelta(minutes=self.player.minutes)
        for complaint, felt in zip(self.complaints, self.feelings, strict=True):
            self._rate(visit, complaint, "after", felt.at(number * self.player.every_days + AN_HOUR), done)

    def _past_visit(self, number: int, at: datetime) -> None:
        hour, minute = self.player.at
        starts_at = datetime.combine(at.date(), time(hour, minute), at.tzinfo)
        if number in self.player.missed:
            missed = self._visit(starts_at - timedelta(days=2), self.more)
            missed.attendance, missed.attendance_reason = "not_come", "rehearsal ran late"
        visit = self._visit(starts_at)
        values = self._course(number)
        for complaint, value in zip(self.complaints, values, strict=True):
            self._rate(visit, complaint, "before", value, starts_at + timedelta(minutes=3))
        self._treated(visit, number, values, starts_at)

    def _today(self) -> None:
        """Today's visit, as far as it has come: new, arrived, composed (rated before it), or done."""
        hour, minute = self.player.at
        starts_at = datetime.combine(self.now.date(), time(hour, minute), self.now.tzinfo)
        visit = self._visit(starts_at)
        if self.player.today in ("composed", "done"):
            values = [complaint.now for complaint in self.player.complaints]
            for complaint, value in zip(self.complaints, values, strict=True):
                self._rate(visit, complaint, "before", value, starts_at + timedelta(minutes=3))
            if self.player.today == "done":
                self._treated(visit, self.player.sessions, values, starts_at)
            else:
                visit.score = self._compose(values).model_dump(mode="json")


def _born(age: int, today: date) -> date:
    """A date of birth by which somebody has this age today, and keeps it for some months, whatever the day."""
    birthday = today - timedelta(days=100)
    return birthday.replace(year=birthday.year - age, day=min(birthday.day, 28))
