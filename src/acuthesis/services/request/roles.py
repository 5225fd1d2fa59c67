"""Authorisation. A role is a set of powers; every endpoint asks for one of them."""

from typing import Literal

from acuthesis.core.message import Message, message
from acuthesis.services.request.errors import Forbidden

Role = Literal["owner", "practitioner", "helper", "reader"]
Power = Literal["read_health", "write_health", "book", "manage"]

POWERS: dict[Role, frozenset[Power]] = {
    "owner": frozenset({"read_health", "write_health", "book", "manage"}),
    "practitioner": frozenset({"read_health", "write_health", "book"}),
    "helper": frozenset({"book"}),
    "reader": frozenset({"read_health"}),
}
REFUSED: dict[Power, Message] = {
    "read_health": message("roles-no-reading"),
    "write_health": message("roles-no-writing"),
    "book": message("roles-no-booking"),
    "manage": message("roles-owner-only"),
}
HOLDS_VISITS: tuple[Role, ...] = ("owner", "practitioner")


def require(role: Role, power: Power) -> None:
    """Raises: Forbidden if the role does not have the power."""
    if power not in POWERS[role]:
        raise Forbidden(REFUSED[power])
