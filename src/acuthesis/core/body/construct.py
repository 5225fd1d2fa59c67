"""The language of places: landmarks built from joints and skin, points built from landmarks.

A place in YAML is either a reference (`medial_malleolus_tip`, `joint.knee`, `other.mastoid_tip`) or one form:

    {vertex: 4121}                                       a sculpted feature of the base mesh (left side's number)
    {between: [a, b], at: 0.5}                           part of the way from one place to another
    {level: a, over: [p, q], in: lower_leg}                 where the way from p to q meets the level of a
    {move: a, by: {proximal: 0.1}, of: [p, q], in: foot} away from a place, as a share of the distance p–q
    {move: a, by: {inferior: 1}, of: [p, q, r], in: trunk}  the same, as a share of the way p–q–r, laid straight
    {move: a, by: {lateral: 2}, cun: upper_abdomen, in: trunk}   the same, in cun of a segment
    {move: a, by: {lateral: 1}, width: two_fingers, in: trunk}   the same, in widths of the person's own hand
    {skin: a, toward: {medial: 1}, in: lower_leg}        from inside the body straight out onto the skin
    {skin: a, through: b}                                the same, in the direction of a second place
    {drop: {between: [a, b]}}                            the place of the skin that is nearest to a place
    {line: shin_inner, segment: lower_leg_inner, from: medial_malleolus_tip, cun: 3}
                                                         at a level of a segment, on a named line (`span: [thumb_width]`
                                                         instead of `cun:` counts in the person's own fingers)
    {arc: head_midline, cun: 5}                          along the skin, from a segment's first end
    {beside: t5_spinous_process, cun: 1.5, of: scapular_width, face: back}
                                                         straight across from the midline, then onto that face
    {around: joint.head, from: glabella, cun: 1.5, of: head_midline}
                                                         from the midline outward along the skin, round a core

Cun beside the midline may be own finger widths instead (`span`), as on a line. A rule of the atlas may name another
point (`CV12`) for its place; see `acuthesis.core.atlas.entries.catalogue`.
"""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Discriminator, Field, Tag, model_validator

FingerSpan = Literal["thumb_width", "two_fingers", "three_fingers", "four_fingers"]
Directions = dict[str, float]


class _Form(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True)


class Vertex(_Form):
    """A feature that the base mesh sculpts, by its vertex number on the left (or the midline)."""

    vertex: int


class Between(_Form):
    """A share `at` of the straight way between two places."""

    between: tuple["Place", "Place"]
    at: float = Field(0.5, ge=-1, le=2)


class Level(_Form):
    """Where the straight way through two places meets the level of a third, square to the long axis of a body part."""

    level: "Place"
    over: tuple["Place", "Place"]
    part: str = Field(alias="in")


class Move(_Form):
    """Away from a place by named directions, in shares of a distance, in cun, or in own finger widths.

    `of` names the ends of the distance, or a chain of places: a bent arm or finger, laid straight.
    """

    move: "Place"
    by: Directions
    of: Annotated[tuple["Place", ...], Field(min_length=2)] | None = None
    cun: str | None = None
    width: FingerSpan | None = None
    part: str = Field(alias="in")

    @model_validator(mode="after")
    def _one_unit(self) -> "Move":
        if sum(unit is not None for unit in (self.of, self.cun, self.width)) != 1:
            raise ValueError("a move needs exactly one unit: 'of', 'cun' or 'width'")
        return self


class Skin(_Form):
    """Out of the body onto the skin."""

    skin: "Place"
    toward: Directions | None = None
    through: "Place | None" = None
    part: str = Field("trunk", alias="in")
    outside: bool = False  # come from outside instead: where the head has hollows (eye sockets, mouth) within

    @model_validator(mode="after")
    def _one_way(self) -> "Skin":
        if (self.toward is None) == (self.through is None):
            raise ValueError("a place on the skin needs 'toward' or 'through', and not both")
        return self


