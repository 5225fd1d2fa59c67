"""Connections: one engine a process, one transaction a request, and the practice it may see."""

import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from functools import lru_cache

from sqlalchemy import Connection, Engine, create_engine, event, text
from sqlalchemy.orm import Session, SessionTransaction

from acuthesis.settings import settings

# The database in one transaction. A "session" is what happens at the table, or where somebody is signed in.
Db = Session
POOL, OVERFLOW = 8, 8
CONNECTIONS = POOL + OVERFLOW  # at most so many at a time, for each database address of a process
POOL_WAIT_S = 3.0  # for a free connection; then the request is refused as one too many (503)


@lru_cache
def engine(url: str) -> Engine:
    """The engine for a database address. A connection that died is noticed before it is used."""
    return create_engine(
        url,
        pool_pre_ping=True,
        pool_size=POOL,
        max_overflow=OVERFLOW,
        pool_timeout=POOL_WAIT_S,
        hide_parameters=True,  # an error that is logged must not hold what was to be stored
        connect_args={"connect_timeout": 3},
    )


@contextmanager
def transaction(practice_id: uuid.UUID | None = None, url: str | None = None) -> Iterator[Db]:
    """A session in one transaction that sees one practice (or no person at all); all or nothing is kept.

    Whoever commits in between has kept what came before, and the practice stays in sight for what comes after.
    """
    with Db(engine(url or settings().database_url), expire_on_commit=False) as db:
        event.listen(db, "after_begin", _see_again)
        if practice_id is not None:
            see_practice(db, practice_id)
        try:
            yield db
        except BaseException:
            db.rollback()
            raise
        db.commit()


def see_practice(db: Db, practice_id: uuid.UUID) -> None:
    """From here on the database shows this session that practice's rows, and no others."""
    db.info["practice"] = str(practice_id)
    if db.in_transaction():
        _see(db.connection(), str(practice_id))


def _see_again(db: Db, _: SessionTransaction, connection: Connection) -> None:
    practice = db.info.get("practice")
    if practice is not None:
        _see(connection, practice)


def _see(connection: Connection, practice: str) -> None:
    connection.execute(text("SELECT set_config('acuthesis.practice', :id, true)"), {"id": practice})
