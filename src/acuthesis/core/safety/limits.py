"""Limits by the standing rules: what answers refuse, limit or note for a point, an area, a technique or a position.

A rule can only take away: ceilings are the lowest that applies, a refusal is a refusal whatever else is allowed.
"""

from collections.abc import Iterator
from functools import lru_cache

from pydantic import BaseModel, ConfigDict

from acuthesis.core.atlas.entries.catalogue import Entry, part_of
from acuthesis.core.atlas.entries.model import Position, Tissue
from acuthesis.core.reason import Reason
from acuthesis.core.safety.body_parts import lain_on
from acuthesis.core.safety.rule import Rule
from acuthesis.core.safety.screening import Screening, questions
from acuthesis.core.safety.standing import awake, rules_for
from acuthesis.core.safety.touching import StopSide, Target, distance_cm, named, touches

DEEP = 5
NO_STICK: tuple[Tissue, ...] = ("bony", "orbit", "vessel_or_nerve", "face")
NEXT_TO_CM = 1.0  # nearer than this it lies on it, and no distance is told


class Limits(BaseModel):
    """What holds for one point, area or technique on one side of one person."""

    model_config = ConfigDict(frozen=True)

    refused: Reason | None = None
    overridable: bool = False
    ceiling: int
    ceiling_reasons: tuple[str, ...]
    cautions: tuple[Reason, ...]
    no_stick: bool = False
    no_glide: bool = False
    one_side: str = ""  # why never both sides
    longest_s: int | None = None
    longest_why: str = ""
    consent: str = ""  # why the person is asked before a hand goes there


def limits_for(target: Entry, side: StopSide, screening: Screening) -> Limits:
    """Refusal, ceiling and cautions for a point or area.

    The ceiling is the lowest of the tissue's, the person's, every rule's that is awake and the measured threshold's;
    all reasons that set it are given.

    >>> from acuthesis.core.safety.screening import parse_screening
    >>> from acuthesis.core.atlas.entries.catalogue import entry
    >>> limits_for(entry("SP6"), "left", parse_screening({"pregnancy_weeks": 22})).refused is not None
    True
    """
    places = (target.site, part_of(target))
    return limits_at(Target(id=target.id, tissue=target.tissue, places=places, side=side, kind=target.kind), screening)


def limits_at(target: Target, screening: Screening) -> Limits:
    """The same for anything that lies somewhere with a tissue under the hand: also strokes, stretches and the like."""
    ceilings = list(_own_ceilings(target.tissue, target.places, screening))
    cautions: list[Reason] = []
    refusals: list[tuple[Rule, Reason]] = []
    holding = [rule for rule in _speaking(screening) if touches(rule, target, screening)]
    for rule in holding:
        reason = Reason(rule=rule.id, severity=rule.severity, text=_told(rule, target, screening))
        if rule.severity == "refuse":
            refusals.append((rule, reason))
            continue
        if rule.ceiling is not None:
            ceilings.append((rule.ceiling, reason.text))
        if not (rule.severity == "note" and rule.touches.everything):
            cautions.append(reason)
    lowest = min(ceiling for ceiling, _ in ceilings)
    # Where several refuse, the one that no signature lifts is said.
    refusals.sort(key=lambda row: row[0].override != "never")
    id = target.id
    reasons = [screening.refused_here[id]] if id in screening.refused_here else []
    reasons += [reason for _, reason in refusals]
    shortest = min((rule for rule in holding if rule.longest_s), key=lambda rule: rule.longest_s or 0, default=None)
    one_side = next((rule.reason for rule in holding if rule.one_side), "")
    return Limits(
        refused=reasons[0] if reasons else None,
        overridable=id not in screening.refused_here
        and bool(refusals)
        and all(rule.override == "signed" for rule, _ in refusals),
        ceiling=lowest,
        ceiling_reasons=tuple(dict.fromkeys(reason for ceiling, reason in ceilings if ceiling == lowest)),
        cautions=tuple(reasons[:1] + cautions),
        no_stick=target.tissue in NO_STICK or any(rule.no_stick for rule in holding),
        no_glide=any(rule.no_glide for rule in holding),
        one_side=one_side,
        longest_s=shortest.longest_s if shortest else None,
        longest_why=shortest.reason if shortest else "",
        consent=next((rule.reason for rule in holding if rule.consent), ""),
    )


def _told(rule: Rule, target: Target, screening: Screening) -> str:
    """The reason of a rule, with the distance on this body where it is that which counts."""
    away = distance_cm(rule, target, screening)
    if away is None or away < NEXT_TO_CM or target.kind not in ("point", "area"):
        return rule.reason
    return f"{rule.reason} This point is {away:.0f} cm away."


class _Same:
    """A screening by its identity: as a key, for what is worked out once for one and the same."""

    def __init__(self, screening: Screening) -> None:
        self.screening = screening

    def __hash__(self) -> int:
        return id(self.screening)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.screening is self.screening


def _speaking(screening: Screening) -> tuple[Rule, ...]:
    """Rules awake for this person that are about places, not about the treatment, its size or a position."""
    return _speaking_once(_Same(screening))


@lru_cache(maxsize=4)  # a score asks some hundred times for one person
def _speaking_once(same: _Same) -> tuple[Rule, ...]:
    return tuple(_about_places(same.screening))


