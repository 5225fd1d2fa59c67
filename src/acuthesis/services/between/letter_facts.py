"""The facts that a letter may state of a person, in words and figures, read from their record. No judgement."""

import uuid
from collections import Counter
from collections.abc import Sequence
from datetime import date

from acuthesis.core.atlas.entries.catalogue import is_shipped
from acuthesis.core.compose.home.plan import HomePlan
from acuthesis.core.compose.score.score import Score
from acuthesis.core.errors import UnknownId
from acuthesis.core.message import day, message
from acuthesis.core.safety.limits import limit_strip
from acuthesis.core.treat.account import WriteUp
from acuthesis.core.words import short_id
from acuthesis.exchange.course_figure import course_svg
from acuthesis.exchange.letter_paper import LetterFigure
from acuthesis.exchange.letter_template import LetterComplaint, LetterCourse, LetterFacts, figure_mark
from acuthesis.services.between.letter_request import PaperWish
from acuthesis.services.follow.course import ComplaintCourse, PersonCourse, course_of
from acuthesis.services.follow.course_files import figure_of
from acuthesis.services.request.here import Here
from acuthesis.services.request.known import Known
from acuthesis.store import home, people, visits
from acuthesis.store.model import ComplaintRow, ConsentRow, VisitRow
from acuthesis.words.reader import english

MOST_PLACES = 6
MOST_NOTICED = 8


