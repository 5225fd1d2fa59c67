"""The people of the demo world (world.yaml). Histories are generated from them by histories.py."""

from datetime import time
from pathlib import Path
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict

from acuthesis.core.body.catalogue import read_yaml
from acuthesis.core.compose.home.plan import HomeWish
from acuthesis.core.compose.knowledge.school import DEFAULT_SCHOOL

PRACTICE = "The prop van"
TIME_ZONE = "Europe/London"
QUICK_WORDS = ("Warmer than last time", "Asked for lighter", "Talked", "Slept for a while")
LOCAL_RULES = "Touring practice: keep each venue's emergency number on the mirror, and the nearest hospital on the map."
EMERGENCY = "Emergency services: 999. The first-aider of the venue, through the stage door."
# Puppet theatres play in the evening: the van is open from late morning on, Mondays to Saturdays.
HOURS = {day: (time(8), time(19)) for day in range(6)}
PLACES = (
    ("The prop van", "at the loading dock of the venue"),
    ("Green room", "on the stage floor of the venue"),
)
LETTER_DAYS_AGO = 15
PRACTITIONER = "Ode Marrable"
EMAIL = "ode@lanternwick.example"
PASSWORD = "paper-moon"
HANDS = {"thumb_width": 2.3, "two_fingers": 3.6, "three_fingers": 5.4, "four_fingers": 7.4}


class DemoComplaint(BaseModel):
    """A complaint and its course: rating at the first visit and now, what it hinders, weeks since it began.

    `eases`: points that a session eases, of which half is gone after `half_life_days`; `home`: ratings from home
    between two sessions; `baseline`: ratings from home before the first.
    """

    model_config = ConfigDict(extra="forbid")

    kind: str
    side: Literal["left", "right", "both"]
    act: str
    weeks: int
    first: int
    now: int
    takes_days: float = 18
    eases: float = 1.5
    half_life_days: float = 1.0
    home: int = 1
    baseline: int = 1
    scatter: float = 0.6


class Happened(BaseModel):
    """Something that happened, so many days after the first session; `other_care`: another treatment."""

    model_config = ConfigDict(extra="forbid")

    days: int
    words: str
    other_care: bool = False


class EpisodeLog(BaseModel):
    """Episodes a week before the first session, from so many days before it on, and since."""

    model_config = ConfigDict(extra="forbid")

    log_days_before: int
    per_week_before: float
    per_week_since: float


class Player(BaseModel):
    """One person of the company. `today` is how far today's visit has come (see histories.py)."""

    model_config = ConfigDict(extra="forbid")

    given: str
    family: str
    age: int
    sex: str
    story: str
    height_cm: float | None
    weight_kg: float | None
    sessions: int
    every_days: int
    minutes: int
    today: Literal["new", "arrived", "composed", "done"]
    at: tuple[int, int]
    screening: dict[str, Any] | None
    complaints: list[DemoComplaint]
    measures: dict[str, float] = {}
    fingers: dict[str, float] = {}
    sore: dict[str, int] = {}
    school: str = DEFAULT_SCHOOL
    screened_days_ago: int = 20
    missed: tuple[int, ...] = ()  # before which of the earlier visits one was missed
    next_in_days: tuple[int, ...] = ()  # the visits to come of a series
    next_unbooked: bool = False
    purpose: str = ""
    episodes: EpisodeLog | None = None  # of the first complaint
    events: list[Happened] = []
    medicine: str = ""
    nights: tuple[float, float] | None = None  # hours slept at first and now
    home_minutes: float | None = None  # pressed at home on a day
    home_places: list[str] = []
    home: HomeWish | None = None  # the plan they were given after the first session
    diary: bool = False  # they keep one on their phone
    letters: bool = False  # they agreed to letters
    letter: str = ""  # about what their doctor was written to, without an answer yet


PLAYERS = tuple(read_yaml(Path(__file__).parent / "world.yaml", Player))
