"""The full analysis of one complaint's ratings beyond the outcome, in one value, for charts and texts."""

from pydantic import BaseModel

from acuthesis.core.follow.carry_over import CarryOver, carry_over
from acuthesis.core.follow.course import BandPoint, Course
from acuthesis.core.follow.needed import Needed, needed
from acuthesis.core.follow.outcome import Outcome
from acuthesis.core.follow.overlap import Overlap, overlap
from acuthesis.core.follow.ratings import Series, phases
from acuthesis.core.follow.trend import Trend, trend
from acuthesis.core.follow.turning import TurningPoint, turning_point

BAND_POINTS = 60  # along the course; more cannot be told apart on a screen
FEWEST_FOR_A_BAND = 3  # ratings
OPEN = ("too_early", "cannot_tell")  # outcomes for which more ratings are asked


class Analysis(BaseModel):
    """The level with its band, how far the phases lie apart, the trend, a turning point, what sessions ease and how
    long
    that lasts, and how many ratings are missing. None of a thing where it cannot be told."""

    band: list[BandPoint]
    overlap: Overlap | None
    trend: Trend | None
    turn: TurningPoint | None
    carry_over: CarryOver
    needed: Needed | None


def get_ready() -> None:
    """Bring in the libraries that are large, so that the first course does not wait for them."""
    import statsmodels.stats.power
    import statsmodels.tsa.statespace.kalman_smoother  # noqa: F401


def analyse(series: Series, outcome: Outcome) -> Analysis:
    """Work everything out. A second of computing for a long course: it is kept, and not done for lists."""
    course, parts = series.course, phases(series)
    return Analysis(
        band=_band(series),
        overlap=overlap(parts),
        trend=trend(course),
        turn=turning_point(course),
        carry_over=carry_over(series),
        needed=needed(outcome.scatter, len(parts.baseline), len(parts.now))
        if outcome.scatter is not None and outcome.trend in OPEN
        else None,
    )


def _band(series: Series) -> list[BandPoint]:
    course = series.course
    if len(course) < FEWEST_FOR_A_BAND:
        return []
    first, last = course[0].day, course[-1].day
    even = {first + (last - first) * n / BAND_POINTS for n in range(BAND_POINTS + 1)}
    days = sorted({rating.day for rating in course} | even)
    return [
        BandPoint(day=round(point.day, 3), level=point.level.rounded(2))
        for point in Course(course, series.held[0].day if series.held else None).level_on(days)
    ]
