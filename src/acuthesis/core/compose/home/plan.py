"""Home plans: up to five places that the person can reach alone, sitting or lying, safe without supervision, in two
sets that alternate by day.
"""

from collections.abc import Sequence
from datetime import date
from functools import lru_cache
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from acuthesis.core.atlas.entries.catalogue import Entry, part_of
from acuthesis.core.compose.home.words import HOW_HARD, not_when, press_with, said_at_home, see_doctor
from acuthesis.core.compose.knowledge.dose import DATA, Breaths, Dose, duration_s
from acuthesis.core.compose.knowledge.layer import Knowledge, shipped
from acuthesis.core.compose.knowledge.use_reasons import why_of
from acuthesis.core.compose.score.adapting import adapted
from acuthesis.core.compose.score.arrange import under_school
from acuthesis.core.compose.score.course import Phrase, calm_breath, rhythm
from acuthesis.core.data_file import read
from acuthesis.core.errors import NotAllowed, UnknownId
from acuthesis.core.message import message
from acuthesis.core.safety.limits import limits_for, positions_out
from acuthesis.core.safety.screening import Screening
from acuthesis.core.safety.touching import StopSide
from acuthesis.core.safety.verdict import verdict
from acuthesis.core.words import region_words


class Rules(BaseModel):
    """What a plan for home keeps to, with its source in data/home.yaml."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    most_places: int
    two_sets_from: int
    most_level: int
    times_a_day: int
    heavy_from_week: int
    weak_hands: tuple[str, ...]
    bent_for: tuple[str, ...]
    out_of_reach: tuple[str, ...]


@lru_cache
def rules() -> Rules:
    """What a plan for home keeps to.

    >>> rules().most_places
    5
    """
    return Rules.model_validate(read(DATA / "home.yaml"))


HomePosition = Literal["seated", "supine", "left_side", "right_side"]
EVERY_DAY, FIRST_DAYS, OTHER_DAYS = "every day", "every second day, from the first", "on the days between"


class HomeWish(BaseModel):
    """How somebody presses at home: where they sit or lie, their hands, whether they reach their feet (None: as far as
    can be told), and the places, if the practitioner chose them (ids, most important first).
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    position: HomePosition = "seated"
    weak_hands: bool | None = None
    reaches_feet: bool | None = None
    times_a_day: int = Field(rules().times_a_day, ge=1, le=6)
    places: tuple[str, ...] = Field((), max_length=rules().most_places)


class HomePlace(BaseModel):
    """One place of a plan: the side, the level (1 to 5), the seconds on one side with their dose, and what the person
    is told: where it is in a line, the way on their own body (`measure`, once it was located), how to press, how hard,
    with what, and why.
    """

    id: str
    name: str
    side: str
    where: str
    measure: str = ""
    level: int
    seconds: int
    dose: Dose
    dose_words: str
    how_hard: str
    press_with: str
    why: str
    rhythm: tuple[Phrase, ...] = ()

    @model_validator(mode="after")
    def _beats(self) -> "HomePlace":
        """A dose without a breath of its own is pressed with the slow breath, so that there is something to follow."""
        per_minute = calm_breath().calm_per_minute
        calm = Breaths(count=max(round(self.seconds * per_minute / 60), 1), per_minute=per_minute)
        self.rhythm = rhythm(calm if self.dose.form == "hold" else self.dose)
        return self


class HomeSet(BaseModel):
    """Places for some days: `days` says which."""

    name: str
    days: str
    times_a_day: int
    points: tuple[HomePlace, ...]


class HomePlan(BaseModel):
    """What somebody presses at home, and what goes with it on paper.

    `sets` take turns day by day; none where nothing may be pressed. `others`: places that could be chosen as well, the
    best first.
    """

    position: HomePosition
    weak_hands: bool
    reaches_feet: bool
    times_a_day: int
    sets: tuple[HomeSet, ...]
    others: tuple[HomePlace, ...]
    not_when: tuple[str, ...]
    see_doctor: tuple[str, ...]

    @property
    def places(self) -> tuple[HomePlace, ...]:
        """Every place once, in the order in which the sets name them."""
        return tuple({point.id: point for own in self.sets for point in own.points}.values())

    def set_on(self, day: date, first_day: date) -> HomeSet | None:
        """The set whose turn it is on a day of a plan that began on `first_day`; none where there is nothing to press.

        Days are counted, not weekdays or dates: sets take turns across the ends of weeks and months.
        """
        return self.sets[(day - first_day).days % len(self.sets)] if self.sets else None


