"""Staff: invited, given a role, let in again after a lost password, and leaving with nothing lost."""

import uuid
from dataclasses import dataclass
from datetime import datetime

from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.message import message
from acuthesis.services.practice import notices
from acuthesis.services.practice.sign_in import check_new_password
from acuthesis.services.request.clock import now
from acuthesis.services.request.errors import LinkSpent
from acuthesis.services.request.here import Here
from acuthesis.services.request.roles import HOLDS_VISITS, POWERS, Role
from acuthesis.store import access, booking, links, people
from acuthesis.store.database import see_practice, transaction
from acuthesis.store.model import AuditRow, OneTimeLinkRow, PracticeRow, PractitionerRow

SPENT = message("staff-link-been-used-or-expired")
LAST_OWNER = message("staff-practice-needs-owner-make-someone")


@dataclass(frozen=True)
class Made:
    """A link that was just made: its token, which is shown once, and until when it holds."""

    token: str
    until: datetime


def invite(here: Here, name: str, email: str, role: Role) -> Made:
    """A link by which somebody joins the practice. Raises: CoreError if the email is in use."""
    if access.account(here.db, email) is not None:
        raise CoreError(message("staff-email-already-used-another-account"), where="email")
    token, until = links.make(
        here.db,
        here.practice_id,
        "invitation",
        now(),
        name=name,
        email=email.strip().lower(),
        role=role,
        made_by=here.practitioner.id,
    )
    here.audit(None, f"invited {name} as {role}")
    return Made(token, until)


def withdraw_invitation(here: Here, link_id: uuid.UUID) -> None:
    """An invitation that was not used holds no longer. Raises: NotFound."""
    row = links.withdraw(here.db, link_id, now())
    here.audit(None, f"invitation of {row.name} withdrawn")


def read_link(token: str) -> tuple[OneTimeLinkRow, str]:
    """What a link is for, and the name of its practice (none yet before set-up). Raises: LinkSpent."""
    with transaction() as db:
        row = links.look(db, token, now())
        if row is None:
            raise LinkSpent(SPENT, where="token")
        practice = db.get(PracticeRow, row.practice_id)
        return row, practice.name if practice else ""


def accept_invitation(token: str, name: str, password: str) -> access.Account:
    """Join a practice by an invitation. Raises: LinkSpent; CoreError for a poor password or an email in use."""
    with transaction() as db:
        link = links.spend(db, token, now())
        if link is None or link.kind != "invitation" or link.role is None:
            raise LinkSpent(SPENT, where="token")
        check_new_password(password, link.email)
        row = access.add_practitioner(db, link.practice_id, name, link.email, password, link.role)
        db.add(AuditRow(practice_id=row.practice_id, practitioner_id=row.id, action="joined the practice"))
        return access.Account(row.id, row.practice_id, row.password_hash or "")


def reset_link(here: Here, practitioner_id: uuid.UUID) -> Made:
    """A link by which a colleague chooses a new password; earlier ones hold no longer. Raises: NotFound, NotAllowed."""
    row = access.colleague(here.db, practitioner_id)
    if row.email is None:
        raise NotAllowed(message("staff-no-account-here", name=row.name), where="practitioner_id")
    links.withdraw_resets(here.db, row.id, now())
    token, until = links.make(
        here.db, here.practice_id, "reset", now(), practitioner_id=row.id, made_by=here.practitioner.id
    )
    here.audit(None, f"password reset link created for {row.name}")
    return Made(token, until)


def reset(token: str, password: str) -> access.Account:
    """Choose a new password by a link; every browser of theirs is signed out. Raises: LinkSpent, CoreError."""
    with transaction() as db:
        link = links.spend(db, token, now())
        if link is None or link.kind != "reset" or link.practitioner_id is None:
            raise LinkSpent(SPENT, where="token")
        row = access.practitioner(db, link.practitioner_id, lock=True)
        if row.email is None:
            raise LinkSpent(SPENT, where="token")
        check_new_password(password, row.email)
        row.password_hash = access.PASSWORDS.hash(password)
        row.wrong_pins = 0
        access.end_sessions(db, row.id)
        notices.add(db, row, "password_changed")
        db.add(AuditRow(practice_id=row.practice_id, practitioner_id=row.id, action="password reset by link"))
        return access.Account(row.id, row.practice_id, row.password_hash)


