"""Standing rules: what a person's answers refuse, limit or note for a point, an area, a technique or a position.

A rule can only take away: ceilings are the lowest that applies, a refusal is a refusal whatever else is allowed.
"""

from collections.abc import Iterable, Iterator
from functools import lru_cache
from typing import Literal

from pydantic import BaseModel, ConfigDict, TypeAdapter

from acuthesis.core.atlas.catalogue import Entry, entry, part_names, part_of, sites
from acuthesis.core.atlas.model import Position, Tissue
from acuthesis.core.body.figure import Side
from acuthesis.core.data_file import read
from acuthesis.core.errors import CoreError, UnknownId
from acuthesis.core.reason import Reason
from acuthesis.core.safety.rule import Condition, Rule
from acuthesis.core.safety.screening import DATA, Screening, questions

StopSide = Literal["left", "right", "both", "midline"]
DEEP = 5


@lru_cache
def rules() -> tuple[Rule, ...]:
    """All standing rules. Raises: UnknownId if one mentions a question or place that does not exist."""
    rows = read(DATA / "rules.yaml")
    loaded = tuple(TypeAdapter(list[Rule]).validate_python(rows))
    for rule in loaded:
        check_rule(rule)
    return loaded


def check_rule(rule: Rule) -> None:
    """Raises: UnknownId if a rule mentions a question, point, part or site that does not exist."""
    if rule.when is not None and rule.when.question is not None and rule.when.question not in questions():
        raise UnknownId(f"rule '{rule.id}' asks for '{rule.when.question}', which is no question", where=rule.id)
    for id in rule.touches.ids:
        entry(id)
    for name, known in ((*rule.touches.sites,), sites()), ((*rule.touches.parts,), part_names()):
        for place in name:
            if place not in known:
                raise UnknownId(f"rule '{rule.id}' touches '{place}', which does not exist", where=rule.id)


def house_rules(rows: Iterable[Rule]) -> tuple[Rule, ...]:
    """A practice's own rules, checked. They are added to the standing ones, so they can tighten and never loosen.

    Raises: UnknownId; CoreError for an id that is taken.
    """
    standing = {rule.id for rule in rules()}
    own = tuple(rows)
    for rule in own:
        check_rule(rule)
        if rule.id in standing:
            raise CoreError(f"'{rule.id}' is a standing rule; give your own another id", where=rule.id)
    if len({rule.id for rule in own}) != len(own):
        raise CoreError("two of the rules have the same id", where="rules")
    return own


def awake(rule: Rule, screening: Screening) -> bool:
    """Whether a rule speaks for this person. A rule for answers without a place sleeps where the place was told."""
    if rule.when is None:
        return True
    if rule.unplaced and screening.answer(str(rule.when.question)) is not True:
        return False
    return holds(rule.when, screening)


def holds(condition: Condition, screening: Screening) -> bool:
    """Whether a condition is met by a person's age (years) or answer. Nobody asked, or no age: not met."""
    if condition.age_over is not None:
        return screening.age is not None and screening.age > condition.age_over
    if condition.age_under is not None:
        return screening.age is not None and screening.age < condition.age_under
    answer = screening.answer(str(condition.question))
    if answer is None or answer is False:
        return False
    if condition.reading is not None:
        return isinstance(answer, tuple) and any(
            isinstance(measured, int) and measured >= limit
            for measured, limit in zip(answer, condition.reading, strict=True)
        )
    if condition.at_least is not None:
        return isinstance(answer, int) and answer >= condition.at_least
    return True


def _in_answer(target_places: Iterable[str], side: StopSide, screening: Screening, question: str) -> bool:
    """Whether one of the places named in an answer is where the target lies, on its side."""
    answer = screening.answer(question)
    for place in answer if isinstance(answer, tuple) else ():
        name, _, on = str(place).partition(".")
        if name in target_places and (on == "" or side in ("both", "midline", on)):
            return True
    return False


def _touches(
    rule: Rule, id: str, tissue: Tissue, places: tuple[str, ...], side: StopSide, screening: Screening
) -> bool:
    touches = rule.touches
    question = rule.when.question if rule.when is not None else None
    if touches.side == "same" and question is not None:
        answered = screening.answer(question)
        if side not in ("both", "midline") and answered not in ("both", side, True):
            return False
        if side == "midline" and not touches.everything:
            return False
    return (
        touches.everything
        or id in touches.ids
        or id in touches.techniques
        or tissue in touches.tissues
        or any(place in touches.sites or place in touches.parts for place in places)
        or (touches.answered and question is not None and _in_answer(places, side, screening, question))
    )


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


