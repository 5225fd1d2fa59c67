"""The standing rules, shipped and a practice's own: loaded, checked, and matched against a person's answers."""

from collections.abc import Iterable, Iterator
from functools import lru_cache

from acuthesis.core.atlas.entries.catalogue import entry, part_names, sites
from acuthesis.core.body.figure import SIDES
from acuthesis.core.errors import CoreError, UnknownId
from acuthesis.core.message import message
from acuthesis.core.safety.body_parts import joints, limbs, quarters
from acuthesis.core.safety.rule import Asked, Condition, Rule, written_rules
from acuthesis.core.safety.screening import Screening, questions


@lru_cache
def rules() -> tuple[Rule, ...]:
    """All standing rules. Raises: UnknownId if one mentions a question or place that does not exist.

    >>> rules()[0].id
    'never_pressed'
    """
    for rule in written_rules():
        check_rule(rule)
    return written_rules()


def rules_for(screening: Screening) -> tuple[Rule, ...]:
    """The rules that can speak for a person: the standing ones, and those of the practice."""
    return (*rules(), *screening.house)


def check_rule(rule: Rule) -> None:
    """Raises: UnknownId if a rule mentions a question, point, part, site, quarter or joint that does not exist."""
    asked = (rule.when, *rule.when.inner()) if rule.when is not None else ()
    named = [*rule.until_answered, *(one.question for one in asked), *(one.same_limb_as for one in asked)]
    for question in named:
        if question is not None and question not in questions():
            raise UnknownId(
                message("standing-rule-asks-which-no-question", id=rule.id, question=question), where=rule.id
            )
    for place in (place for one in asked for place in one.places):
        if place not in sites() and place not in part_names():
            raise UnknownId(message("standing-rule-asks-which-no-place", id=rule.id, place=place), where=rule.id)
    touches = rule.touches
    for id in touches.ids:
        entry(id)
    for names, known in (
        (touches.sites, sites()),
        (touches.parts, part_names()),
        (touches.quarters, quarters()),
        (touches.joints, joints()),
    ):
        for name in names:
            if name not in known:
                raise UnknownId(message("standing-rule-touches-which-does-not", id=rule.id, name=name), where=rule.id)


def house_rules(rows: Iterable[Rule]) -> tuple[Rule, ...]:
    """A practice's own rules, checked. They are added to the standing ones, so they can tighten and never loosen.

    Raises: UnknownId; CoreError for an id that is taken.
    """
    standing = {rule.id for rule in rules()}
    own = tuple(rows)
    for rule in own:
        check_rule(rule)
        if rule.id in standing:
            raise CoreError(message("standing-standing-rule-give-your-own", id=rule.id), where=rule.id)
    if len({rule.id for rule in own}) != len(own):
        raise CoreError(message("standing-two-rules-have-same-id"), where="rules")
    return own


def awake(rule: Rule, screening: Screening) -> bool:
    """Whether a rule speaks for this person. A rule for answers without a place sleeps where the place was told.

    >>> from acuthesis.core.safety.screening import parse_screening
    >>> table = {rule.id: rule for rule in rules()}
    >>> awake(table["pregnancy_prone"], parse_screening({"pregnancy_weeks": 12}))
    False
    >>> awake(table["pregnancy_prone"], parse_screening({"pregnancy_weeks": 13}))
    True
    """
    if rule.when is None:
        return True
    if rule.unplaced and not any(screening.answer(question) is True for question in rule.when.questions):
        return False
    if any(screening.was_asked(question) for question in rule.until_answered):
        return False
    return holds(rule.when, screening)


def holds(condition: Condition, screening: Screening) -> bool:
    """Whether a condition is met by a person's age (years) or answers. Nobody asked, or no age: not met."""
    own = any(_met(one, screening) for one in condition.either) if condition.either else _met(condition, screening)
    return (
        own
        and all(_met(one, screening) for one in condition.also)
        and (not condition.also_either or any(_met(one, screening) for one in condition.also_either))
        and not any(_met(one, screening) for one in condition.unless)
    )


def _met(asked: Asked, screening: Screening) -> bool:
    if asked.age_over is not None:
        return screening.age is not None and screening.age > asked.age_over
    if asked.age_under is not None:
        return screening.age is not None and screening.age < asked.age_under
    if asked.sex is not None:
        return screening.sex == asked.sex
    if asked.complaint:
        sides = [screening.complaints[id] for id in asked.complaint if id in screening.complaints]
        return any(asked.complaint_side in (None, side) for side in sides)
    if asked.question is None:
        return True
    answer = screening.answer(asked.question)
    if answer is None or answer is False:
        return False
    if asked.reading is not None:
        return any(measured >= limit for measured, limit in _pairs(answer, asked.reading))
    if asked.reading_under is not None:
        return any(measured <= limit for measured, limit in _pairs(answer, asked.reading_under))
    if asked.choice:
        return answer in asked.choice
    if asked.places and not any(name in asked.places for name, _ in screening.named_places(asked.question)):
        return False
    if asked.same_limb_as is not None and not (
        _limbs(screening, asked.question) & _limbs(screening, asked.same_limb_as)
    ):
        return False
    if asked.at_least is not None and not (isinstance(answer, int) and answer >= asked.at_least):
        return False
    return asked.at_most is None or (isinstance(answer, int) and answer <= asked.at_most)


def _limbs(screening: Screening, question: str) -> set[tuple[str, str]]:
    """The limbs that an answer names or paints places on, each with its side."""
    found = set()
    for name, side in screening.named_places(question):
        part = sites()[name]["part"] if name in sites() else name
        for limb, parts in limbs().items():
            if part in parts:
                found |= {(limb, one) for one in ((side,) if side else SIDES)}
    return found


def _pairs(answer: object, limits: tuple[int, int]) -> Iterator[tuple[int, int]]:
    for measured, limit in zip(answer, limits, strict=True) if isinstance(answer, tuple) else ():
        if isinstance(measured, int):
            yield measured, limit
