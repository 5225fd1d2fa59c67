"""Migrates a database to a revision. Separate, because the server never migrates and need not load Alembic."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Connection, text

from acuthesis.store.database import engine


def migrations(connection: Connection, app_role: str) -> Config:
    """Alembic's configuration over a connection; `app_role` is what the application signs in as."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.attributes["connection"] = connection
    config.attributes["app_role"] = app_role
    return config


def migrate(url: str, app_role: str, revision: str = "head") -> None:
    """Bring the database to a revision, up or down, as its owner; rights go to `app_role`."""
    with engine(url).connect() as connection:
        current = connection.execute(text("SELECT to_regclass('alembic_version')")).scalar()
        connection.commit()
        config = migrations(connection, app_role)
        if current is not None and revision == "base":
            command.downgrade(config, revision)
        else:
            command.upgrade(config, revision)
        connection.commit()
