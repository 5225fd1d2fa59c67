"""Standing rules: what a person's answers refuse, limit or note for a point, an area or a position.

A rule can only take away: ceilings are the lowest that applies, a refusal is a refusal whatever else is allowed.
"""

from functools import lru_cache
from typing import Literal

import yaml
from pydantic import BaseModel, ConfigDict, TypeAdapter

from acuthesis.core.atlas.catalogue import Entry, entry, part_of, sites
from acuthesis.core.atlas.model import Position, Tissue
from acuthesis.core.body.figure import Side
from acuthesis.core.errors import UnknownId
from acuthesis.core.safety.pressure import pressure_table
from acuthesis.core.safety.screening import DATA, Reason, Screening, questions

StopSide = Literal["left", "right", "both", "midline"]


class Condition(BaseModel):
    """What wakes a rule: a question answered with anything but no, or with at least so many weeks."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    question: str
    at_least: int | None = None


class Touches(BaseModel):
    """What a rule is about. Empty lists touch nothing; `side: same` narrows it to the side that was answered."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    ids: tuple[str, ...] = ()
    tissues: tuple[Tissue, ...] = ()
    parts: tuple[str, ...] = ()
    sites: tuple[str, ...] = ()
    positions: tuple[Position, ...] = ()
    everything: bool = False
    side: Literal["any", "same"] = "any"


class Rule(BaseModel):
    """One standing rule."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    when: Condition | None = None  # None: it always holds
    touches: Touches
    severity: Literal["refuse", "limit", "note"]
    ceiling: int | None = None
    override: Literal["never", "signed"] = "signed"
    no_stick: bool = False
    short: str
    reason: str
    source: Literal["first_aid", "tradition", "manual"]


@lru_cache
def rules() -> tuple[Rule, ...]:
    """All standing rules. Raises: UnknownId if one mentions a question or point that does not exist."""
    rows = yaml.safe_load((DATA / "rules.yaml").read_text())
    loaded = tuple(TypeAdapter(list[Rule]).validate_python(rows))
    for rule in loaded:
        if rule.when is not None and rule.when.question not in questions():
            raise UnknownId(f"rule '{rule.id}' asks for '{rule.when.question}'", where=rule.id)
        for id in rule.touches.ids:
            entry(id)
        for site in rule.touches.sites:
            if site not in sites():
                raise UnknownId(f"rule '{rule.id}' touches the site '{site}', which does not exist", where=rule.id)
    return loaded


def _awake(rule: Rule, screening: Screening) -> bool:
    if rule.when is None:
        return True
    answer = screening.answer(rule.when.question)
    if answer is None or answer is False:
        return False
    if rule.when.at_least is not None:
        return isinstance(answer, int) and answer >= rule.when.at_least
    return True


def _touches(rule: Rule, target: Entry, side: StopSide, screening: Screening) -> bool:
    if rule.touches.side == "same" and rule.when is not None:
        answered = screening.answer(rule.when.question)
        if side != "both" and answered not in ("both", side):
            return False
    return (
        rule.touches.everything
        or target.id in rule.touches.ids
        or target.tissue in rule.touches.tissues
        or target.site in rule.touches.sites
        or part_of(target) in rule.touches.parts
    )


class Limits(BaseModel):
    """What holds for one point or area on one side of one person."""

    model_config = ConfigDict(frozen=True)

    refused: Reason | None = None
    overridable: bool = False
    ceiling: int
    ceiling_reasons: tuple[str, ...]
    cautions: tuple[Reason, ...]
    no_stick: bool = False


def limits_for(target: Entry, side: StopSide, screening: Screening) -> Limits:
    """Refusal, ceiling and cautions for a target.

    The ceiling is the lowest of the tissue's and every rule's that is awake; all reasons that set it are given.
    """
    table = pressure_table()
    ceilings = [(table.tissue_ceiling[target.tissue], table.tissue_reason[target.tissue])]
    cautions: list[Reason] = []
    refused: Reason | None = None
    overridable = True
    no_stick = target.tissue in ("bony", "orbit", "vessel_or_nerve", "face")
    for rule in rules():
        if rule.touches.positions or not _awake(rule, screening) or not _touches(rule, target, side, screening):
            continue
        reason = Reason(rule=rule.id, severity=rule.severity, text=rule.reason)
        no_stick = no_stick or rule.no_stick
        if rule.severity == "refuse":
            refused = refused or reason
            overridable = overridable and rule.override == "signed"
        elif rule.ceiling is not None:
            ceilings.append((rule.ceiling, rule.reason))
        if rule.severity != "refuse" and not (rule.severity == "note" and rule.touches.everything):
            cautions.append(reason)
    lowest = min(ceiling for ceiling, _ in ceilings)
    return Limits(
        refused=refused,
        overridable=refused is not None and overridable,
        ceiling=lowest,
        ceiling_reasons=tuple(reason for ceiling, reason in ceilings if ceiling == lowest),
        cautions=tuple(([refused] if refused else []) + cautions),
        no_stick=no_stick,
    )


def positions_out(screening: Screening) -> dict[Position, str]:
    """Positions this person must not be in, with the reason."""
    out: dict[Position, str] = {}
    cannot = screening.answer("cannot_lie")
    for position in cannot if isinstance(cannot, tuple) else ():
        out[position] = "The person cannot lie like that."  # type: ignore[index]
    for rule in rules():
        if rule.touches.positions and _awake(rule, screening):
            out.update(dict.fromkeys(rule.touches.positions, rule.reason))
    return out


def limit_strip(screening: Screening) -> tuple[str, ...]:
    """The person's limits in few words each, strongest first, for the strip that is shown everywhere."""
    order = {"refuse": 0, "limit": 1, "note": 2}
    awake = [rule for rule in rules() if rule.when is not None and _awake(rule, screening)]
    strip = [rule.short for rule in sorted(awake, key=lambda rule: order[rule.severity])]
    cannot = screening.answer("cannot_lie")
    names = {"prone": "the front", "supine": "the back", "left_side": "the left side", "right_side": "the right side"}
    if isinstance(cannot, tuple):
        strip += [f"Cannot lie on {names[position]}" for position in cannot]
    return tuple(dict.fromkeys(strip))


def sides_of(side: StopSide) -> tuple[Side, ...]:
    """The sides a stop is worked on; the midline is drawn as left."""
    return ("left", "right") if side == "both" else ("right",) if side == "right" else ("left",)
