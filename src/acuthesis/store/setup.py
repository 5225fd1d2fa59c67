"""Makes roles and a database on a server that we administer, and brings the database to the newest revision."""

from sqlalchemy import create_engine, make_url, text

from acuthesis.core.atlas.catalogue import entries
from acuthesis.core.atlas.search import WHERE, texts
from acuthesis.store.atlas import fill_texts
from acuthesis.store.database import engine
from acuthesis.store.migrate import migrate


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
                        f"CREATE ROLE {role.username} LOGIN NOSUPERUSER NOBYPASSRLS PASSWORD '{role.password}'"
                    )
            known = connection.execute(text("SELECT 1 FROM pg_database WHERE datname = :d"), {"d": owner.database})
            if known.scalar() is None:
                connection.exec_driver_sql(f'CREATE DATABASE "{owner.database}" OWNER {owner.username}')
            connection.execute(text("SELECT pg_advisory_unlock(8714)"))
    finally:
        admin.dispose()
    migrate(owner_url)
    names = ((entry.id, known) for entry in entries() for weight, known in texts(entry) if weight >= WHERE)
    fill_texts(engine(owner_url), names)
