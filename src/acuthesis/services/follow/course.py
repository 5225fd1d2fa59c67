"""A person's course: each complaint with its outcome and what comes next, the log, soreness, visits."""

import uuid
from collections import defaultdict
from collections.abc import Mapping, Sequence
from datetime import date, datetime
from functools import cached_property
from itertools import pairwise
from statistics import median

from pydantic import BaseModel

from acuthesis.core.compose.knowledge.complaint_questions import Answers, changed
from acuthesis.core.errors import UnknownId
from acuthesis.core.follow.analysis import Analysis
from acuthesis.core.follow.cautions import LifeEvent, cautions
from acuthesis.core.follow.decide import Facts, Proposal, decide
from acuthesis.core.follow.episodes import EpisodeEntry, Episodes, episodes_over
from acuthesis.core.follow.home_practice import HomePractice, Practised, home_practice
from acuthesis.core.follow.outcome import Outcome, judge, judged_with
from acuthesis.core.follow.pooled import WithPractice
from acuthesis.core.follow.pressed import VisitQuestion, questions
from acuthesis.core.follow.ratings import HeldSession, Series
from acuthesis.core.follow.soreness import PlaceCourse, SideBySide, places_over, sides
from acuthesis.core.treat.tenderness import Tenderness, tenderness
from acuthesis.services.follow.decisions import DecisionOut, decision_out
from acuthesis.services.follow.log import EntryOut, entry_out
from acuthesis.services.ratings.outcomes import analysis_of, outcomes_of, prior_of, series_of
from acuthesis.services.ratings.rating import RatingMoment, SaidBy
from acuthesis.services.request.here import Here
from acuthesis.services.request.known import Known
from acuthesis.store import complaints as asked
from acuthesis.store import follow as store
from acuthesis.store import visits
from acuthesis.store.model import ComplaintRow, EpisodeRow, LogRow, VisitRow

LATELY_SESSIONS = 5  # how far apart sessions are: the middle of the last gaps
HOUR_S = 3600
NEW_KIND = ("quality", "pattern")  # answers whose change is one in kind


class RatingPoint(BaseModel):
    """One rating on the time line."""

    id: uuid.UUID
    at: datetime
    value: int
    moment: RatingMoment
    said_by: SaidBy
    visit_id: uuid.UUID | None


class ActivityCourse(BaseModel):
    """An act with its ratings and what they say."""

    id: uuid.UUID
    words: str
    ratings: list[RatingPoint]
    outcome: Outcome


class Bar(BaseModel):
    """An episode on the time line; without an end where it goes on or was not told."""

    id: uuid.UUID
    started_at: datetime
    ended_at: datetime | None
    strength: int | None
    trigger: str
    helped: str


class ComplaintCourse(BaseModel):
    """One complaint over time, and what comes next."""

    id: uuid.UUID
    kind: str
    name: str
    side: str
    closed_on: date | None
    ratings: list[RatingPoint]
    outcome: Outcome
    with_practice: WithPractice | None  # beside it, where the practice switched that on
    analysis: Analysis
    acts: list[ActivityCourse]
    bars: list[Bar]
    episodes: Episodes | None
    questions: list[VisitQuestion]
    proposal: Proposal
    decisions: list[DecisionOut]


class VisitOnCourse(BaseModel):
    """A visit on the time line: whether it was held, in which way of working, and how many places were pressed."""

    id: uuid.UUID
    starts_at: datetime
    held: bool
    attendance: str
    school: str
    pressed: int


class PersonCourse(BaseModel):
    """Everything on one person's time line."""

    person_id: uuid.UUID
    given_name: str
    complaints: list[ComplaintCourse]
    visits: list[VisitOnCourse]
    log: list[EntryOut]
    practice: HomePractice
    tenderness: list[Tenderness]
    places: list[PlaceCourse]
    sides: list[SideBySide]


