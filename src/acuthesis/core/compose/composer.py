"""Composes a score: from complaints, the person's limits and the minutes to stops in order, with every reason.

The choice is greedy: the stop that brings most for its time is taken first, until the time is full. Benefit is the
weight of a use times the strength of the complaint, summed over the complaints that want it.
"""

from dataclasses import dataclass, field

from pydantic import BaseModel, ConfigDict, Field

from acuthesis.core.atlas.catalogue import Entry, entry
from acuthesis.core.atlas.model import Position
from acuthesis.core.compose.dose import DoseDefault, dose_defaults, duration_s
from acuthesis.core.compose.knowledge import ROLE_ORDER, Role, Use, complaint_kind
from acuthesis.core.compose.score import (
    MOVE_S,
    TURN_S,
    DraftStop,
    LeftOut,
    Objective,
    Score,
    arrange,
    default_level,
    position_changes,
    side_count,
    total_s,
)
from acuthesis.core.errors import CoreError
from acuthesis.core.safety.rules import StopSide, limits_for, positions_out
from acuthesis.core.safety.screening import Screening, verdict

# How well a practitioner works in a position, other things being equal: both sides are at hand when the person lies on
# back or front; on the side one half is hard to reach.
COMFORT: dict[Position, float] = {"supine": 1.0, "prone": 0.95, "seated": 0.9, "left_side": 0.6, "right_side": 0.6}
SHORTEST_MIN, LONGEST_MIN = 3, 120


class ComplaintNow(BaseModel):
    """A complaint as it is today: which, how strong (0–10), which side."""

    model_config = ConfigDict(extra="forbid")

    id: str
    rating: int = Field(5, ge=0, le=10)
    side: StopSide = "both"


class ComposeRequest(BaseModel):
    """What to compose for. `avoid` leaves ids out, `pinned` puts them first whatever they are worth."""

    model_config = ConfigDict(extra="forbid")

    complaints: list[ComplaintNow] = Field(min_length=1)
    minutes: float = Field(40, ge=SHORTEST_MIN, le=LONGEST_MIN)
    positions_excluded: list[Position] = []
    avoid: list[str] = []
    pinned: list[str] = []


@dataclass
class _Candidate:
    entry: Entry
    side: StopSide
    role: Role
    default: DoseDefault
    benefit: float
    pinned: bool
    why: list[str] = field(default_factory=list)

    @property
    def seconds(self) -> float:
        return duration_s(self.default.dose) * side_count(self.side) + MOVE_S


def compose(request: ComposeRequest, screening: Screening) -> Score:
    """Compose a score. Deterministic. Above everything stands the screening: where it says no, there is no score.

    Raises: UnknownId for a complaint, point or area that does not exist; CoreError if nothing is possible.
    """
    decided = verdict(screening)
    if decided.decision != "ok":
        return Score(
            decision=decided.decision,
            reasons=decided.reasons,
            minutes=request.minutes,
            total_s=0,
            objective=Objective(value=0, position_changes=0),
        )
    for id in (*request.avoid, *request.pinned):
        entry(id)
    left_out: list[LeftOut] = []
    blocked = dict.fromkeys(request.positions_excluded, "This position was excluded.")
    blocked |= positions_out(screening)
    candidates = _allowed(_candidates(request), request, screening, blocked, left_out)
    chosen = _fill(candidates, request.minutes * 60, left_out, blocked)
    if not chosen:
        raise CoreError(
            "nothing is left that could be pressed: see what is excluded, or give it more minutes", where="minutes"
        )
    stops = arrange(_drafts(chosen, screening, blocked), screening)
    return Score(
        decision="ok",
        minutes=request.minutes,
        total_s=total_s(stops),
        stops=stops,
        left_out=tuple(left_out),
        objective=Objective(
            value=round(sum(candidate.benefit for candidate in chosen), 2),
            position_changes=position_changes(stops),
        ),
    )


def _side(use: Use, complaint: ComplaintNow, target: Entry) -> StopSide:
    if target.whole != "both":
        return target.whole
    if use.side == "both" or complaint.side in ("both", "midline"):
        return "both"
    if use.side == "other":
        return "left" if complaint.side == "right" else "right"
    return complaint.side


def _candidates(request: ComposeRequest) -> list[_Candidate]:
    """One candidate a point or area; two complaints that want the same point add up, and sides join."""
    found: dict[str, _Candidate] = {}
    for complaint in request.complaints:
        kind = complaint_kind(complaint.id)
        for use in kind.uses:
            target = entry(use.id)
            side = _side(use, complaint, target)
            benefit = use.weight * complaint.rating / 10
            why = f"{kind.name}: {use.why[0].lower()}{use.why[1:]}."
            known = found.get(use.id)
            if known is None:
                default = dose_defaults()[use.dose]
                found[use.id] = _Candidate(target, side, use.role, default, benefit, use.id in request.pinned, [why])
                continue
            known.benefit += benefit
            known.why.append(why)
            known.side = side if known.side == side else "both"
            known.role = min(known.role, use.role, key=ROLE_ORDER.index)
    return list(found.values())


