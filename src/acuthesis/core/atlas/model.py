"""What the atlas holds: points placed by rules, areas drawn on a surface; one entry drives place, words and drawing."""

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from acuthesis.core.body.construct import Directions, FingerSpan, Place
from acuthesis.core.body.figure import Side

Tissue = Literal["muscle", "tendon", "bony", "face", "orbit", "vessel_or_nerve", "abdomen", "ear", "sole", "foot_edge"]
Contact = Literal["thumb", "finger", "stacked_fingers", "knuckle", "palm", "stick"]
Category = Literal[
    "well",
    "spring",
    "stream",
    "river",
    "sea",
    "source",
    "network",
    "cleft",
    "alarm",
    "back",
    "meeting",
    "opening",
    "lower_sea",
]
Position = Literal["supine", "prone", "left_side", "right_side", "seated"]


class _Entry(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True)


class _Placed(_Entry):
    """What points and areas share: on which sides of the body they are."""

    paired: bool = True
    only: Side | None = None  # an area that one side alone has (the liver's, the spleen's)
    source: str = ""  # id of its class of knowledge in sources.yaml; filled in by channel or map

    @property
    def sides(self) -> tuple[Side, ...]:
        """The sides it is located on; what lies on the middle line is located on the left."""
        if self.only is not None:
            return (self.only,)
        return ("left", "right") if self.paired else ("left",)

    @property
    def whole(self) -> Literal["left", "right", "both", "midline"]:
        """The side of a stop that works all of it."""
        if self.only is not None:
            return self.only
        return "both" if self.paired else "midline"


class Source(_Entry):
    """A class of knowledge that entries rest on: in a few words, and how sure one may be of it."""

    id: str
    words: str
    sure: str


class Names(_Entry):
    """Names of a point or area: romanised (with tone marks), characters, and an English rendering of our own."""

    romanised: str = ""
    characters: str = ""
    english: str


class Method(_Entry):
    """One way to the place, in order of trust: what it is called, and the rule."""

    name: str
    place: Place


class Press(_Entry):
    """Direction of pressure from the skin, what presses, and what supports from the other side.

    `toward` mixes directions of the part with `inward`, which is square to the skin at the place, into the body.
    `slanted` says why, where it is more than 50 degrees away from that.
    """

    toward: Directions
    part: str = Field(alias="in")
    words: str
    contact: Contact = "thumb"
    support: str = ""
    slanted: str = ""


class Reach(_Entry):
    """In which positions a practitioner reaches the place, and whether a person alone does (and with one hand)."""

    positions: tuple[Position, ...]
    alone: bool
    one_hand: bool = True


class Site(_Entry):
    """What holds for a stretch of the body: defaults for the points and areas that lie on it (see sites.yaml)."""

    id: str
    region: str
    part: str
    press: Press
    tissue: Tissue
    search_radius_cm: float = Field(1.0, gt=0, le=4)
    dangers: tuple[str, ...] = ()
    reach: Reach


class Point(_Placed):
    """A point of the atlas.

    In the data files it names a `site`, which fills in what the point does not say itself; here all is filled in.
    """

    kind: Literal["point"] = "point"
    id: str
    names: Names
    channel: str
    site: str = ""
    region: str
    part: str
    methods: tuple[Method, ...] = Field(min_length=1)
    finger_checks: dict[FingerSpan, float] = Field(default_factory=dict)
    feel: str
    search_radius_cm: float = Field(1.0, gt=0, le=4)
    press: Press
    tissue: Tissue
    dangers: tuple[str, ...] = ()
    reach: Reach
    categories: tuple[Category, ...] = ()
    traditional: tuple[str, ...] = ()
    also_called: tuple[str, ...] = ()


class Surface(_Entry):
    """A chart on the body for areas: `u` runs from one place to another, `v` across, seen along `look`.

    With `straight` the chart runs in that direction of the part (a foot's edge: level with the floor).

    With `fit: outline` the width at each u is the body's own outline there (a sole narrows at the arch); with
    `fit: box` it is the distance between the two `across` places.
    """

    id: str
    name: str
    part: str
    along: tuple[Place, Place]
    across: tuple[Place, Place]
    look: Directions
    straight: str | None = None
    fit: Literal["outline", "box"]
    behind_cm: float = 2.2  # skin farther than this behind the chart's plane is another part of the body


class Area(_Placed):
    """An area of ear, foot or hand: a polygon in the chart of its surface, (u, v) each from 0 to 1."""

    kind: Literal["area"] = "area"
    id: str
    names: Names
    surface: str
    map: str
    site: str = ""
    region: str
    polygon: tuple[tuple[float, float], ...] = Field(min_length=3)
    where: str
    feel: str
    answers: str | None = None  # the area of the first map that this one of the second map stands for
    contact: Contact = "thumb"
    tissue: Tissue
    reach: Reach
    traditional: tuple[str, ...] = ()
    also_called: tuple[str, ...] = ()
