"""Protocols: a score without its person, shared as a file, and applied to another person's limits and minutes.

The form is open JSON (docs/guide/protocols.md): ids of the atlas, doses, levels, and sides as they were on the person
it came from, with the side that was affected, so that applying it to the other side mirrors it.
"""

from collections.abc import Sequence
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from acuthesis.core.atlas.entries.catalogue import entry
from acuthesis.core.atlas.entries.model import Position
from acuthesis.core.compose.knowledge.dose import duration_s, in_form, slides, stretched, within
from acuthesis.core.compose.knowledge.school import School
from acuthesis.core.compose.score.arrange import Finder, arrange, limits_of, under_school
from acuthesis.core.compose.score.score import (
    PRESSED,
    DraftStop,
    LeftOut,
    Objective,
    Score,
    position_changes,
    side_count,
    technique_of,
    total_s,
)
from acuthesis.core.errors import CoreError
from acuthesis.core.message import message
from acuthesis.core.safety.limits import Limits, positions_out
from acuthesis.core.safety.screening import Screening
from acuthesis.core.safety.touching import StopSide
from acuthesis.core.safety.verdict import verdict

LEAST_SHARE = 0.6  # a dose is made no shorter than this to fit the minutes
OTHER: dict[StopSide, StopSide] = {"left": "right", "right": "left", "both": "both", "midline": "midline"}


class Protocol(BaseModel):
    """A score without a person, kept under a name to be fitted to anybody."""

    model_config = ConfigDict(extra="forbid")

    format: Literal["acuthesis-protocol"] = "acuthesis-protocol"
    version: Literal[1] = 1
    name: str = Field(min_length=1, max_length=80)
    note: str = Field("", max_length=2000)
    school: str = Field("", max_length=60)
    minutes: float = Field(gt=0, le=240, allow_inf_nan=False)
    complaints: tuple[str, ...] = Field((), max_length=12)
    affected: Literal["left", "right"] | None = None
    stops: tuple[DraftStop, ...] = Field(min_length=1, max_length=120)


def protocol_of(
    score: Score, name: str, note: str, complaints: Sequence[str], affected: Literal["left", "right"] | None
) -> Protocol:
    """What of a score holds without the person: no reasons that speak of them, nothing signed for, nothing muted.

    Parameters: score, of any person; name and note, the practice's words; complaints, ids of what it is for; affected,
    the side that was affected, so that it can be mirrored for somebody whose other side is.
    Raises: CoreError for a score that may not be treated by or has no stops.
    """
    if score.decision != "ok" or not score.stops:
        raise CoreError(message("protocol-there-no-score-save"), where="visit_id")
    return Protocol(
        name=name,
        note=note,
        school=score.school,
        minutes=score.minutes,
        complaints=tuple(complaints),
        affected=affected,
        stops=tuple(
            DraftStop.model_validate(stop.model_dump()).model_copy(update={"override": "", "why": ()})
            for stop in score.stops
            if not stop.muted
        ),
    )


def apply_protocol(
    protocol: Protocol,
    screening: Screening,
    minutes: float,
    affected: Literal["left", "right"] | None = None,
    school: School | None = None,
    find: Finder = entry,
) -> Score:
    """A protocol on another person: screened again, mirrored, held to their limits, fitted into the minutes.

    What may not be is left out with its reason; what may be only lighter, shorter or in another position is changed,
    and says so. Raises: UnknownId for a stop that the atlas does not have; CoreError if nothing is left.
    """
    decided = verdict(screening)
    if decided.decision != "ok":
        return Score(
            decision=decided.decision,
            reasons=decided.reasons,
            minutes=minutes,
            total_s=0,
            objective=Objective(value=0, position_changes=0),
        )
    mirrored = protocol.affected is not None and affected is not None and affected != protocol.affected
    left_out: list[LeftOut] = []
    kept = [
        fitted
        for stop in protocol.stops
        if (fitted := _fit(stop, mirrored, screening, school, find, left_out)) is not None
    ]
    if not any(stop.kind in PRESSED for stop in kept):
        raise CoreError(message("protocol-nothing-allowed-person", name=protocol.name), where="protocol")
    kept, notes = _in_time(kept, minutes, screening, school, find)
    laid = arrange(kept, screening, school, find)
    if mirrored:
        notes.append(f"Mirrored from the {protocol.affected} side.")
    return Score(
        decision="ok",
        minutes=minutes,
        total_s=total_s(laid),
        school=school.id if school else protocol.school,
        stops=laid,
        left_out=tuple(left_out),
        notes=tuple(notes),
        objective=Objective(value=0, position_changes=position_changes(laid)),
    )


