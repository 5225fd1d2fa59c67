"""The figure of a course, for letters and for saving: ratings, the level with its band, sessions. Black on white."""

import io
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime

from acuthesis.core.follow.course import BandPoint

INCHES = (5.04, 2.3)  # as wide as a letter shows it, so that its type keeps its size
LEAST_DAYS = 2.0
MARKS = {
    "before": ("o", "black", "before a session"),
    "after": ("o", "white", "after a session"),
    "home": ("^", "0.55", "from home"),
}
EPOCH_DAYS = 719_163  # the core counts days from the year 1, drawing from 1970


@dataclass(frozen=True)
class PlottedRating:
    """A rating in the figure: when by the practice's clock, its value, its moment."""

    at: datetime
    value: int
    moment: str


@dataclass(frozen=True)
class CourseFigure:
    """What is drawn; moments by the practice's clock."""

    name: str
    ratings: Sequence[PlottedRating]
    band: Sequence[BandPoint]
    sessions: Sequence[datetime]
    notes: Sequence[tuple[datetime, str]] = field(default=())


def course_svg(figure: CourseFigure) -> str:
    """The figure as SVG; text stays text, so that it can be read and searched."""
    # matplotlib takes a second to import, which nobody should wait for who draws nothing.
    import matplotlib
    from matplotlib.dates import AutoDateLocator, ConciseDateFormatter
    from matplotlib.figure import Figure

    with matplotlib.rc_context({"svg.fonttype": "none", "svg.hashsalt": figure.name, "font.size": 9}):
        drawn = Figure(figsize=INCHES, layout="constrained")
        axes = drawn.add_subplot()
        days = [point.day - EPOCH_DAYS for point in figure.band]
        axes.fill_between(
            days,
            [point.level.low for point in figure.band],
            [point.level.high for point in figure.band],
            color="0.85",
            linewidth=0,
        )
        axes.plot(
            days,
            [point.level.middle for point in figure.band],
            color="black",
            linewidth=1.4,
            label="level (95% interval)",
        )
        for moment, (marker, fill, label) in MARKS.items():
            own = [rating for rating in figure.ratings if rating.moment == moment]
            if own:
                at, values = [_number(one.at) for one in own], [one.value for one in own]
                axes.scatter(at, values, marker=marker, facecolor=fill, edgecolor="black", s=26, zorder=3, label=label)
        for session in figure.sessions:
            axes.axvline(_number(session), ymax=0.035, color="black", linewidth=1.2)
        for noted_at, words in figure.notes:
            axes.annotate(words, (_number(noted_at), 10.2), fontsize=7.5, rotation=20, annotation_clip=False)
        first, last = axes.get_xlim()
        if last - first < LEAST_DAYS:  # of one day alone the axis would count seconds
            middle = (first + last) / 2
            axes.set_xlim(middle - LEAST_DAYS / 2, middle + LEAST_DAYS / 2)
        axes.set_ylim(-0.3, 10.3)
        axes.set_yticks(range(0, 11, 2))
        axes.set_ylabel(f"{figure.name}, 0 to 10")
        locator = AutoDateLocator(minticks=3, maxticks=8)  # type: ignore[no-untyped-call]
        axes.xaxis.set_major_locator(locator)
        axes.xaxis.set_major_formatter(ConciseDateFormatter(locator))  # type: ignore[no-untyped-call]
        axes.spines[["top", "right"]].set_visible(False)
        drawn.legend(loc="outside lower left", fontsize=7.5, frameon=False, ncols=4)
        told = io.StringIO()
        drawn.savefig(told, format="svg", metadata={"Date": None, "Creator": "Acuthesis"})
    # Drawn with the measures of a typeface that matplotlib ships, and set in that of the papers, which is narrower.
    return told.getvalue().replace("'DejaVu Sans'", "'Atkinson Hyperlegible Next', 'DejaVu Sans'")


def _number(at: datetime) -> float:
    """A moment of the practice's clock as drawing counts it: days since 1970, without a time zone."""
    return at.toordinal() - EPOCH_DAYS + (at.hour * 60 + at.minute) / 1440
