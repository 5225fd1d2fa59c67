"""Who looks at a treatment is told when it has moved: by whichever process kept something, to whichever shows it.

PostgreSQL carries the word (`NOTIFY` when a transaction is kept), so it reaches every process, and never before what it
speaks of can be read. What moved is not in it: whoever is told looks for themselves, behind the wall.
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
AGAIN_S = 1.0  # the database does not answer
log = logging.getLogger(__name__)


def moved(db: Db, visit_id: uuid.UUID) -> None:
    """Whoever looks at this treatment is told once the transaction is kept."""
    db.execute(select(func.pg_notify(CHANNEL, str(visit_id))))


class _Wire(Thread):
    """The one connection of this process that hears, begun when somebody first wants to."""

    def __init__(self) -> None:
        super().__init__(name="live", daemon=True)
        self._lock = Lock()
        self._waiting: dict[str, set[tuple[asyncio.AbstractEventLoop, asyncio.Event]]] = defaultdict(set)

    def run(self) -> None:
        """Hear, for as long as the process lives; what was said while nothing was heard may have been anything."""
        url = make_url(settings().database_url).set(drivername="postgresql")
        while True:
            try:
                with psycopg.connect(url.render_as_string(hide_password=False), autocommit=True) as connection:
                    connection.execute(f"LISTEN {CHANNEL}")
                    self._wake(None)
                    for said in connection.notifies():
                        self._wake(said.payload)
            except psycopg.Error as away:
                log.warning("nothing is heard of treatments: %s", str(away).partition("\n")[0])
                time.sleep(AGAIN_S)

    def _wake(self, visit_id: str | None) -> None:
        with self._lock:
            keys = list(self._waiting) if visit_id is None else [visit_id]
            for loop, changed in {one for key in keys for one in self._waiting.get(key, ())}:
                loop.call_soon_threadsafe(changed.set)

    @contextmanager
    def hears(self, visit_id: uuid.UUID) -> Iterator[asyncio.Event]:
        """Set whenever the treatment of the visit has moved. To be asked for in an event loop."""
        one = (asyncio.get_running_loop(), asyncio.Event())
        with self._lock:
            self._waiting[str(visit_id)].add(one)
            if not self.is_alive():
                self.start()
        try:
            yield one[1]
        finally:
            with self._lock:
                self._waiting[str(visit_id)].discard(one)
                if not self._waiting[str(visit_id)]:
                    del self._waiting[str(visit_id)]


wire = _Wire()
