"""A single stop to be added by hand: how the core would dose a point, an area or a technique for this person."""

from collections.abc import Collection, Mapping, Sequence

from acuthesis.core.atlas.entries.catalogue import entry
from acuthesis.core.atlas.entries.model import Position
from acuthesis.core.compose.knowledge.dose import DoseDefault, dose_defaults
from acuthesis.core.compose.knowledge.school import School
from acuthesis.core.compose.knowledge.technique import techniques
from acuthesis.core.compose.score.adapting import adapted
from acuthesis.core.compose.score.arrange import Finder, under_school
from acuthesis.core.compose.score.score import REASON_LEAST, DraftStop
from acuthesis.core.errors import NotAllowed
from acuthesis.core.message import message
from acuthesis.core.safety.limits import limits_at, limits_for, positions_out
from acuthesis.core.safety.screening import Screening
from acuthesis.core.safety.touching import StopSide


def stop_for(
    id: str,
    side: StopSide | None,
    screening: Screening,
    school: School,
    played: Sequence[Position],
    taken: Collection[str],
    find: Finder = entry,
    override: str = "",
    doses: Mapping[str, DoseDefault] | None = None,
) -> DraftStop:
    """A stop for a person in a school.

    Parameters: played, positions that the score has already, in order; taken, keys in use; override, the reason
    under which a refusal is signed for, where its rule allows that; doses, if they are not the shipped ones.
    Raises: UnknownId; NotAllowed where it is refused or no position is left, with the reason.
    """
    named = dict(doses or dose_defaults())
    technique = techniques().get(id)
    if technique is not None:
        whole: StopSide = technique.side
        default, possible = named[technique.dose], technique.positions
        default = default.model_copy(update={"dose": default.dose.model_copy(update={"together": technique.together})})
        limits = limits_at(technique.on(side or whole), screening)
    else:
        target = find(id)
        whole, possible = target.whole, target.reach.positions
        default = school.dose_for(target, "main", named)
        limits = limits_for(target, side or whole, screening)
    chosen: StopSide = side if side is not None and whole == "both" else whole
    if limits.one_side and chosen == "both":
        chosen = "left"
    limits = under_school(limits, school)
    signed = limits.overridable and len(override.strip()) >= REASON_LEAST
    if limits.refused is not None and not signed:
        raise NotAllowed(message("stop-refused", id=id, reason=limits.refused.text), where="id")
    out = positions_out(screening)
    position = next((one for one in (*played, *possible) if one in possible and one not in out), None)
    if position is None:
        raise NotAllowed(
            message("one-stop-cannot-reached-any-remaining-position", id=id, reason=next(iter(out.values()), "")),
            where="id",
        )
    here = adapted(default, chosen, limits, moves=technique is not None)
    number = next(n for n in range(1, len(taken) + 2) if f"{id}-{n}" not in taken)
    return DraftStop(
        key=f"{id}-{number}",
        kind=technique.kind if technique else find(id).kind,
        id=technique.id if technique else find(id).id,
        side=chosen,
        position=position,
        dose=here.no_longer_than(limits.longest_s),
        level=here.level,
        override=override if signed else "",
        phase="warm" if technique and technique.phase == "warm" else "work",
        why=("You added it.",),
    )
