"""Authorisation. A role is a set of powers; every endpoint asks for one of them."""

from typing import Literal

from acuthesis.services.request.errors import Forbidden

Role = Literal["owner", "practitioner", "helper", "reader"]
Power = Literal["read_health", "write_health", "book", "manage"]

POWERS: dict[Role, frozenset[Power]] = {
    "owner": frozenset({"read_health", "write_health", "book", "manage"}),
    "practitioner": frozenset({"read_health", "write_health", "book"}),
    "helper": frozenset({"book"}),
    "reader": frozenset({"read_health"}),
}
REFUSED: dict[Power, str] = {
    "read_health": "Your role cannot see health records. An owner of the practice can change it.",
    "write_health": "Your role cannot change health records. An owner of the practice can change it.",
    "book": "Your role cannot manage appointments. An owner of the practice can change it.",
    "manage": "Only an owner of the practice can do this.",
}
HOLDS_VISITS: tuple[Role, ...] = ("owner", "practitioner")


def require(role: Role, power: Power) -> None:
    """Raises: Forbidden if the role does not have the power."""
    if power not in POWERS[role]:
        raise Forbidden(REFUSED[power])
