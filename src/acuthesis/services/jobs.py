"""Background jobs: asked for in the transaction that needs them, done by a process beside the server.

The queue lies in PostgreSQL (procrastinate): what was asked for survives a restart, and what a process was doing when
it died is taken up by another. Every server has such a process, and none is special.
"""

import asyncio
import logging
import uuid
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime, timedelta
from functools import lru_cache
from importlib import import_module
from multiprocessing import get_context

from procrastinate import App, PsycopgConnector, SyncPsycopgConnector
from procrastinate.exceptions import AlreadyEnqueued, ConnectorException
from procrastinate.jobs import Status
from procrastinate.manager import JobManager
from procrastinate.tasks import configure_task
from sqlalchemy import make_url, text

from acuthesis.services.workers import BACKGROUND_NICE, begin_as_worker
from acuthesis.settings import settings
from acuthesis.store.database import Db

SCHEMAS = "public,jobs"  # the queue has a schema of its own, which its functions look in
HEARTBEAT_S = 5.0
DEAD_AFTER_S = 20.0  # without a heartbeat; what a process did is then taken up by another
AGAIN_AFTER_S = 5.0  # the database does not answer
STOPPING_S = 4.0
SOON = timedelta(seconds=20)  # more of the same is likely to come, and is done at once then

# Where jobs are registered.
JOB_MODULES = (
    "acuthesis.services.between.letters",
    "acuthesis.services.ratings.outcomes",
    "acuthesis.services.people.erasure",
)
MOST_TRIES = 3  # of a job whose process died with it: it may have been the job

Job = Callable[..., None]
log = logging.getLogger(__name__)
_jobs: dict[str, Job] = {}
_given_up: dict[str, Job] = {}


def job(given_up: Job | None = None) -> Callable[[Job], Job]:
    """Register a function as something that can be asked for, under its own name; it takes strings by name.

    `given_up` is called in its place where every process died that tried.
    """

    def register(done: Job) -> Job:
        _jobs[done.__name__] = done
        if given_up is not None:
            _given_up[done.__name__] = given_up
        return done

    return register


@lru_cache
def _asking() -> JobManager:
    """Puts jobs into the queue over connections that it is given."""
    return JobManager(SyncPsycopgConnector())


def ask(
    db: Db, wanted: Job, once: str | None = None, soon: bool = False, at: datetime | None = None, **what: str
) -> None:
    """Ask for a job in the transaction `db`: it is done if that is kept, and not before.

    Parameters: once, a word under which it is asked for once as long as it has not begun; soon, in a while; at, not
    before this moment.
    """
    deferred = configure_task(
        name=wanted.__name__,
        job_manager=_asking(),
        queueing_lock=once,
        schedule_in={"seconds": int(SOON.total_seconds())} if soon else None,
        schedule_at=at,
        connection=db.connection().connection.driver_connection,
    )
    try:
        with db.begin_nested():
            db.execute(text(f"SET LOCAL search_path = {SCHEMAS}"))
            deferred.defer(**what)
            db.execute(text("SET LOCAL search_path = public"))
    except AlreadyEnqueued:  # the savepoint was made for this
        pass  # it waits already, and will see what has changed


def _working() -> App:
    """The queue as whoever works on it sees it, over connections of its own."""
    address = make_url(settings().database_url).set(drivername="postgresql").render_as_string(hide_password=False)
    connect = {"options": f"-c search_path={SCHEMAS}", "connect_timeout": 3}
    app = App(connector=PsycopgConnector(conninfo=address, kwargs=connect, min_size=1, max_size=4))
    for name, done in _jobs.items():
        app.task(name=name)(done)
    return app


class Working:
    """Works on the queue from here on, in a process of its own: what it does never holds up who is served.

    Nobody need wait for it: what is cut off is taken up again, here or elsewhere.
    """

    def __init__(self) -> None:
        self._process = get_context("spawn").Process(target=run_jobs, name="jobs", daemon=True)
        self._process.start()

    def stop(self) -> None:
        """Stop it."""
        self._process.terminate()
        self._process.join(STOPPING_S)


def run_jobs() -> None:
    """Work on the queue until the server is gone: what the process of `Working` does."""
    begin_as_worker(BACKGROUND_NICE)
    settings().processes = False  # this is one
    for name in JOB_MODULES:
        import_module(name)
    asyncio.run(_work())


async def _work() -> None:
    """Work on the queue, and wait where the database does not answer."""
    while True:
        app = _working()
        try:
            async with app.open_async(), asyncio.TaskGroup() as both:
                both.create_task(_take_up_what_was_dropped(app))
                both.create_task(_worker(app))
        except* (ConnectorException, OSError) as error:
            log.warning("the queue does not answer: %s", error)
        await asyncio.sleep(AGAIN_AFTER_S)


async def _worker(app: App) -> None:
    await app.run_worker_async(
        name=f"acuthesis-{uuid.uuid4().hex[:8]}",
        concurrency=1,
        install_signal_handlers=False,
        delete_jobs="successful",
        shutdown_graceful_timeout=STOPPING_S,
        update_heartbeat_interval=HEARTBEAT_S,
        stalled_worker_timeout=DEAD_AFTER_S,
    )


async def _take_up_what_was_dropped(app: App) -> None:
    """Give back to the queue what a process had begun that is no longer there."""
    while True:
        await _take_up(app)
        await asyncio.sleep(HEARTBEAT_S)


async def _take_up(app: App) -> None:
    for dropped in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=DEAD_AFTER_S):
        if dropped.attempts < MOST_TRIES:
            log.warning("taken up again: %s", dropped.task_name)
            await app.job_manager.retry_job(dropped)
            continue
        log.error("given up: %s", dropped.task_name)
        await app.job_manager.finish_job(dropped, Status.FAILED, delete_job=False)
        if dropped.task_name in _given_up:
            await asyncio.to_thread(_given_up[dropped.task_name], **dropped.task_kwargs)


def work_off() -> None:
    """Do what waits now and come back. In a thread of its own: whoever calls may be in an event loop already."""

    async def now() -> None:
        app = _working()
        async with app.open_async():
            await _take_up(app)
            await app.run_worker_async(
                wait=False, install_signal_handlers=False, listen_notify=False, delete_jobs="successful"
            )

    with ThreadPoolExecutor(1) as thread:
        thread.submit(asyncio.run, now()).result()
