"""First aid for this person: how to lay or sit them, whom to call and where to send them."""

from functools import lru_cache

from pydantic import BaseModel, ConfigDict, TypeAdapter

from acuthesis.core.data_file import read
from acuthesis.core.safety.rule import DATA, Condition
from acuthesis.core.safety.screening import Screening
from acuthesis.core.safety.standing import holds

WHO = "who"  # of the table: how the person is named on the phone


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)

    when: Condition | None = None
    text: str


class Help(BaseModel):
    """What goes with a treatment so that it is at hand without the server.

    `lay`: for each need (faint, breathless, …) how this person is laid or sat. `pregnant`: whether questions about a
    pregnancy are asked. `call`: whom the practice calls; `where`: the address that is said on the phone; `who`: how the
    person is named there.
    """

    model_config = ConfigDict(frozen=True)

    lay: dict[str, str] = {}
    pregnant: bool = False
    call: str = ""
    where: str = ""
    who: str = "Somebody"


@lru_cache
def _table() -> dict[str, tuple[_Row, ...]]:
    return TypeAdapter(dict[str, tuple[_Row, ...]]).validate_python(read(DATA / "first_aid.yaml"))


@lru_cache
def usual_help() -> Help:
    """What helps somebody of whom nothing is known."""
    return help_for(Screening())


def needs() -> tuple[str, ...]:
    """What somebody may need to be laid for.

    >>> needs()[:2]
    ('faint', 'breathless')
    """
    return tuple(need for need in _table() if need != WHO)


def help_for(screening: Screening, call: str = "", where: str = "") -> Help:
    """What helps this person.

    Parameters: call, whom the practice calls in an emergency; where, the address of the room.

    >>> from acuthesis.core.safety.screening import parse_screening
    >>> help_for(parse_screening({"pregnancy_weeks": 30})).lay["faint"]
    'Lay them on the left side, legs raised a little.'
    """
    lay = {
        need: next(row.text for row in rows if row.when is None or holds(row.when, screening))
        for need, rows in _table().items()
    }
    who = lay.pop(WHO)
    pregnant = screening.answer("pregnancy_weeks") is not None or bool(screening.answer("might_be_pregnant"))
    return Help(lay=lay, pregnant=pregnant, call=call, where=where, who=who)
