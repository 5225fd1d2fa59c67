"""Creates roles and a database on a server that we administer, and migrates it to the newest revision."""

import os

from sqlalchemy import create_engine, make_url, select, text

from acuthesis.core.atlas.entries.catalogue import entries
from acuthesis.core.atlas.entries.search import WHERE, texts
from acuthesis.store import treatments
from acuthesis.store.access import reseal
from acuthesis.store.atlas import fill_texts
from acuthesis.store.database import Db, engine, see_practice, transaction
from acuthesis.store.migrate import migrate
from acuthesis.store.model import PractitionerRow, VisitRow


def ensure_database(admin_url: str, owner_url: str, app_url: str) -> None:
    """Make the owner's and the application's role and the owner's database if they are missing, then migrate.

    The application's role owns nothing and cannot pass row-level security.
    """
    owner, app = make_url(owner_url), make_url(app_url)
    admin = create_engine(admin_url, isolation_level="AUTOCOMMIT")
    try:
        with admin.connect() as connection:
            # One at a time: two test workers may come here together.
            connection.execute(text("SELECT pg_advisory_lock(8714)"))
            for role in (owner, app):
                known = connection.execute(text("SELECT 1 FROM pg_roles WHERE rolname = :r"), {"r": role.username})
                if known.scalar() is None:
                    # Role names and passwords are our own (letters, digits, - and _), made by the launcher.
                    connection.exec_driver_sql(
                        f"CREATE ROLE \"{role.username}\" LOGIN NOSUPERUSER NOBYPASSRLS PASSWORD '{role.password}'"
                    )
            known = connection.execute(text("SELECT 1 FROM pg_database WHERE datname = :d"), {"d": owner.database})
            if known.scalar() is None:
                connection.exec_driver_sql(f'CREATE DATABASE "{owner.database}" OWNER "{owner.username}"')
            connection.execute(text("SELECT pg_advisory_unlock(8714)"))
    finally:
        admin.dispose()
    migrate(owner_url, str(app.username))
    _fill_felt(owner_url)
    names = ((entry.id, known) for entry in entries() for weight, known in texts(entry) if weight >= WHERE)
    fill_texts(engine(owner_url), names)


def _fill_felt(owner_url: str) -> None:
    """Note with visits of earlier versions what their treatments say, as it is noted with every event since."""
    with transaction(url=owner_url) as db:
        # The owner sees practitioners, which is how practices are found; everything else one practice at a time.
        for practice_id in db.scalars(select(PractitionerRow.practice_id).distinct()).all():
            see_practice(db, practice_id)
            _seal_what_is_readable(db)
            for row in db.scalars(
                select(VisitRow).where(VisitRow.treatment != "not_begun", VisitRow.felt.is_(None))
            ).all():
                treatments.save_state(row, treatments.treatment(db, row.id))
            db.flush()


def _seal_what_is_readable(db: Db) -> None:
    """Encrypt secrets that an earlier version stored readable."""
    readable = "left(encode(device_key, 'escape'), 7) <> 'sealed:' OR left(totp_secret, 7) <> 'sealed:'"
    if db.scalar(text(f"SELECT count(*) FROM practitioner WHERE {readable}")):  # noqa: S608 - no value in it
        reseal(db)


def ensure_from_environment() -> None:
    """The same with the addresses that the launcher gives to whoever keeps the database, and to nobody else."""
    ensure_database(*(os.environ[f"ACUTHESIS_{role}_URL"] for role in ("ADMIN", "OWNER", "DATABASE")))
