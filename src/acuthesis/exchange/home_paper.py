"""The home plan on paper: one page, black and white, at the usual size or in large print."""

from collections.abc import Mapping
from dataclasses import dataclass, fields
from datetime import date, timedelta

from acuthesis.core.atlas.locating.locate import Located
from acuthesis.core.compose.home.plan import HomePlan
from acuthesis.exchange.drawn import DrawnPlace, named
from acuthesis.exchange.render import render

# The largest first; the first that fits on one page is taken.
USUAL, LARGE = ("", "small", "tiny", "tiny least"), ("large", "large small", "large tiny")
DAYS_SHOWN = 14
POSITIONS = {
    "seated": "Sit comfortably, with your back supported",
    "supine": "Lie on your back",
    "left_side": "Lie on your left side",
    "right_side": "Lie on your right side",
}
TIMES = {1: "Once a day", 2: "Twice a day"}


@dataclass(frozen=True)
class HomePaper:
    """What the sheet tells. `first_day`: from when sets take turns; `emergency`: whom to call, in the practice's words;
    `back_on`: the day of the next visit, if one is booked.
    """

    person: str
    practice: str
    on: date
    first_day: date
    plan: HomePlan
    hours: list[str]
    emergency: str
    back_on: date | None


def home_pdf(paper: HomePaper, drawn: Mapping[str, DrawnPlace], large: bool = False) -> bytes:
    """The sheet with a drawing of each place; a plan without places says that nothing is pressed for now."""
    plan = paper.plan
    places = [
        (place, drawn[place.id].located, _finding(drawn[place.id].located), _sets_of(plan, place.id))
        for place in plan.places
    ]
    start = max(paper.on, paper.first_day)
    return render(
        "home.html",
        sizes=LARGE if large else USUAL,
        most_pages=2 if large else 1,  # whoever needs large print is not helped by small print on one page
        drawings=named(drawn[place.id].svg for place in plan.places),
        **{field.name: getattr(paper, field.name) for field in fields(paper)},
        large=large,
        places=places,
        days=[(day, plan.set_on(day, paper.first_day)) for day in (start + timedelta(n) for n in range(DAYS_SHOWN))],
        position=POSITIONS[plan.position],
        times=TIMES.get(plan.times_a_day, f"{plan.times_a_day} times a day"),
    )


def _finding(located: Located) -> list[str]:
    """The steps in which a landmark is found. Those that count in cun are left out: somebody at home has a ruler and
    their own fingers."""
    return [step for step, mark in zip(located.steps, located.step_landmarks, strict=True) if mark is not None]


def _sets_of(plan: HomePlan, id: str) -> str:
    """In which sets a place is, in words; nothing where there is only one."""
    names = [own.name for own in plan.sets if any(point.id == id for point in own.points)]
    if len(plan.sets) < 2:
        return ""
    return "every day" if len(names) == len(plan.sets) else f"set {names[0]}"
