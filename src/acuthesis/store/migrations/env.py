"""Runs migrations over a connection that the caller gives (see store/database.py)."""

from alembic import context

from acuthesis.store.model import Base

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=Base.metadata, compare_type=True)
with context.begin_transaction():
    context.run_migrations()