def _about_places(screening: Screening) -> Iterator[Rule]:
    for rule in rules_for(screening):
        about_places = not rule.touches.positions and rule.severity not in ("emergency", "refer", "ask")
        if about_places and rule.session is None and not rule.touches.complaints and awake(rule, screening):
            yield rule


def _own_ceilings(tissue: Tissue, places: tuple[str, ...], screening: Screening) -> Iterator[tuple[int, str]]:
    """Ceilings of tissue, person and measured threshold, each with its reason."""
    table = screening.pressure
    most = table.tissue_ceiling[tissue]
    deep = bool(screening.answer("deep_pressure_agreed"))
    if deep and most == table.default_ceiling:
        yield DEEP, "Deep pressure was agreed with this person."
    else:
        yield most, table.tissue_reason[tissue]
    for place in places:
        threshold = screening.thresholds.get(place)
        if threshold is not None:
            bearable = [
                level.level for level in table.levels if level.n_per_cm2 <= threshold * table.threshold_share
            ] or [1]
            yield max(bearable), f"The pressure pain threshold here is {threshold:g} N/cm²."


def positions_out(screening: Screening) -> dict[Position, str]:
    """Positions this person must not be in, each with its reason: what they told, then the rules.

    >>> from acuthesis.core.safety.screening import parse_screening
    >>> sorted(positions_out(parse_screening({"pregnancy_weeks": 22})))
    ['prone', 'supine']
    """
    out: dict[Position, str] = {}
    cannot = screening.answer("cannot_lie")
    for position in cannot if isinstance(cannot, tuple) else ():
        out[position] = "The person cannot lie in this position."  # type: ignore[index]
    for rule in rules_for(screening):
        if awake(rule, screening):
            out.update(dict.fromkeys((*rule.touches.positions, *_lain_on(rule, screening)), rule.reason))
    return out


def _lain_on(rule: Rule, screening: Screening) -> Iterator[Position]:
    """Positions in which the person would lie on a place that the answer names or paints."""
    if not rule.touches.lain_on:
        return
    reach = (screening.reaches or {}).get(rule.id)
    touched = set(named(screening, rule))
    if reach is not None:
        touched |= {(site, side) for site, _, side in (one.partition("@") for one in reach.on)}
    for position, pressed in lain_on().items():
        if any(place == name and (side == "" or on in ("", side)) for place, side in pressed for name, on in touched):
            yield position


def limit_strip(screening: Screening, *, on_paper: bool = False) -> tuple[str, ...]:
    """The person's limits in few words each, strongest first, for the strip that is shown everywhere.

    `on_paper`: without what is for the practitioner's eyes alone.

    >>> from acuthesis.core.safety.screening import parse_screening
    >>> limit_strip(parse_screening({"blood_thinner": True}))[0]
    'Blood-thinning medicine: level 2 at most, no pressing stick'
    """
    order = {"emergency": 0, "refer": 1, "ask": 2, "refuse": 3, "limit": 4, "note": 5}
    personal = [rule for rule in rules_for(screening) if rule.when is not None and rule.when.of_person]
    speaking = [rule for rule in personal if awake(rule, screening) and not (on_paper and _is_discreet(rule))]
    speaking = [one for one in speaking if not (_nothing_answered(one, screening) or _only_of_complaints(one))]
    strip = [rule.short for rule in sorted(speaking, key=lambda rule: order[rule.severity])]
    cannot = screening.answer("cannot_lie")
    names = {
        "prone": "face down",
        "supine": "face up",
        "left_side": "on the left side",
        "right_side": "on the right side",
    }
    if isinstance(cannot, tuple):
        strip += [f"Cannot lie {names[str(position)]}" for position in cannot]
    return tuple(dict.fromkeys(strip))


def _is_discreet(rule: Rule) -> bool:
    """Whether a rule is for the practitioner's eyes alone: by itself, or by a question that wakes it."""
    asked = rule.when.questions if rule.when is not None else ()
    return rule.discreet or any(questions()[question].discreet for question in asked)


def notes_for(screening: Screening) -> tuple[str, ...]:
    """What is to be minded in the whole session: the notes of rules that touch everything, in their order.

    >>> from acuthesis.core.safety.screening import parse_screening
    >>> notes_for(parse_screening({}))
    ()
    """
    return tuple(
        rule.reason
        for rule in rules_for(screening)
        if rule.severity == "note" and rule.touches.everything and awake(rule, screening)
    )


def complaints_out(screening: Screening) -> dict[str, str]:
    """Complaints that are not worked on with this person, each with its reason.

    >>> from acuthesis.core.safety.screening import parse_screening
    >>> "menstrual_cramps" in complaints_out(parse_screening({"pregnancy_weeks": 22}))
    True
    """
    return {
        complaint: rule.reason
        for rule in rules_for(screening)
        if rule.touches.complaints and awake(rule, screening)
        for complaint in rule.touches.complaints
    }


def _only_of_complaints(rule: Rule) -> bool:
    """A rule by age or sex alone about what they never have: said where a complaint is chosen, not at each visit.

    "Not for men" in the strip of every man would be read past, and with it what stands beside it.
    """
    return bool(rule.touches.complaints) and rule.when is not None and not rule.when.questions


def _nothing_answered(rule: Rule, screening: Screening) -> bool:
    """A rule about the places of an answer has nothing to say where the answer names none."""
    asked = rule.when.questions if rule.when is not None else ()
    return rule.touches.answered and not any(screening.places(question) for question in asked)
