"""What soreness may mean where it is found, on this person: look, ask, or send to a doctor (soreness.yaml)."""

from functools import lru_cache

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from acuthesis.core.atlas.entries.catalogue import sites
from acuthesis.core.data_file import read
from acuthesis.core.errors import UnknownId
from acuthesis.core.message import message
from acuthesis.core.safety.rule import DATA, Condition
from acuthesis.core.safety.screening import Screening
from acuthesis.core.safety.standing import holds


class Meaning(BaseModel):
    """What is said from a soreness (0 to 10) on."""

    model_config = ConfigDict(frozen=True)

    at_least: int = Field(ge=1, le=10)
    say: str


class _Row(Meaning):
    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    sites: tuple[str, ...]
    when: Condition | None = None


@lru_cache
def _table() -> tuple[_Row, ...]:
    """Raises: UnknownId for a site that does not exist."""
    rows = TypeAdapter(tuple[_Row, ...]).validate_python(read(DATA / "soreness.yaml"))
    for row in rows:
        for site in row.sites:
            if site not in sites():
                raise UnknownId(message("soreness-soreness-yaml-names-which-does", site=site), where=row.id)
    return rows


def meanings(site: str, screening: Screening) -> tuple[Meaning, ...]:
    """What soreness at a site may mean for this person, the least soreness first; none where it is only soreness.

    >>> meanings("calf", Screening())[0].at_least
    5
    >>> meanings("hand_back", Screening())
    ()
    """
    found = [
        Meaning(at_least=row.at_least, say=row.say)
        for row in _table()
        if site in row.sites and (row.when is None or holds(row.when, screening))
    ]
    return tuple(sorted(found, key=lambda one: one.at_least))