def course_of(here: Here, known: Known) -> PersonCourse:
    """A person's course, by the clock of the practice."""
    own = visits.visits_of(here.db, known.id)
    held = [row for row in own if row.treatment != "not_begun"]
    told = visits.told_of_scores(here.db, [row.id for row in held])
    log = store.log(here.db, known.id)
    felt = visits.felt_at(here.db, known.id, here.day_bounds(here.today)[1])
    sore = tenderness((here.day_of(starts_at), rows) for starts_at, rows in felt)
    places = places_over(sore)
    complaints = _Complaints(here, known, held, {id: one.pressed for id, one in told.items()}, log, places)
    complaints.grounds = [told[row.id].school for row in held if row.id in told]
    practised = [
        Practised(on=entry.on_day, minutes=entry.amount, words=entry.words) for entry in log if entry.kind == "practice"
    ]
    return PersonCourse(
        person_id=known.id,
        given_name=known.row.given_name,
        complaints=[complaints.course(row) for row in known.complaints],
        visits=[
            VisitOnCourse(
                id=row.id,
                starts_at=row.starts_at,
                held=row.treatment != "not_begun",
                attendance=row.attendance,
                school=told[row.id].school if row.id in told else "",
                pressed=len(told[row.id].pressed) if row.id in told else 0,
            )
            for row in own
        ],
        log=[entry_out(here, row) for row in log],
        practice=home_practice(practised, here.today),
        tenderness=sore,
        places=places,
        sides=sides(sore),
    )


