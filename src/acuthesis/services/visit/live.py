"""Notifies open screens of changes (PostgreSQL's LISTEN and NOTIFY): of a treatment, and of sessions that ended.

A notification is sent when its transaction commits, so it reaches every process, and never before what it is about can
be read. It carries an id and nothing else: whoever hears it reads for themselves, behind row-level security.
"""

import asyncio
import logging
import time
import uuid
from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Lock, Thread

import psycopg
from sqlalchemy import func, make_url, select

from acuthesis.settings import settings
from acuthesis.store.database import Db

CHANNEL = "treatment"
SESSION_ENDED = "session_ended"  # sent by the database itself, however a session is deleted (migration 0012)
AGAIN_S = 1.0  # the database does not answer
MOST_UNREAD = 8
_Ear = tuple[asyncio.AbstractEventLoop, "asyncio.Queue[uuid.UUID | None]"]
log = logging.getLogger(__name__)


def moved(db: Db, visit_id: uuid.UUID) -> None:
    """Screens that show this treatment are notified when the transaction commits."""
    db.execute(select(func.pg_notify(CHANNEL, str(visit_id))))


class _Wire(Thread):
    """The one connection of this process that hears, begun when somebody first wants to."""

    def __init__(self) -> None:
        super().__init__(name="live", daemon=True)
        self._lock = Lock()
        self._waiting: dict[str, set[_Ear]] = defaultdict(set)

    def run(self) -> None:
        """Hear, for as long as the process lives; what was said while nothing was heard may have been anything."""
        url = make_url(settings().database_url).set(drivername="postgresql")
        while True:
            try:
                with psycopg.connect(url.render_as_string(hide_password=False), autocommit=True) as connection:
                    connection.execute(f"LISTEN {CHANNEL}")
                    connection.execute(f"LISTEN {SESSION_ENDED}")
                    self._wake(None)
                    for said in connection.notifies():
                        self._wake(said.payload)
            except psycopg.Error as away:
                log.warning("nothing is heard of treatments: %s", str(away).partition("\n")[0])
                time.sleep(AGAIN_S)

    def _wake(self, id: str | None) -> None:
        """Something changed with this id; None: anything may have."""
        with self._lock:
            ears = {ear for key in (list(self._waiting) if id is None else [id]) for ear in self._waiting.get(key, ())}
            for loop, heard in ears:
                loop.call_soon_threadsafe(_put, heard, None if id is None else uuid.UUID(id))

    @contextmanager
    def hears(self, *ids: uuid.UUID) -> Iterator[asyncio.Queue[uuid.UUID | None]]:
        """The ids (of a visit, of a session) about which something was notified; None: any of them may have changed.

        To be called in an event loop. Where more comes in than is read, None stands for all of it.
        """
        ear = (asyncio.get_running_loop(), asyncio.Queue[uuid.UUID | None](MOST_UNREAD))
        with self._lock:
            for id in ids:
                self._waiting[str(id)].add(ear)
            if not self.is_alive():
                self.start()
        try:
            yield ear[1]
        finally:
            with self._lock:
                for id in ids:
                    self._waiting[str(id)].discard(ear)
                    if not self._waiting[str(id)]:
                        del self._waiting[str(id)]


def _put(heard: asyncio.Queue[uuid.UUID | None], id: uuid.UUID | None) -> None:
    """Note an id, once; where there is no room, that anything may have changed."""
    if heard.full():
        while not heard.empty():
            heard.get_nowait()
        id = None
    heard.put_nowait(id)


wire = _Wire()