def home_plan(
    complaint_ids: Sequence[str], screening: Screening, wish: HomeWish, knowledge: Knowledge | None = None
) -> HomePlan:
    """The plan for these complaints. Raises: NotAllowed for a position this person must not be in, or a place that is
    refused or out of reach; UnknownId for a place that is none.
    """
    known = knowledge or shipped()
    screening = screening.with_complaints(dict.fromkeys(complaint_ids, "untold") | screening.complaints)
    out = positions_out(screening)
    if wish.position in out:
        raise NotAllowed(out[wish.position], where="position")
    wish = _settled(wish, complaint_ids, screening)
    # Where no session is allowed, nothing is pressed at home either.
    stopped = verdict(screening).decision != "ok"
    found = [] if stopped else _reachable(complaint_ids, screening, wish, known)
    ranked = [_home_place(*one, wish, screening, known) for one in found]
    asked_for = wish.places and not stopped
    chosen = _chosen(wish, ranked, complaint_ids, screening, known) if asked_for else ranked[: rules().most_places]
    taken = {choice.id for choice in chosen}
    kinds = [known.complaint(id) for id in complaint_ids]
    return HomePlan(
        position=wish.position,
        weak_hands=bool(wish.weak_hands),
        reaches_feet=bool(wish.reaches_feet),
        times_a_day=wish.times_a_day,
        sets=_in_turn(chosen, wish.times_a_day),
        others=tuple(one for one in ranked if one.id not in taken),
        not_when=not_when([known.find(choice.id) for choice in chosen], screening),
        see_doctor=see_doctor(kinds, screening),
    )


def still_allowed(plan: HomePlan, screening: Screening, knowledge: Knowledge | None = None) -> HomePlan:
    """A plan that was given, as it may be pressed now: what is known of a person has changed since, and what is refused
    by now is left out, with levels and times as they are now.
    """
    known = knowledge or shipped()
    if verdict(screening).decision != "ok" or plan.position in positions_out(screening):
        return plan.model_copy(update={"sets": ()})
    wish = HomeWish(
        position=plan.position,
        weak_hands=plan.weak_hands,
        reaches_feet=plan.reaches_feet,
        times_a_day=plan.times_a_day,
    )

    def now(own: HomeSet) -> HomeSet:
        found = [
            (point.why, target)
            for point in own.points
            if (target := _found(point.id, known)) and _may(target, screening)
        ]
        points = [_home_place(target, why, wish, screening, known) for why, target in found]
        return own.model_copy(update={"points": tuple(points)})

    sets = [now(own) for own in plan.sets]
    return plan.model_copy(update={"sets": tuple(own for own in sets if own.points)})


def _found(id: str, knowledge: Knowledge) -> Entry | None:
    """A place that is still there: a practice may have taken its own one away."""
    try:
        return knowledge.find(id)
    except UnknownId:
        return None


def home_sets(complaint_ids: Sequence[str], screening: Screening, knowledge: Knowledge | None = None) -> list[HomeSet]:
    """The sets of the plan of somebody who presses sitting: one for every day, or two in turn where there are places
    enough for both."""
    return list(home_plan(complaint_ids, screening, HomeWish(position=_seat(screening)), knowledge).sets)


def _seat(screening: Screening) -> HomePosition:
    """The easiest position that this person may be in."""
    out = positions_out(screening)
    every: tuple[HomePosition, ...] = ("seated", "left_side", "right_side", "supine")
    return next((one for one in every if one not in out), "seated")


def _settled(wish: HomeWish, complaint_ids: Sequence[str], screening: Screening) -> HomeWish:
    """The wish with what it leaves open worked out."""
    weeks = screening.answer("pregnancy_weeks")
    heavy = isinstance(weeks, int) and weeks >= rules().heavy_from_week
    weak = any(id in rules().weak_hands for id in complaint_ids)
    return wish.model_copy(
        update={
            "weak_hands": weak if wish.weak_hands is None else wish.weak_hands,
            "reaches_feet": not heavy if wish.reaches_feet is None else wish.reaches_feet,
        }
    )


def _in_turn(places: Sequence[HomePlace], times_a_day: int) -> tuple[HomeSet, ...]:
    """One set for every day, or two in turn: the place that matters most is pressed every day, the rest take turns."""
    if not places:
        return ()
    if len(places) < rules().two_sets_from:
        return (HomeSet(name="A", days=EVERY_DAY, times_a_day=times_a_day, points=tuple(places)),)
    first, *rest = places
    return (
        HomeSet(name="A", days=FIRST_DAYS, times_a_day=times_a_day, points=(first, *rest[::2])),
        HomeSet(name="B", days=OTHER_DAYS, times_a_day=times_a_day, points=(first, *rest[1::2])),
    )