class _Complaints:
    """What all complaints of a person are told from, read once."""

    def __init__(
        self,
        here: Here,
        known: Known,
        held: Sequence[VisitRow],
        pressed: Mapping[uuid.UUID, frozenset[str]],
        log: Sequence[LogRow],
        places: Sequence[PlaceCourse],
    ) -> None:
        self.here, self.known, self.held, self.pressed = here, known, held, pressed
        self.log, self.places = log, places
        self.grounds: list[str] = []
        ids = [row.id for row in known.complaints]
        self.outcomes = outcomes_of(here, known.complaints)
        self.answers = asked.answers(here.db, ids)
        self.acts = asked.activity_ratings(here.db, ids)
        self.decisions = store.decisions(here.db, ids)
        self.episodes: dict[uuid.UUID, list[EpisodeRow]] = defaultdict(list)
        for episode in asked.episodes(here.db, ids):
            self.episodes[episode.complaint_id].append(episode)

    def course(self, row: ComplaintRow) -> ComplaintCourse:
        """One complaint."""
        here, ratings = self.here, self.known.ratings_of[row.id]
        outcome, analysis = self.outcomes[row.id], analysis_of(here, row)
        series = series_of(here, ratings, row.kind)
        prior = prior_of(here, row, series)
        episodes = self._episodes(row, series)
        return ComplaintCourse(
            id=row.id,
            kind=row.kind,
            name=here.knowledge.name_of(row.kind),
            side=row.side,
            closed_on=row.closed_on,
            ratings=[_point(rating) for rating in ratings],
            outcome=outcome,
            with_practice=judged_with(series, prior) if prior is not None else None,
            analysis=analysis,
            acts=self._acts(row),
            bars=[_bar(episode) for episode in self.episodes[row.id]],
            episodes=episodes,
            questions=questions(Series(ratings=series.ratings, sessions=self._sessions), self._names),
            proposal=decide(self._facts(row, series, outcome, analysis, episodes)),
            decisions=[decision_out(here, one) for one in reversed(self.decisions.get(row.id, []))],
        )

    def _facts(
        self, row: ComplaintRow, series: Series, outcome: Outcome, analysis: Analysis, episodes: Episodes | None
    ) -> Facts:
        better = sum(one.trend == "better" for one in self.outcomes.values())
        events = [
            LifeEvent(on=entry.on_day, words=entry.words, other_care=entry.other_care)
            for entry in self.log
            if entry.kind == "event" and entry.complaint_id in (None, row.id)
        ]
        hours = [self.here.local(one.starts_at).hour for one in self.held]
        grounds = set(self.grounds)
        return Facts(
            outcome=outcome,
            carry_over=analysis.carry_over,
            episodes=episodes,
            needed=analysis.needed,
            cautions=cautions(series, outcome, len(self.outcomes), better, events),
            places=list(self.places),
            red_flags=[
                reason.text for reason in self.known.verdict.reasons if reason.severity in ("emergency", "refer")
            ],
            new_pattern=self._new_pattern(row),
            every_days=self._every_days(),
            plan_changed=any(one.step == "change_plan" for one in self.decisions.get(row.id, [])),
            ground=_ground(self.here, grounds),
            hours_of_day=hours,
        )

    def _episodes(self, row: ComplaintRow, series: Series) -> Episodes | None:
        told = self.episodes[row.id]
        if not told:
            return None
        here = self.here
        words_on = [
            *(here.day_of(one.recorded_at) for one in told),
            *(rating.on for rating in series.ratings),
            *(entry.on_day for entry in self.log if entry.complaint_id == row.id),
        ]
        began = here.day_of(self.held[0].starts_at) if self.held else None
        entries = [
            EpisodeEntry(
                on=here.day_of(one.started_at),
                hours=_hours(one),
                strength=one.strength,
                trigger=one.trigger,
                helped=one.helped,
            )
            for one in told
        ]
        return episodes_over(entries, words_on, began, here.today)

    def _acts(self, row: ComplaintRow) -> list[ActivityCourse]:
        found = []
        for act in row.acts:
            rated = [one for one in self.acts if str(one.act_id) == act["id"]]
            found.append(
                ActivityCourse(
                    id=act["id"],
                    words=act["words"],
                    ratings=[_point(rating) for rating in rated],
                    outcome=judge(series_of(self.here, rated, act["words"])),
                )
            )
        return found

    @cached_property
    def _sessions(self) -> list[HeldSession]:
        held = []
        for row in self.held:
            local = self.here.local(row.starts_at)
            pressed = self.pressed.get(row.id, frozenset())
            held.append(HeldSession(on=local.date(), at=local.time(), pressed=pressed))
        return held

    @cached_property
    def _names(self) -> dict[str, str]:
        ids = {id for pressed in self.pressed.values() for id in pressed}
        return {id: _name(self.here, id) for id in ids}

    def _every_days(self) -> float | None:
        days = [self.here.day_of(row.starts_at) for row in self.held][-LATELY_SESSIONS:]
        gaps = [(later - earlier).days for earlier, later in pairwise(days)]
        return float(median(gaps)) if gaps else None

    def _new_pattern(self, row: ComplaintRow) -> str:
        """What has changed in kind since it was asked before, where work has begun since."""
        told = self.answers.get(row.id, [])
        if len(told) < 2 or not self.held or told[0].asked_at < self.held[0].starts_at:
            return ""
        now, before = (Answers.model_validate(one.answers) for one in told[:2])
        differs = changed(before, now)
        return "; ".join(
            f"{name}: {differs[name][0]} before, {differs[name][1]} now"
            for name in NEW_KIND
            if name in differs and all(differs[name])
        )


def _name(here: Here, id: str) -> str:
    """The name of a point or area; its id, where the practice took its own one away."""
    try:
        return here.entry(id).names.english
    except UnknownId:
        return id


def _ground(here: Here, schools: set[str]) -> str:
    """The one way of working that was used, in words; none where there were several."""
    if len(schools) != 1:
        return ""
    school = here.school(next(iter(schools)))
    return school.name.lower() if school else ""


def _point(row: object) -> RatingPoint:
    told = {name: getattr(row, name) for name in ("id", "value", "moment", "said_by", "visit_id")}
    return RatingPoint(at=row.rated_at, **told)  # type: ignore[attr-defined]


def _bar(row: EpisodeRow) -> Bar:
    return Bar(**{name: getattr(row, name) for name in Bar.model_fields})


def _hours(row: EpisodeRow) -> float | None:
    if row.ended_at is None or row.day_only:
        return None
    return (row.ended_at - row.started_at).total_seconds() / HOUR_S
