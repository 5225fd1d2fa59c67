"""Connections: one engine a process, one transaction a request, and the practice it may see."""

import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from functools import lru_cache

from sqlalchemy import Engine, create_engine, text
from sqlalchemy.orm import Session

from acuthesis.settings import settings


@lru_cache
def engine(url: str) -> Engine:
    """The engine for a database address. A connection that died is noticed before it is used."""
    return create_engine(url, pool_pre_ping=True, pool_size=8, max_overflow=8, connect_args={"connect_timeout": 3})


@contextmanager
def transaction(practice_id: uuid.UUID | None = None, url: str | None = None) -> Iterator[Session]:
    """A session in one transaction that sees one practice (or no person at all); all or nothing is kept."""
    with Session(engine(url or settings().database_url), expire_on_commit=False) as session, session.begin():
        if practice_id is not None:
            see_practice(session, practice_id)
        yield session


def see_practice(session: Session, practice_id: uuid.UUID) -> None:
    """From here to the end of the transaction the database shows this practice's rows, and no others."""
    session.execute(text("SELECT set_config('acuthesis.practice', :id, true)"), {"id": str(practice_id)})
