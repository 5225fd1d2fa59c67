"""Home sets: a few points that the person reaches alone, light enough to be safe alone; two sets in turn."""

from collections.abc import Sequence

from pydantic import BaseModel

from acuthesis.core.atlas.catalogue import Entry
from acuthesis.core.compose.adapting import adapted
from acuthesis.core.compose.dose import Dose, duration_s, in_words
from acuthesis.core.compose.knowledge import why_of
from acuthesis.core.compose.layer import Knowledge, shipped
from acuthesis.core.compose.score import under_school
from acuthesis.core.safety.limits import limits_for
from acuthesis.core.safety.screening import Screening

MOST = 4
LEAST = 2  # a set of one point is not worth an alternate day
HOME_LEVEL = 2  # nobody watches at home
HOLD_S = 30
TIMES_A_DAY = 2
WEAK_HANDS = ("finger_stiffness", "wrist_hand_overuse")
WEAK_WORDS = "With a rounded handle or the knuckle of the other hand, so that the thumb is spared."


class HomePoint(BaseModel):
    """One point of a set for home: the side, the level (1 to 5), the seconds with their dose, what to press with, and
    why.
    """

    id: str
    name: str
    side: str
    level: int
    seconds: int
    dose: Dose
    dose_words: str
    press_with: str
    why: str


class HomeSet(BaseModel):
    """Points for some days: `days` says which."""

    name: str
    days: str
    times_a_day: int
    points: tuple[HomePoint, ...]


def home_set(complaint_ids: Sequence[str], screening: Screening, knowledge: Knowledge | None = None) -> list[HomePoint]:
    """Up to four points or areas for the complaints, best first, none that is refused on either side."""
    known = knowledge or shipped()
    return [
        _home_point(*found, complaint_ids, screening, known)
        for found in _reachable(complaint_ids, screening, known)[:MOST]
    ]


def home_sets(complaint_ids: Sequence[str], screening: Screening, knowledge: Knowledge | None = None) -> list[HomeSet]:
    """One set for every day, or two in turn where there are points enough for both."""
    known = knowledge or shipped()
    found = _reachable(complaint_ids, screening, known)[: 2 * MOST]
    points = [_home_point(*one, complaint_ids, screening, known) for one in found]
    if len(points) < 2 * LEAST + 1:
        return [HomeSet(name="A", days="every day", times_a_day=TIMES_A_DAY, points=tuple(points[:MOST]))]
    first, second = points[::2][:MOST], points[1::2][:MOST]
    # The point that matters most is pressed every day; the rest take turns.
    second = [points[0], *second][:MOST]
    return [
        HomeSet(name="A", days="on odd days", times_a_day=TIMES_A_DAY, points=tuple(first)),
        HomeSet(name="B", days="on even days", times_a_day=TIMES_A_DAY, points=tuple(second)),
    ]


def _reachable(complaint_ids: Sequence[str], screening: Screening, knowledge: Knowledge) -> list[tuple[Entry, str]]:
    """What the complaints give home, then what else they use, as far as one reaches it alone and may press it."""
    worth: dict[str, tuple[float, str]] = {}
    for id in complaint_ids:
        kind = knowledge.complaint(id)
        if kind.home_emptied:
            continue
        uses = {use.id: use for use in kind.uses if use.ground in ("points", "ear", "reflexes")}
        for place, home_id in enumerate(kind.home):
            target = knowledge.find(home_id)
            why = why_of(uses[home_id], target) if home_id in uses else f"for home, {target.region}"
            known = worth.get(home_id, (0.0, f"{kind.name}: {why}."))
            worth[home_id] = (known[0] + 10 - place, known[1])
        for use in uses.values():
            if use.ground == "points":
                known = worth.get(use.id, (0.0, f"{kind.name}: {why_of(use, knowledge.find(use.id))}."))
                worth[use.id] = (known[0] + use.weight / 10, known[1])
    ranked = sorted(worth.items(), key=lambda row: (-row[1][0], row[0]))
    return [(target, why) for id, (_, why) in ranked if _may(target := knowledge.find(id), screening)]


def _may(target: Entry, screening: Screening) -> bool:
    limits = limits_for(target, target.whole, screening)
    one_sided = target.whole == "both" and any(limits_for(target, side, screening).refused for side in target.sides)
    # A back point is in no hand's reach for half a minute, whatever a supple person manages.
    far = target.region in ("low back", "sacrum", "tailbone")
    return not (limits.refused or one_sided or limits.one_side or not target.reach.alone or far)


def _home_point(
    target: Entry, why: str, complaint_ids: Sequence[str], screening: Screening, knowledge: Knowledge
) -> HomePoint:
    school = knowledge.school("self_care")
    limits = under_school(limits_for(target, target.whole, screening), school)
    default = school.dose_for(target, "main", knowledge.doses)
    usual = default.model_copy(update={"level": min(HOME_LEVEL, default.level)})
    here = adapted(usual, target.whole, limits)
    dose = here.no_longer_than(limits.longest_s)
    contact = target.contact if target.kind == "area" else target.press.contact
    weak = any(id in WEAK_HANDS for id in complaint_ids) and not limits.no_stick
    return HomePoint(
        id=target.id,
        name=target.names.english,
        side=target.whole,
        level=here.level,
        seconds=round(duration_s(dose)),
        dose=dose,
        dose_words=in_words(dose),
        press_with=WEAK_WORDS if weak else contact.replace("_", " "),
        why=why,
    )
