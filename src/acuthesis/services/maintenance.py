"""Maintenance as the database's owner: after a restore, the ledger of erasures, the audit, and key rotation."""

import os
import uuid
from collections.abc import Iterator
from contextlib import contextmanager

from sqlalchemy import select, text

from acuthesis.services.people import erasure
from acuthesis.store import access, audit
from acuthesis.store.database import Db, see_practice, transaction
from acuthesis.store.model import PractitionerRow

# What opened something when the dump was made: a cookie, a link or a code that was revoked since would open it again.
REVOKED = (
    "DELETE FROM auth_session",
    "DELETE FROM device",
    "DELETE FROM reading_grant",
    "UPDATE one_time_link SET used_at = now() WHERE used_at IS NULL",
    "UPDATE own_say SET ended_at = now(), code_hash = NULL WHERE ended_at IS NULL",
    "UPDATE diary SET ended_at = now() WHERE ended_at IS NULL",
    "UPDATE practitioner SET calendar_hash = NULL",
)


@contextmanager
def _as_owner() -> Iterator[tuple[Db, list[uuid.UUID]]]:
    """The database as the owner of its tables, and the practices in it. One practice at a time is in sight."""
    with transaction(url=os.environ["ACUTHESIS_OWNER_URL"]) as db:
        yield db, list(db.scalars(select(PractitionerRow.practice_id).distinct()).all())


def bring_ledger_up_to_date() -> str:
    """Write into the ledger what the audit says was erased."""
    with _as_owner() as (db, practices):
        erasure.note_from_audit(db, practices)
    return "up to date"


def after_restore() -> str:
    """Erase again what the ledger lists, and end every session, link, code, diary and calendar feed. Returns what was
    done, in a line."""
    erased = erasure.erase_again()
    with _as_owner() as (db, practices):
        for practice in practices:
            see_practice(db, practice)
            for statement in REVOKED:
                db.execute(text(statement))
            said = "restored from a dump: sessions, links, codes, diaries and calendar feeds ended"
            db.execute(
                text("INSERT INTO audit (practice_id, action) VALUES (:practice, :action)"),
                {"practice": practice, "action": said},
            )
    records = "1 record was" if erased == 1 else f"{erased} records were"
    return (
        f"Everyone is signed out; links, codes, diaries and calendar feeds have ended. {records} erased again that had "
        "been erased since the dump."
    )


def reseal_all() -> str:
    """Encrypt every secret with the newest key."""
    count = 0
    with _as_owner() as (db, practices):
        for practice in practices:
            see_practice(db, practice)
            count += access.reseal(db)
    return f"The secrets of {count} accounts are encrypted with the new key."


def verify_audit() -> str:
    """Verify the audit of every practice. Returns a line for each: entries and newest hash, or where it is broken."""
    lines = []
    with _as_owner() as (db, practices):
        for practice in practices:
            see_practice(db, practice)
            broken = audit.broken_at(db, practice)
            number, newest = audit.newest_hash(db, practice)
            if broken is None:
                lines.append(f"{practice}: {number} entries, unchanged. Newest hash: {newest}")
            else:
                lines.append(
                    f"{practice}: CHANGED from entry {broken.number} on ({broken.at:%Y-%m-%d %H:%M}, {broken.action})"
                )
    return "\n".join(lines) or "There is no practice here yet."
