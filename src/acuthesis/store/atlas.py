"""A practice's own points and areas, findings on its people, and search that tolerates misspellings."""

import uuid
from collections.abc import Iterable
from typing import Any

from sqlalchemy import Engine, func, select, text

from acuthesis.core.message import message
from acuthesis.store.database import Db
from acuthesis.store.model import FindingRow, OwnEntryRow, PracticeRow
from acuthesis.store.people import Conflict, NotFound

MOST_OWN = 500
NEAR = 0.45  # word similarity from which a text is a near miss: one or two letters off in a name


def own_rows(db: Db) -> list[OwnEntryRow]:
    """The practice's own points and areas, by id."""
    return list(db.scalars(select(OwnEntryRow).order_by(OwnEntryRow.entry)))


def save_own(db: Db, practice_id: uuid.UUID, row: dict[str, Any], version: int | None) -> OwnEntryRow:
    """Keep an own entry: a new one with no version, a change with the version that the caller saw. Raises: Conflict."""
    # One at a time in a practice, so that two windows cannot both be told that there was room.
    db.execute(select(PracticeRow.id).where(PracticeRow.id == practice_id).with_for_update())
    found = db.scalar(select(OwnEntryRow).where(OwnEntryRow.entry == row["id"]))
    if (found.version if found else None) != version:
        said = "no longer exists" if found is None else "already exists, or was changed in another window"
        raise Conflict(message("atlas-reload-try-again-nothing-overwritten", row=row["id"], said=said), where="version")
    if found is None:
        if db.scalar(select(func.count()).select_from(OwnEntryRow)) == MOST_OWN:
            raise Conflict(message("atlas-practice-have-up-points-areas", most_own=MOST_OWN), where="id")
        found = OwnEntryRow(practice_id=practice_id, entry=row["id"], version=1, row=row)
        db.add(found)
    else:
        found.row, found.version = row, found.version + 1
        found.changed_at = func.now()
    db.flush()
    return found


def delete_own(db: Db, entry: str, version: int) -> None:
    """Remove an own entry. Raises: NotFound, Conflict if it was changed since."""
    found = db.scalar(select(OwnEntryRow).where(OwnEntryRow.entry == entry))
    if found is None:
        raise NotFound(message("atlas-there-no-own-point-or", entry=entry), where="id")
    if found.version != version:
        raise Conflict(message("atlas-changed-another-window-reload-try", entry=entry), where="version")
    db.delete(found)
    db.flush()


def findings_of(db: Db, person_id: uuid.UUID) -> list[FindingRow]:
    """What was found on a person, oldest first."""
    wanted = select(FindingRow).where(FindingRow.person_id == person_id).order_by(FindingRow.at, FindingRow.id)
    return list(db.scalars(wanted))


def near_misses(db: Db, wanted: str, limit: int) -> list[str]:
    """Ids of shipped entries with a text that is nearly what was typed, the nearest first (trigrams)."""
    db.execute(text("SELECT set_config('pg_trgm.word_similarity_threshold', :near, true)"), {"near": str(NEAR)})
    found = db.execute(
        text(
            "SELECT entry, max(greatest(word_similarity(:wanted, text), word_similarity(:packed, text))) AS near "
            "FROM atlas_text WHERE :wanted <% text OR :packed <% text "
            "GROUP BY entry ORDER BY near DESC, entry LIMIT :limit"
        ),
        {"wanted": wanted, "packed": wanted.replace(" ", ""), "limit": limit},
    )
    return [row.entry for row in found]


def fill_texts(owner: Engine, rows: Iterable[tuple[str, str]]) -> None:
    """Put the texts of the shipped atlas (entry, text) into the table that near misses are looked for in."""
    wanted = set(rows)
    with owner.begin() as connection:
        connection.execute(text("LOCK TABLE atlas_text IN EXCLUSIVE MODE"))
        if {(row.entry, row.text) for row in connection.execute(text("SELECT entry, text FROM atlas_text"))} == wanted:
            return
        connection.execute(text("DELETE FROM atlas_text"))
        connection.execute(
            text("INSERT INTO atlas_text (entry, text) VALUES (:entry, :text)"),
            [{"entry": entry, "text": known} for entry, known in sorted(wanted)],
        )