def _chosen(
    wish: HomeWish, ranked: Sequence[HomePlace], complaint_ids: Sequence[str], screening: Screening, known: Knowledge
) -> list[HomePlace]:
    """The places that were asked for, checked one by one."""
    found = {one.id: one for one in ranked}
    chosen = []
    for id in dict.fromkeys(wish.places):
        if id not in found:
            target = known.find(id)  # raises for what is none
            if not (_may(target, screening) and _in_reach(target, wish)):
                raise NotAllowed(message("plan-not-allowed-or-out-persons", english=target.names.english), where=id)
            names = " and ".join(known.name_of(one) for one in complaint_ids)
            chosen.append(_home_place(target, f"Chosen for {names}." if names else "Chosen.", wish, screening, known))
        else:
            chosen.append(found[id])
    return chosen


def _reachable(
    complaint_ids: Sequence[str], screening: Screening, wish: HomeWish, knowledge: Knowledge
) -> list[tuple[Entry, str]]:
    """What the complaints give home, then what else they use, as far as one reaches it alone and may press it."""
    worth: dict[str, tuple[float, str]] = {}
    for id in complaint_ids:
        kind = knowledge.complaint(id)
        if kind.home_emptied:
            continue
        uses = {use.id: use for use in kind.uses if use.ground in ("points", "ear", "reflexes")}
        for place, home_id in enumerate(kind.home):
            target = knowledge.find(home_id)
            why = (
                why_of(uses[home_id], target, kind.id)
                if home_id in uses
                else f"for home, {region_words(target.region)}"
            )
            known = worth.get(home_id, (0.0, f"{kind.name}: {why}."))
            worth[home_id] = (known[0] + 10 - place, known[1])
        for use in uses.values():
            if use.ground == "points":
                known = worth.get(use.id, (0.0, f"{kind.name}: {why_of(use, knowledge.find(use.id), kind.id)}."))
                worth[use.id] = (known[0] + use.weight / 10, known[1])
    ranked = sorted(worth.items(), key=lambda row: (-row[1][0], row[0]))
    found = [(knowledge.find(id), why) for id, (_, why) in ranked]
    return [(target, why) for target, why in found if _may(target, screening) and _in_reach(target, wish)]


def _may(target: Entry, screening: Screening) -> bool:
    """Whether a place may be pressed at home at all: on a side that is not refused, and not one where the sides must be
    kept apart, which nobody would see to."""
    side = _side(target, screening)
    if side is None or not target.reach.alone or target.region in rules().out_of_reach:
        return False
    return not limits_for(target, side, screening).one_side


def _side(target: Entry, screening: Screening) -> StopSide | None:
    """Both sides, the one that is left where the other is refused, or None."""
    if target.whole != "both":
        return None if limits_for(target, target.whole, screening).refused else target.whole
    left = [side for side in target.sides if not limits_for(target, side, screening).refused]
    return None if not left else "both" if len(left) == len(target.sides) else left[0]


def _in_reach(target: Entry, wish: HomeWish) -> bool:
    """Whether the person's own hand gets there: lying, one does not bend to the lower legs; some never do."""
    if part_of(target) in rules().bent_for and (wish.position != "seated" or not wish.reaches_feet):
        return False
    return wish.position in target.reach.positions


def _home_place(target: Entry, why: str, wish: HomeWish, screening: Screening, knowledge: Knowledge) -> HomePlace:
    school = knowledge.school("self_care")
    side = _side(target, screening) or target.whole
    limits = under_school(limits_for(target, side, screening), school)
    default = school.dose_for(target, "main", knowledge.doses)
    usual = default.model_copy(update={"level": min(rules().most_level, default.level)})
    here = adapted(usual, side, limits)
    dose = here.no_longer_than(limits.longest_s)
    return HomePlace(
        id=target.id,
        name=target.names.english,
        side=side,
        where=target.where if target.kind == "area" else target.methods[0].name,
        level=here.level,
        seconds=round(duration_s(dose)),
        dose=dose,
        dose_words=said_at_home(dose),
        how_hard=HOW_HARD[here.level],
        press_with=press_with(target, bool(wish.weak_hands), limits.no_stick),
        why=why,
    )
