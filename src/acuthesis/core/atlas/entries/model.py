"""Entries of the atlas: points placed by rules, areas drawn on a surface. One entry gives place, words and drawing."""

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from acuthesis.core.body.construct import Directions, FingerSpan, Place
from acuthesis.core.body.figure import Side
from acuthesis.core.body.flat import Laid

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
Position = Literal["supine", "half_reclined", "prone", "left_side", "right_side", "seated", "leaning"]


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


class Alternative(_Entry):
    """Another place that some teach for the same point: in a few words where, and who teaches it."""

    id: str
    name: str
    school: str
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


class Reachability(_Entry):
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
    reach: Reachability


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
    alternatives: tuple[Alternative, ...] = ()
    finger_checks: dict[FingerSpan, float] = Field(default_factory=dict)
    feel: str
    search_radius_cm: float = Field(1.0, gt=0, le=4)
    press: Press
    tissue: Tissue
    dangers: tuple[str, ...] = ()
    reach: Reachability
    categories: tuple[Category, ...] = ()
    traditional: tuple[str, ...] = ()
    also_called: tuple[str, ...] = ()


class Surface(_Entry):
    """A surface that carries areas, and how it is laid flat."""

    id: str
    name: str
    part: str
    laid: Laid


class TaughtLevel(_Entry):
    """A taught level across a surface: the places of its zones' borders, or two ends with `shares` between them.

    With `edge` its first end, its last or both go on to where the surface ends. A single place stands for a level that
    crosses the grid's `across`.
    """

    name: str
    at: tuple[Place, ...] = Field(min_length=1)
    shares: tuple[float, ...] = ()
    edge: Literal["first", "last", "both"] | None = None


class Grid(_Entry):
    """Coordinates on a surface: `columns` are feature lines from level 0 to 1; `rows` are taught levels from 0 on.

    With `across` zones are bounded by upright lines through these places, and levels are square to them.

    Zones count across from 0. With `mirrored` the first zone begins on the middle line, and zones below 0 lie on the
    other side. It `begins` so far along its surface: toes where the sole ends. Corners are `rounded` by so many cm.
    """

    id: str
    surface: str
    name: str = ""
    columns: tuple[str, ...] = ()
    rows: tuple[TaughtLevel, ...] = ()
    across: tuple[Place, ...] = ()
    zones: int | None = None
    mirrored: bool = False
    begins: float = 0.0
    rounded: float = 0.0

    @model_validator(mode="after")
    def _one_kind(self) -> "Grid":
        if (len(self.columns) < 2) == (len(self.rows) < 2):
            raise ValueError("a grid needs two columns or more, or two rows or more")
        return self

    @property
    def units(self) -> tuple[int, int]:
        """How many levels and zones it has."""
        if self.columns:
            return 1, len(self.columns) - 1
        borders = len(self.across) or max(len(row.shares or row.at) for row in self.rows)
        return len(self.rows) - 1, self.zones or borders - 1


class Area(_Placed):
    """An area of ear, foot, hand, face or scalp. Its shape is one of four.

    `polygon`: corners in its `grid`, (level, zone) each from 0 to 1 of the grid's own extent. `around`: nodes on
    feature lines, joined along them. `at`: a small round place of `across_cm` at a node, laid `over` other areas.
    `line`: a strip of `across_cm` from one place to another. `crosses`: areas that it runs over on its way.
    `crossed`: it answers the other side of the body.
    """

    kind: Literal["area"] = "area"
    id: str
    code: str = ""  # of the open standard, where it has one
    names: Names
    surface: str
    map: str
    site: str = ""
    region: str
    grid: str = ""
    polygon: tuple[tuple[float, float], ...] = ()
    around: tuple[str | int, ...] = ()
    at: str = ""
    line: tuple[Place, Place] | None = None
    across_cm: float = Field(0.0, ge=0, le=4)
    crossed: bool = False
    over: tuple[str, ...] = ()
    crosses: tuple[str, ...] = ()
    where: str
    feel: str
    answers: str | None = None  # the area of the first map that this one of the second map stands for
    contact: Contact = "thumb"
    tissue: Tissue
    reach: Reachability
    traditional: tuple[str, ...] = ()
    also_called: tuple[str, ...] = ()

    def __hash__(self) -> int:
        return hash((self.map, self.id))  # places hold directions by name, which cannot be hashed

    @model_validator(mode="after")
    def _one_shape(self) -> "Area":
        wide = self.across_cm > 0
        shapes = (len(self.polygon) >= 3, len(self.around) >= 3, bool(self.at) and wide, self.line is not None and wide)
        if sum(shapes) != 1:
            raise ValueError(
                "an area needs a polygon of three corners, three nodes around it, or a middle or a line and a width"
            )
        return self