def limits_for(target: Entry, side: StopSide, screening: Screening) -> Limits:
    """Refusal, ceiling and cautions for a point or area.

    The ceiling is the lowest of the tissue's, the person's, every rule's that is awake and the measured threshold's;
    all reasons that set it are given.
    """
    return limits_at(target.id, target.tissue, (target.site, part_of(target)), side, screening)


def limits_at(id: str, tissue: Tissue, places: tuple[str, ...], side: StopSide, screening: Screening) -> Limits:
    """The same for anything that lies on `places` (ids of sites and parts) with a tissue under the hand."""
    ceilings = list(_own_ceilings(tissue, places, screening))
    cautions: list[Reason] = []
    refusals: list[tuple[Rule, Reason]] = []
    holding = [rule for rule in _speaking(screening) if _touches(rule, id, tissue, places, side, screening)]
    for rule in holding:
        reason = Reason(rule=rule.id, severity=rule.severity, text=rule.reason)
        if rule.severity == "refuse":
            refusals.append((rule, reason))
            continue
        if rule.ceiling is not None:
            ceilings.append((rule.ceiling, rule.reason))
        if not (rule.severity == "note" and rule.touches.everything):
            cautions.append(reason)
    lowest = min(ceiling for ceiling, _ in ceilings)
    # Where several refuse, the one that no signature lifts is said.
    refusals.sort(key=lambda row: row[0].override != "never")
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
        no_stick=tissue in ("bony", "orbit", "vessel_or_nerve", "face") or any(rule.no_stick for rule in holding),
        no_glide=any(rule.no_glide for rule in holding),
        one_side=one_side,
        longest_s=shortest.longest_s if shortest else None,
        longest_why=shortest.reason if shortest else "",
    )


def _speaking(screening: Screening) -> Iterator[Rule]:
    """Rules awake for this person that are about places, not about the session or a position."""
    for rule in (*rules(), *screening.house):
        if not rule.touches.positions and rule.severity != "refer" and awake(rule, screening):
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
            yield max(bearable), f"Pain was measured to begin at {threshold:g} N/cm² here."


def positions_out(screening: Screening) -> dict[Position, str]:
    """Positions this person must not be in, each with its reason: what they told, then the rules."""
    out: dict[Position, str] = {}
    cannot = screening.answer("cannot_lie")
    for position in cannot if isinstance(cannot, tuple) else ():
        out[position] = "The person cannot lie like that."  # type: ignore[index]
    for rule in (*rules(), *screening.house):
        if rule.touches.positions and awake(rule, screening):
            out.update(dict.fromkeys(rule.touches.positions, rule.reason))
    return out


def limit_strip(screening: Screening) -> tuple[str, ...]:
    """The person's limits in few words each, strongest first, for the strip that is shown everywhere."""
    order = {"refer": 0, "refuse": 1, "limit": 2, "note": 3}
    speaking = [rule for rule in (*rules(), *screening.house) if rule.when is not None and awake(rule, screening)]
    speaking = [rule for rule in speaking if not _nothing_answered(rule, screening)]
    strip = [rule.short for rule in sorted(speaking, key=lambda rule: order[rule.severity])]
    cannot = screening.answer("cannot_lie")
    names = {"prone": "the front", "supine": "the back", "left_side": "the left side", "right_side": "the right side"}
    if isinstance(cannot, tuple):
        strip += [f"Cannot lie on {names[str(position)]}" for position in cannot]
    return tuple(dict.fromkeys(strip))


def _nothing_answered(rule: Rule, screening: Screening) -> bool:
    """A rule about the places of an answer has nothing to say where the answer names none."""
    return rule.touches.answered and rule.when is not None and screening.answer(str(rule.when.question)) is True


def sides_of(side: StopSide) -> tuple[Side, ...]:
    """The sides a stop is worked on; the midline is drawn as left."""
    return ("left", "right") if side == "both" else ("right",) if side == "right" else ("left",)