class Drop(_Form):
    """The place of the skin that is nearest to a place: what lies a little in or out comes to lie on it."""

    drop: "Place"


class OnLine(_Form):
    """At a level of a segment, where a named line crosses it."""

    line: str
    segment: str
    start: str = Field(alias="from")
    cun: float | None = None
    span: tuple[FingerSpan, ...] | None = None

    @model_validator(mode="after")
    def _one_amount(self) -> "OnLine":
        if (self.cun is None) == (self.span is None):
            raise ValueError("a level needs 'cun' or 'span', and not both")
        return self


class OnArc(_Form):
    """Along the skin from the first end of a segment that is measured with a tape."""

    arc: str
    cun: float


class _Counted(_Form):
    """What the sideways forms share: an amount in cun of a segment `of`, or in the person's own fingers."""

    of: str
    cun: float | None = None
    span: tuple[FingerSpan, ...] | None = None

    @model_validator(mode="after")
    def _one_amount(self) -> "_Counted":
        if (self.cun is None) == (self.span is None):
            raise ValueError("a distance beside the midline needs 'cun' or 'span', and not both")
        return self


class Beside(_Counted):
    """Straight across from a place on the midline, then onto the front or the back of the body."""

    beside: "Place"
    face: Literal["front", "back"]


class Around(_Counted):
    """From a place on the midline outward along the skin, in the plane through it and a core inside the body."""

    around: "Place"
    start: "Place" = Field(alias="from")


FORMS: dict[type[BaseModel], str] = {
    Vertex: "vertex",
    Between: "between",
    Level: "level",
    Move: "move",
    Skin: "skin",
    Drop: "drop",
    OnLine: "line",
    OnArc: "arc",
    Beside: "beside",
    Around: "around",
}


def _kind(value: Any) -> str:
    if isinstance(value, str):
        return "reference"
    if isinstance(value, BaseModel):
        return FORMS[type(value)]
    if not isinstance(value, dict):
        return "reference"
    return next((key for key in FORMS.values() if key in value), "reference")


Place = Annotated[
    Annotated[str, Tag("reference")]
    | Annotated[Vertex, Tag("vertex")]
    | Annotated[Between, Tag("between")]
    | Annotated[Level, Tag("level")]
    | Annotated[Move, Tag("move")]
    | Annotated[Skin, Tag("skin")]
    | Annotated[Drop, Tag("drop")]
    | Annotated[OnLine, Tag("line")]
    | Annotated[OnArc, Tag("arc")]
    | Annotated[Beside, Tag("beside")]
    | Annotated[Around, Tag("around")],
    Discriminator(_kind),
]


class Landmark(_Form):
    """A bone, crease or feature that the hand can find.

    `place` builds it, `name` says it in plain words, `how` tells the hand how to get there in one sentence,
    `part` is the body part whose directions apply.
    """

    id: str
    name: str
    how: str
    part: str
    paired: bool = True
    place: Place


class Segment(_Form):
    """A stretch of the body that the tradition divides into a fixed number of equal parts (cun).

    `along` is `axis` (straight, between the two landmarks) or `skin` (a tape over the midline of the head, whose arc
    is swept around `hub`). `limb` names the two joints whose line the levels are square to; without it they are square
    to the straight way between the ends. `measure` names the person's measure that replaces the fitted length.
    """

    id: str
    name: str
    start: str = Field(alias="from")
    end: str = Field(alias="to")
    cun: float = Field(gt=0)
    along: Literal["axis", "skin"] = "axis"
    limb: tuple[Place, Place] | None = None
    hub: Place | None = None
    measure: str | None = None
    how: str = ""


class Line(_Form):
    """A line on the skin: the chord between two places, pushed outward from a core inside the body."""

    id: str
    name: str
    start: Place = Field(alias="from")
    end: Place = Field(alias="to")
    core: tuple[Place, Place]


for _model in (Between, Level, Move, Skin, Beside, Around, Landmark, Segment, Line):
    _model.model_rebuild()
