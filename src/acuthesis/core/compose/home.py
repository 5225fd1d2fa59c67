"""The home set: a few points that the person reaches alone, light enough to be safe without a practitioner."""

from pydantic import BaseModel

from acuthesis.core.atlas.catalogue import entry
from acuthesis.core.compose.knowledge import complaint_kind
from acuthesis.core.safety.rules import limits_for
from acuthesis.core.safety.screening import Screening

MOST = 4
HOME_LEVEL = 2  # nobody watches at home
HOLD_S = 30
TIMES_A_DAY = 2


class HomePoint(BaseModel):
    """One point of the home set."""

    id: str
    name: str
    side: str
    level: int
    seconds: int
    why: str


def home_set(complaint_ids: list[str], screening: Screening) -> list[HomePoint]:
    """Up to four points or areas for the complaints, best first, none that is refused on either side."""
    worth: dict[str, tuple[float, str]] = {}
    for id in complaint_ids:
        kind = complaint_kind(id)
        for use in kind.uses:
            known = worth.get(use.id, (0.0, f"{kind.name}: {use.why[0].lower()}{use.why[1:]}."))
            worth[use.id] = (known[0] + use.weight, known[1])
    points = []
    for id, (_, why) in sorted(worth.items(), key=lambda row: (-row[1][0], row[0])):
        target = entry(id)
        limits = limits_for(target, target.whole, screening)
        one_sided = target.whole == "both" and any(limits_for(target, side, screening).refused for side in target.sides)
        # A back point is in no hand's reach for half a minute, whatever a supple person manages.
        if limits.refused or one_sided or not target.reach.alone or target.region == "low back":
            continue
        points.append(
            HomePoint(
                id=id,
                name=target.names.english,
                side=target.whole,
                level=min(HOME_LEVEL, limits.ceiling),
                seconds=HOLD_S,
                why=why,
            )
        )
    return points[:MOST]
