"""Staff, as an owner manages them, and one-time links for invitations and lost passwords."""

import uuid
from datetime import datetime
from typing import Literal

from fastapi import APIRouter, Depends, Request, Response
from pydantic import BaseModel, ConfigDict

from acuthesis.api.access import OWN_TRANSACTION, SIGNS_IN, Booking, Me, Owner, Password, let_in, same_origin
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import Line
from acuthesis.core.compose.knowledge.layer import shipped
from acuthesis.core.errors import NotAllowed
from acuthesis.core.message import message
from acuthesis.services.practice import notices, staff
from acuthesis.services.request.clock import now
from acuthesis.services.request.roles import HOLDS_VISITS, Role
from acuthesis.store import access, booking, links, people

router = APIRouter(route_class=StrictRoute, tags=["staff"])


class _In(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Colleague(BaseModel):
    """Somebody who works or worked here. `treats`: appointments can be booked with them."""

    id: uuid.UUID
    name: str
    role: Role
    treats: bool


class Member(BaseModel):
    """Somebody who works or worked here, as an owner sees them."""

    id: uuid.UUID
    name: str
    email: str
    role: Role
    open: bool
    closed_at: datetime | None
    second_factor: bool
    people: int
    appointments: int


class Invitation(BaseModel):
    """An invitation that nobody has used yet."""

    id: uuid.UUID
    name: str
    email: str
    role: Role
    until: datetime


class Staff(BaseModel):
    """Everybody who works or worked here, and who is invited."""

    members: list[Member]
    invitations: list[Invitation]


class Invite(_In):
    """Whom to invite, and as what."""

    name: Line
    email: Line
    role: Role


class Link(BaseModel):
    """A one-time link: its token, shown once, and until when it holds. The page is /join, or /new-password."""

    token: str
    until: datetime


class NewRole(_In):
    """Another role."""

    role: Role


class Successor(_In):
    """Who takes over the people and appointments of somebody who leaves."""

    hand_over_to: uuid.UUID | None = None


class Token(_In):
    """The token of a one-time link."""

    token: Line


class LinkIsFor(BaseModel):
    """What a one-time link is for. `practice` is empty where one is to be set up."""

    kind: Literal["set_up", "invitation", "reset"]
    practice: str
    name: str
    email: str
    role: Role | None
    schools: dict[str, str]  # names by id, of which a practice that is set up chooses


class Join(Token):
    """Joining a practice by an invitation."""

    name: Line
    password: Password


class Reset(Token):
    """A new password by a link."""

    password: Password


@router.get("/practitioners")
def list_practitioners(here: Booking) -> list[Colleague]:
    """Everybody who works or worked in the practice, by name."""
    return [
        Colleague(id=row.id, name=row.name, role=row.role, treats=row.email is not None and row.role in HOLDS_VISITS)
        for row in here.colleagues
    ]


@router.get("/staff")
def read_staff(here: Owner) -> Staff:
    """Everybody who works or worked here, and who is invited."""
    charges, coming = people.in_charge_of(here.db), booking.to_come_by_practitioner(here.db, now())
    return Staff(
        members=[
            Member(
                id=row.id,
                name=row.name,
                email=row.email or "",
                role=row.role,
                open=row.email is not None,
                closed_at=row.closed_at,
                second_factor=row.totp_since is not None,
                people=charges.get(row.id, 0),
                appointments=coming.get(row.id, 0),
            )
            for row in here.colleagues
        ],
        invitations=[
            Invitation(id=row.id, name=row.name, email=row.email, role=row.role or "reader", until=row.expires_at)
            for row in links.open_invitations(here.db, now())
        ],
    )


@router.post("/staff/invitations", status_code=201)
def invite(wanted: Invite, here: Owner) -> Link:
    """Invite somebody: whoever opens the link chooses a password and is in."""
    made = staff.invite(here, wanted.name, wanted.email, wanted.role)
    return Link(token=made.token, until=made.until)


@router.delete("/staff/invitations/{link_id}", status_code=204)
def withdraw_invitation(link_id: uuid.UUID, here: Owner) -> None:
    """Withdraw an invitation that nobody has used."""
    staff.withdraw_invitation(here, link_id)


@router.patch("/staff/{practitioner_id}")
def change_role(practitioner_id: uuid.UUID, wanted: NewRole, here: Owner) -> Staff:
    """Give somebody another role."""
    staff.change_role(here, practitioner_id, wanted.role)
    return read_staff(here)


@router.post("/staff/{practitioner_id}/reset-link", status_code=201)
def make_reset_link(practitioner_id: uuid.UUID, here: Owner) -> Link:
    """A link by which somebody chooses a new password."""
    made = staff.reset_link(here, practitioner_id)
    return Link(token=made.token, until=made.until)


@router.post("/staff/{practitioner_id}/second-factor-off")
def remove_second_factor_of(practitioner_id: uuid.UUID, here: Owner) -> Staff:
    """Forget somebody's second factor: their phone is lost, and the recovery codes with it."""
    row = access.colleague(here.db, practitioner_id, lock=True)
    if row.id == here.practitioner.id:
        raise NotAllowed(message("staff-turn-off-your-own-two"), where="practitioner_id")
    staff.remove_second_factor(row)
    notices.add(here.db, row, "factor_off", here.browser)
    here.audit(None, f"two-step verification of {row.name} turned off")
    here.db.flush()
    return read_staff(here)


@router.post("/staff/{practitioner_id}/close")
def close_account(practitioner_id: uuid.UUID, wanted: Successor, here: Owner) -> Staff:
    """Close the account of somebody who leaves. Their name stays on what they did."""
    if practitioner_id == here.practitioner.id:
        raise NotAllowed(message("staff-leave-practice-from-your-own"), where="practitioner_id")
    staff.close_account(here, practitioner_id, wanted.hand_over_to)
    here.db.flush()
    return read_staff(here)


@router.post("/links/look", dependencies=[*OWN_TRANSACTION, Depends(same_origin)])
def read_link(wanted: Token) -> LinkIsFor:
    """What a one-time link is for, as long as it holds."""
    row, practice = staff.read_link(wanted.token)
    schools = {id: school.name for id, school in shipped().schools.items()} if row.kind == "set_up" else {}
    return LinkIsFor(kind=row.kind, practice=practice, name=row.name, email=row.email, role=row.role, schools=schools)


@router.post("/links/join", dependencies=SIGNS_IN)
def accept_invitation(wanted: Join, request: Request, response: Response) -> Me:
    """Join the practice that a link invites to, and be signed in."""
    return let_in(staff.accept_invitation(wanted.token, wanted.name, wanted.password), request, response)


@router.post("/links/reset", status_code=204, dependencies=SIGNS_IN)
def reset_password(wanted: Reset) -> None:
    """Choose a new password by a link. Every browser is signed out; sign in with the new one."""
    staff.reset(wanted.token, wanted.password)
