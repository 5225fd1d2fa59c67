"""Connections: one engine a process, one transaction a request, and the practice it may see."""

import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from functools import lru_cache

from sqlalchemy import Connection, Engine, create_engine, event, text
from sqlalchemy.orm import Session, SessionTransaction

from acuthesis.settings import settings


@lru_cache
def engine(url: str) -> Engine:
    """The engine for a database address. A connection that died is noticed before it is used."""
    return create_engine(url, pool_pre_ping=True, pool_size=8, max_overflow=8, connect_args={"connect_timeout": 3})


@contextmanager
def transaction(practice_id: uuid.UUID | None = None, url: str | None = None) -> Iterator[Session]:
    """A session in one transaction that sees one practice (or no person at all); all or nothing is kept.

    Whoever commits in between has kept what came before, and the practice stays in sight for what comes after.
    """
    with Session(engine(url or settings().database_url), expire_on_commit=False) as session:
        event.listen(session, "after_begin", _see_again)
        if practice_id is not None:
            see_practice(session, practice_id)
        try:
            yield session
        except BaseException:
            session.rollback()
            raise
        session.commit()


def see_practice(session: Session, practice_id: uuid.UUID) -> None:
    """From here on the database shows this session that practice's rows, and no others."""
    session.info["practice"] = str(practice_id)
    if session.in_transaction():
        _see(session.connection(), str(practice_id))


def _see_again(session: Session, _: SessionTransaction, connection: Connection) -> None:
    practice = session.info.get("practice")
    if practice is not None:
        _see(connection, practice)


def _see(connection: Connection, practice: str) -> None:
    connection.execute(text("SELECT set_config('acuthesis.practice', :id, true)"), {"id": practice})