def _fit(
    stop: DraftStop,
    mirrored: bool,
    screening: Screening,
    school: School | None,
    find: Finder,
    left_out: list[LeftOut],
) -> DraftStop | None:
    """A stop as it may be on this person, or None with a line of what was left out."""
    side = OTHER[stop.side] if mirrored and _paired(stop, find) else stop.side
    stop = stop.model_copy(update={"side": side})
    limits = limits_of(stop, screening, find)
    why: list[str] = []
    if limits is not None and limits.refused is not None and side_count(side) == 2:
        side = _free_side(stop, screening, find) or side
        if side != stop.side:
            left_out.append(_left(stop, OTHER[side], limits, find))
            stop = stop.model_copy(update={"side": side})
            why.append(f"{side.capitalize()} side only: {limits.refused.text}")
            limits = limits_of(stop, screening, find)
    if limits is not None and limits.refused is not None:
        left_out.append(_left(stop, side, limits, find))
        return None
    position = _position(stop, screening, find)
    if position is None:
        out = positions_out(screening)
        reason = f"It cannot be reached in any remaining position. {next(iter(out.values()), '')}".strip()
        left_out.append(
            LeftOut(id=stop.id, name=_name(stop, find), side=side, reason=reason, rule="position", severity="limit")
        )
        return None
    if position != stop.position:
        why.append(f"Position changed: {positions_out(screening)[stop.position]}")
    changed = stop.model_copy(update={"position": position})
    if limits is not None:
        changed, said = _lighter(changed, under_school(limits, school))
        why += said
    return changed.model_copy(update={"why": tuple(why)})


def _paired(stop: DraftStop, find: Finder) -> bool:
    return stop.kind not in PRESSED or find(stop.id).whole == "both"


def _free_side(stop: DraftStop, screening: Screening, find: Finder) -> StopSide | None:
    sides: tuple[StopSide, ...] = ("left", "right")
    for side in sides:
        limits = limits_of(stop.model_copy(update={"side": side}), screening, find)
        if limits is None or limits.refused is None:
            return side
    return None


def _name(stop: DraftStop, find: Finder) -> str:
    if stop.kind in PRESSED:
        return find(stop.id).names.english
    technique = technique_of(stop)
    return technique.name if technique else stop.id


def _left(stop: DraftStop, side: StopSide, limits: Limits, find: Finder) -> LeftOut:
    assert limits.refused is not None
    return LeftOut(
        id=stop.id,
        name=_name(stop, find),
        side=side,
        reason=limits.refused.text,
        rule=limits.refused.rule,
        severity="refuse",
        overridable=limits.overridable,
    )


def _position(stop: DraftStop, screening: Screening, find: Finder) -> Position | None:
    """The position it was written for, or the first other one that is open to this person."""
    technique = technique_of(stop)
    if stop.kind in PRESSED:
        possible = find(stop.id).reach.positions
    elif technique is not None:
        possible = technique.positions
    else:
        possible = ("supine", "half_reclined", "seated", "left_side", "right_side", "prone")
    out = positions_out(screening)
    return next((one for one in (stop.position, *possible) if one in possible and one not in out), None)


def _lighter(stop: DraftStop, limits: Limits) -> tuple[DraftStop, list[str]]:
    """The stop under its ceiling, not gliding, not with a stick and not longer than it may be."""
    update: dict[str, object] = {}
    said = []
    if stop.level > limits.ceiling:
        update["level"] = limits.ceiling
        said.append(f"Level {limits.ceiling} instead of {stop.level}: {limits.ceiling_reasons[0]}")
    if limits.no_stick and stop.contact == "stick":
        update["contact"] = None
        said.append("Without the pressing stick.")
    dose = stop.dose
    if limits.no_glide and slides(dose) and min(stop.level, limits.ceiling) > 1:
        if stop.kind in PRESSED:
            dose = in_form("hold", duration_s(dose), together=dose.together)
            said.append("Held instead of gliding: no gliding strokes here.")
        else:
            update["level"] = 1
            said.append("Hand contact only: no firm gliding strokes here.")
    if (shorter := within(dose, limits.longest_s)) != dose:
        dose = shorter
        said.append(f"Shorter: {limits.longest_why}")
    if limits.one_side and stop.side == "both":
        update["side"] = "left"
        said.append(f"Left side only: {limits.one_side}")
    return stop.model_copy(update={**update, "dose": dose}), said


def _in_time(
    stops: list[DraftStop], minutes: float, screening: Screening, school: School | None, find: Finder
) -> tuple[list[DraftStop], list[str]]:
    """Shortens every dose alike as far as is sensible, then mutes from the end of the work what is still too much."""
    spent = total_s(arrange(stops, screening, school, find))
    slot = minutes * 60
    if spent <= slot:
        return stops, []
    held = sum(stop.duration_s for stop in arrange(stops, screening, school, find))
    share = max((held - (spent - slot)) / held, LEAST_SHARE)
    fitted = [stop.model_copy(update={"dose": stretched(stop.dose, duration_s(stop.dose) * share)}) for stop in stops]
    notes = [f"All doses shortened to fit {minutes:g} minutes."]
    for index in reversed(range(len(fitted))):
        if total_s(arrange(fitted, screening, school, find)) <= slot:
            break
        if fitted[index].kind in PRESSED:
            fitted[index] = fitted[index].model_copy(update={"muted": True, "why": ("Muted: not enough time.",)})
    return fitted, notes