def _allowed(
    candidates: list[_Candidate],
    request: ComposeRequest,
    screening: Screening,
    blocked: dict[Position, str],
    left_out: list[LeftOut],
) -> list[_Candidate]:
    allowed = []
    for candidate in candidates:
        target = candidate.entry
        side = _pressable_side(candidate, screening)
        limits = limits_for(target, side, screening)
        if target.id in request.avoid:
            left_out.append(_left(candidate, "You asked to leave it out.", "avoid", "note"))
        elif limits.refused is not None:
            left_out.append(_left(candidate, limits.refused.text, limits.refused.rule, "refuse"))
        elif all(position in blocked for position in target.reach.positions):
            reason = blocked[target.reach.positions[0]]
            left_out.append(_left(candidate, f"No position left to reach it. {reason}", "position", "limit"))
        else:
            if side != candidate.side:
                refused = limits_for(target, "left" if side == "right" else "right", screening).refused
                text = refused.text if refused else ""
                left_out.append(_left(candidate, text, refused.rule if refused else "", "refuse", _other(side)))
                candidate.why.append(f"Only {side}: {text}")
                candidate.side = side
            allowed.append(candidate)
    return allowed


def _other(side: StopSide) -> StopSide:
    return "left" if side == "right" else "right"


def _pressable_side(candidate: _Candidate, screening: Screening) -> StopSide:
    """A stop for both sides becomes one-sided where only one side may be pressed."""
    if candidate.side != "both":
        return candidate.side
    free: list[StopSide] = [
        side for side in ("left", "right") if limits_for(candidate.entry, side, screening).refused is None
    ]
    return free[0] if len(free) == 1 else "both"


def _left(candidate: _Candidate, reason: str, rule: str, severity: str, side: StopSide | None = None) -> LeftOut:
    return LeftOut(
        id=candidate.entry.id,
        name=candidate.entry.names.english,
        side=side or candidate.side,
        reason=reason,
        rule=rule,
        severity=severity,
    )


def _fill(
    candidates: list[_Candidate], budget_s: float, left_out: list[LeftOut], blocked: dict[Position, str]
) -> list[_Candidate]:
    """Take the best for its time until the time is full; what does not fit is named with what it would need."""
    frame = sum(duration_s(dose_defaults()[name].dose) + MOVE_S for name in ("opening", "closing"))
    ranked = sorted(
        candidates,
        key=lambda c: (not c.pinned, -c.benefit / c.seconds**0.5, c.entry.id),
    )
    chosen: list[_Candidate] = []
    for candidate in ranked:
        trial = [*chosen, candidate]
        turns = TURN_S * _turns(trial, blocked)
        needed = frame + turns + sum(c.seconds for c in trial)
        if candidate.benefit > 0 and needed <= budget_s:
            chosen = trial
        else:
            short = max((needed - budget_s) / 60, 0.1)
            left_out.append(
                _left(candidate, f"No time: it would need {short:.1f} min more.", "time", "note")
                if candidate.benefit > 0
                else _left(candidate, "The complaint is rated 0 today.", "benefit", "note")
            )
    return chosen


def _groups(chosen: list[_Candidate], blocked: dict[Position, str]) -> list[tuple[Position, list[_Candidate]]]:
    """Fewest positions that reach everything: again and again the one that reaches most of what is left."""
    rest = list(chosen)
    groups: list[tuple[Position, list[_Candidate]]] = []
    while rest:
        reach = {
            position: [c for c in rest if position in c.entry.reach.positions]
            for position in COMFORT
            if position not in blocked
        }
        best = max(reach, key=lambda position: len(reach[position]) * COMFORT[position])
        groups.append((best, reach[best]))
        rest = [c for c in rest if c not in reach[best]]
    return groups


def _turns(chosen: list[_Candidate], blocked: dict[Position, str]) -> int:
    return max(len(_groups(chosen, blocked)) - 1, 0)


def _drafts(chosen: list[_Candidate], screening: Screening, blocked: dict[Position, str]) -> list[DraftStop]:
    """In order: within a position main, supply, far, pain, calm; the group with most calm points comes last."""
    groups = sorted(_groups(chosen, blocked), key=lambda group: sum(c.role == "calm" for c in group[1]))
    drafts = []
    for position, members in groups:
        for candidate in sorted(members, key=lambda c: (ROLE_ORDER.index(c.role), -c.benefit, c.entry.id)):
            limits = limits_for(candidate.entry, candidate.side, screening)
            level = default_level(candidate.default.level, limits.ceiling)
            why = list(candidate.why)
            if level < candidate.default.level:
                why.append(f"Level {level} instead of {candidate.default.level}: {limits.ceiling_reasons[0]}")
            drafts.append(
                DraftStop(
                    key=f"{candidate.entry.id}-1",
                    kind=candidate.entry.kind,
                    id=candidate.entry.id,
                    side=candidate.side,
                    position=position,
                    dose=candidate.default.dose,
                    level=level,
                    why=tuple(why),
                )
            )
    return [
        _frame("breathe", "opening", groups[0][0], "Arrive, and notice the breath before anything is pressed."),
        *drafts,
        _frame("close", "closing", groups[-1][0], "A resting hand and a slow breath out to end."),
    ]


def _frame(kind: str, default: str, position: Position, why: str) -> DraftStop:
    return DraftStop(
        key=f"{kind}-1",
        kind=kind,
        id=kind,
        side="midline",
        position=position,
        dose=dose_defaults()[default].dose,
        level=1,
        why=(why,),
    )