class LetterSource:
    """A person's record as a letter tells it."""

    def __init__(self, here: Here, known: Known, wish: PaperWish, writer: str, consent: ConsentRow | None) -> None:
        self.here, self.known, self.wish, self.writer, self.consent = here, known, wish, writer, consent
        self.rows = [row for row in known.complaints if row.id in wish.complaint_ids]
        own = visits.visits_of(here.db, known.id, scores=True)
        self.held = [row for row in own if row.treatment != "not_begun"]
        self.course: PersonCourse = course_of(here, known)
        self.shown = [complaint for complaint in self.course.complaints if complaint.id in wish.complaint_ids]
        # Of what was never rated there is nothing to draw.
        self.drawn = [one for one in self.shown if one.outcome.trend != "no_rating"]
        self.plan = home.newest_plan(here.db, known.id)

    def facts(self) -> LetterFacts:
        """Everything in words."""
        here, row = self.here, self.known.row
        return LetterFacts(
            today=_day(here.today),
            practice=here.practice.name,
            writer=self.writer,
            recipient=self.wish.recipient,
            address=self.wish.address,
            person=f"{row.given_name} {row.family_name}".strip(),
            given_name=row.given_name,
            born=_day(row.born),
            consent_on=_day(self.consent.given_on) if self.consent else "",
            asked_of_you=self.wish.asked_of_you,
            note=self.wish.note,
            complaints=tuple(self._complaint(one) for one in self.rows),
            screened_on=_day(self.known.answered_on) if self.known.answered_on else "",
            screening=self._screening(),
            sessions=self._sessions(),
            ways=self._ways(),
            places=self._places(),
            pressure=self._pressure(),
            home=self._home(),
            courses=tuple(self._course(one) for one in self.shown),
            noticed=self._noticed(),
            words=english().say(message("paper-care")),
        )

    def figures(self) -> list[LetterFigure]:
        """The figures that are marked in the facts, in their order."""
        rows = {row.id: row for row in self.rows}
        return [
            LetterFigure(
                course_svg(figure_of(self.here, rows[drawing.id])),
                f"{self._name(drawing)}: {self.here.say(drawing.outcome.sentence)}",
            )
            for drawing in self.drawn
        ]

    def _complaint(self, row: ComplaintRow) -> LetterComplaint:
        side = f", {row.side}" if row.side in ("left", "right") else ""
        return LetterComplaint(
            name=self.here.knowledge.name_of(row.kind) + side,
            since=f"{row.since:%B %Y}" if row.since else "",
            acts=tuple(str(act["words"]) for act in row.acts),
        )

    def _screening(self) -> tuple[str, ...]:
        stops = [reason.text for reason in self.known.verdict.reasons]
        return tuple(
            dict.fromkeys([*stops, *(f"{line}." for line in limit_strip(self.known.screening, on_paper=True))])
        )

    def _sessions(self) -> str:
        if not self.held:
            return "No session has taken place yet."
        days = [self.here.day_of(row.starts_at) for row in self.held]
        if len(days) == 1:
            return f"One session, on {_day(days[0])}."
        return f"{len(days)} sessions from {_day(days[0])} to {_day(days[-1])}."

    def _ways(self) -> tuple[str, ...]:
        names = dict.fromkeys(visit.school for visit in self.course.visits if visit.held and visit.school)
        return tuple(school.name for id in names if (school := self.here.school(id)) is not None)

    def _places(self) -> tuple[str, ...]:
        told = visits.told_of_scores(self.here.db, [row.id for row in self.held])
        counted = Counter(id for one in told.values() for id in sorted(one.pressed))
        return tuple(self._place(id) for id, _ in counted.most_common(MOST_PLACES))

    def _place(self, id: str) -> str:
        """A code that every colleague knows, or the name of an area."""
        try:
            target = self.here.entry(id)
        except UnknownId:
            return short_id(id)
        known_by_code = is_shipped(id) and target.kind == "point"
        return short_id(id) if known_by_code else target.names.english

    def _pressure(self) -> str:
        levels = [level for row in self.held if row.score for level in _levels(Score.model_validate(row.score))]
        if not levels:
            return ""
        low, high = min(levels), max(levels)
        return f"Pressure: level {low} of 5." if low == high else f"Pressure: levels {low} to {high} of 5."

    def _home(self) -> tuple[str, ...]:
        if self.plan is None or self.plan.until < self.here.today:
            return ()
        plan = HomePlan.model_validate(self.plan.plan)
        times = {1: "once a day", 2: "twice a day"}.get(plan.times_a_day, f"{plan.times_a_day} times a day")
        return tuple(
            f"{self._place(place.id)}: {place.dose_words[:1].lower()}{place.dose_words[1:]}"
            f"{', on each side' if place.side == 'both' else ''}, {times}"
            for place in plan.places
        )

    def _name(self, one: ComplaintCourse) -> str:
        return one.name + (f", {one.side}" if one.side in ("left", "right") else "")

    def _course(self, one: ComplaintCourse) -> LetterCourse:
        lasts = one.analysis.carry_over
        return LetterCourse(
            name=self._name(one),
            sentence=self.here.say(one.outcome.sentence),
            lasts=self.here.say(lasts.sentence) if lasts.eases is not None else "",
            episodes=self.here.say(one.episodes.sentence) if one.episodes else "",
            figure=figure_mark(self.drawn.index(one)) if one in self.drawn else "",
        )

    def _noticed(self) -> tuple[str, ...]:
        """Places that stay sore or ease, and what was observed at visits, newest first."""
        sore = []
        for place in self.course.places:
            side = f", {place.side}" if place.side != "midline" else ""
            sore.append(f"{place.name}{side}: soreness {self.here.say(place.words)}")
        return tuple([*sore, *_observed(self.held, self.here)][:MOST_NOTICED])


def _levels(score: Score) -> list[int]:
    return [stop.level for stop in score.stops if not stop.muted and stop.level > 0]


def _observed(held: Sequence[VisitRow], here: Here) -> list[str]:
    written = [(row, WriteUp.model_validate(row.written)) for row in reversed(held) if row.written]
    return [
        f"{_day(here.day_of(row.starts_at))}: {told.observed.strip()}" for row, told in written if told.observed.strip()
    ]


def _day(on: date) -> str:
    return english().say(day(on))


def consent_for_letters(here: Here, person_id: uuid.UUID) -> ConsentRow | None:
    """The consent to letters that holds now, or None."""
    last = [row for row in people.consents(here.db, person_id) if row.about == "letters"]
    return last[-1] if last and last[-1].given else None