def set_password(email: str, password: str, second_factor_off: bool = False) -> str:
    """Give an account a new password, from the machine itself. Returns whose it is. Raises: CoreError."""
    with transaction() as db:
        found = access.account(db, email)
        if found is None:
            raise CoreError(message("staff-no-one-signs-with-here", email=email), where="email")
        check_new_password(password, email)
        see_practice(db, found.practice_id)
        row = access.practitioner(db, found.practitioner_id, lock=True)
        row.password_hash = access.PASSWORDS.hash(password)
        if second_factor_off:
            remove_second_factor(row)
        row.wrong_pins = 0
        access.end_sessions(db, row.id)
        links.withdraw_resets(db, row.id, now())
        notices.add(db, row, "password_changed")
        db.add(AuditRow(practice_id=row.practice_id, practitioner_id=row.id, action="password set on the server"))
        return row.name


def remove_second_factor(row: PractitionerRow) -> None:
    """Forget a second factor and its recovery codes."""
    row.totp_secret, row.totp_since, row.recovery_hashes = None, None, []
    row.wrong_codes, row.codes_stopped_at = 0, None


def change_role(here: Here, practitioner_id: uuid.UUID, role: Role) -> None:
    """Give a colleague another role. Raises: NotFound; NotAllowed for the last owner, or whoever holds visits."""
    row = access.colleague(here.db, practitioner_id, lock=True)
    if row.email is None:
        raise NotAllowed(message("staff-no-account-here", name=row.name), where="practitioner_id")
    if row.role == "owner" and role != "owner":
        _keep_an_owner(here, row)
    if role not in HOLDS_VISITS and _has_work(here, row):
        raise NotAllowed(message("staff-responsible-people-or-upcoming-appointments", name=row.name), where="role")
    row.role = role
    if "book" not in POWERS[role]:
        row.calendar_hash = None  # what the role no longer shows, the feed shows no longer either
    here.audit(None, f"{row.name} is now {role}")


def close_account(here: Here, practitioner_id: uuid.UUID, hand_over_to: uuid.UUID | None) -> None:
    """Somebody leaves: their account is closed, their name stays on what they did, their people go to a colleague.

    Raises: NotFound; NotAllowed for the last owner, or where nobody is named to take their people and appointments.
    """
    row = access.colleague(here.db, practitioner_id, lock=True)
    if row.email is None:
        raise NotAllowed(message("staff-no-account-here", name=row.name), where="practitioner_id")
    if row.role == "owner":
        _keep_an_owner(here, row)
    if hand_over_to is not None:
        hand_over(here, row, hand_over_to)
    elif _has_work(here, row):
        raise NotAllowed(
            message("staff-responsible-people-or-upcoming-appointments-a", name=row.name),
            where="hand_over_to",
        )
    access.end_sessions(here.db, row.id)
    links.withdraw_resets(here.db, row.id, now())
    row.email = row.password_hash = row.calendar_hash = row.pin_hash = None
    remove_second_factor(row)
    row.closed_at = now()
    here.audit(None, f"account of {row.name} closed")


def hand_over(here: Here, row: PractitionerRow, to: uuid.UUID) -> None:
    """Somebody's people and appointments to come go to a colleague. Raises: NotFound, NotAllowed."""
    colleague = access.colleague(here.db, to)
    if colleague.id == row.id or colleague.email is None or colleague.role not in HOLDS_VISITS:
        raise NotAllowed(message("staff-cannot-take-over-people", name=colleague.name), where="hand_over_to")
    people.hand_over(here.db, row.id, colleague.id)
    booking.hand_over(here.db, row.id, colleague.id, now())
    here.audit(None, f"{row.name}'s people and appointments handed over to {colleague.name}")


def _has_work(here: Here, row: PractitionerRow) -> bool:
    return bool(people.in_charge_of(here.db).get(row.id)) or bool(
        booking.to_come_by_practitioner(here.db, now()).get(row.id)
    )


def _keep_an_owner(here: Here, row: PractitionerRow) -> None:
    if [owner.id for owner in access.owners(here.db)] == [row.id]:
        raise NotAllowed(LAST_OWNER, where="practitioner_id")
