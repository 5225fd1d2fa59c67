"""Matches a rule against a target: by name, by what it moves, and by where it lies on this person's body."""

from collections.abc import Iterator
from typing import Literal

from pydantic import BaseModel, ConfigDict

from acuthesis.core.atlas.entries.model import Tissue
from acuthesis.core.body.figure import Side
from acuthesis.core.safety.body_parts import joints, quarters
from acuthesis.core.safety.rule import Rule
from acuthesis.core.safety.screening import Screening

WHOLE = ("both", "midline", "untold")  # of a complaint: both sides, its middle, or no side that was told
StopSide = Literal["left", "right", "both", "midline"]


def sides_of(side: StopSide) -> tuple[Side, ...]:
    """The sides a stop is worked on; the midline is drawn as left.

    >>> sides_of("both"), sides_of("left")
    (('left', 'right'), ('left',))
    """
    return ("left", "right") if side == "both" else ("right",) if side == "right" else ("left",)


def named(screening: Screening, rule: Rule) -> Iterator[tuple[str, str]]:
    """The places that the answers behind a rule name, as (site or part, side); the side is empty where both are meant.

    Painted places are not among them: these a body tells (see `reach`).
    """
    for question in rule.when.questions if rule.when is not None else ():
        for place in screening.places(question):
            if isinstance(place, str):
                name, _, on = place.partition(".")
                yield name, on


class Target(BaseModel):
    """What a rule is held against: an id with what lies under it, the sites and parts it lies on, its side, what kind
    of stop it is, the joints that it moves, and how.
    """

    model_config = ConfigDict(frozen=True)

    id: str
    tissue: Tissue
    places: tuple[str, ...]
    side: StopSide
    kind: str = "point"
    joints: tuple[str, ...] = ()
    motions: tuple[str, ...] = ()  # what it does with each of them

    @property
    def sides(self) -> tuple[Side, ...]:
        """The sides it is worked on. A point on the midline is drawn as left; what moves or strokes it is on both."""
        if self.side == "midline" and self.kind not in ("point", "area"):
            return ("left", "right")
        return sides_of(self.side)


def _meets(name: str, on: str, target: Target) -> bool:
    return name in target.places and (on == "" or target.side in ("both", "midline", on))


def touches(rule: Rule, target: Target, screening: Screening) -> bool:
    """Whether a rule speaks of a target: by its id, what it lies on, what it moves, or what a body says of it."""
    about = rule.touches
    if about.kinds and target.kind not in about.kinds:
        return False
    if about.side == "same" and rule.when is not None and not _on_answered_side(rule, target, screening):
        return False
    return (
        about.everything
        or target.id in about.ids
        or target.id in about.techniques
        or target.tissue in about.tissues
        or any(place in about.sites or place in about.parts for place in target.places)
        or any(place in quarters()[quarter] for quarter in about.quarters for place in target.places)
        or bool(set(about.joints) & set(target.joints))
        or bool(set(about.motions) & set(target.motions))
        or (about.answered and _answered(rule, target, screening))
        or distance_cm(rule, target, screening) is not None
    )


def _on_answered_side(rule: Rule, target: Target, screening: Screening) -> bool:
    if target.side == "midline" and target.kind in ("point", "area"):
        return rule.touches.everything
    if len(target.sides) == 2:
        return True
    said = [screening.answer(question) for question in rule.when.questions] if rule.when is not None else []
    reach = (screening.reaches or {}).get(rule.id)
    sides = {on for _, on in named(screening, rule)} | (reach.sides if reach else set())
    if rule.when is not None:
        said += [screening.complaints.get(id) for id in rule.when.complaints]
    return bool(sides & {"", target.side}) or any(answer in (*WHOLE, target.side, True) for answer in said)


def _answered(rule: Rule, target: Target, screening: Screening) -> bool:
    """Whether a place that was named is where the target lies, or near a joint that it moves."""
    places = list(named(screening, rule))
    if any(_meets(name, on, target) for name, on in places):
        return True
    moved = [joints()[joint] for joint in target.joints]
    return any(
        name in (*joint.sites, *joint.parts) and (on == "" or target.side in ("both", "midline", on))
        for joint in moved
        for name, on in places
    )


def distance_cm(rule: Rule, target: Target, screening: Screening) -> float | None:
    """How far over the skin (cm) a target lies from what a rule speaks of on this person's body; None where beyond its
    reach, or where no body was looked at. A technique that works or moves what is within reach lies at 0.
    """
    reach = (screening.reaches or {}).get(rule.id)
    if reach is None:
        return None
    found = [reach.places[f"{target.id}@{side}"] for side in target.sides if f"{target.id}@{side}" in reach.places]
    if found:
        return min(found)
    if target.kind in ("point", "area"):
        return None
    touched = {f"{place}@{side}" for place in target.places for side in target.sides} & reach.sites
    moved = {f"{joint}@{side}" for joint in target.joints for side in target.sides} & reach.joints
    return 0.0 if touched or moved else None
