"""Worker processes for heavy work: one composes, one draws and makes PDFs.

One Python process runs one thread of Python at a time, so that seconds of composing would slow every other request.
What goes to a worker is a pure function of the core or of `exchange`, with arguments and results that can be pickled.
"""

import os
import pickle
import threading
import time
from collections.abc import Callable, Mapping
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from functools import lru_cache
from multiprocessing import get_context
from threading import Lock
from typing import ParamSpec, TypeVar

from acuthesis.core.atlas.entries.catalogue import Entry
from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.programme import Programme, ProgrammeRequest, programme
from acuthesis.core.compose.choose.request import ComposeRequest
from acuthesis.core.compose.knowledge.layer import Knowledge, Layer, layered
from acuthesis.core.compose.score.score import Score
from acuthesis.core.safety.screening import Screening
from acuthesis.settings import settings

P = ParamSpec("P")
R = TypeVar("R")
# On a busy machine whoever waits for something small comes first. Somebody waits for a paper too, and for a score.
PRINTING_NICE, COMPOSING_NICE, BACKGROUND_NICE = 0, 5, 15
LOOKS_S = 2.0  # how often a worker looks whether its server is still there


class Worker:
    """A process that does one thing after the other; begun at the first, and begun again where it died."""

    def __init__(self, name: str, nice: int) -> None:
        self.name, self.nice = name, nice
        self._lock = Lock()
        self._pool: ProcessPoolExecutor | None = None

    def run(self, wanted: Callable[P, R], *arguments: P.args, **named: P.kwargs) -> R:
        """The function's result, computed in the process. Raises: what the function raises; BrokenProcessPool where the
        process died of it twice."""
        if not settings().processes:
            return wanted(*arguments, **named)
        try:
            return self._started().submit(wanted, *arguments, **named).result()
        except BrokenProcessPool:
            self.stop()
            return self._started().submit(wanted, *arguments, **named).result()

    def start(self) -> None:
        """Begin the process of composing now, so that the first who needs it does not wait for its imports."""
        if settings().processes:
            self._started().submit(_import_solver)

    def stop(self) -> None:
        """End the process."""
        with self._lock:
            pool, self._pool = self._pool, None
        if pool is not None:
            pool.shutdown(wait=False, cancel_futures=True)

    def _started(self) -> ProcessPoolExecutor:
        with self._lock:
            if self._pool is None:
                # Not forked: threads of this process hold locks that a copy would wait for in vain.
                self._pool = ProcessPoolExecutor(
                    1, get_context("spawn"), initializer=begin_as_worker, initargs=(self.nice,)
                )
            return self._pool


def begin_as_worker(nice: int) -> None:
    """Called in a process that works for a server: it gives way to others, and ends when its server is gone."""
    os.nice(nice)
    server = os.getppid()

    def watch() -> None:
        while os.getppid() == server:
            time.sleep(LOOKS_S)
        os._exit(0)

    threading.Thread(target=watch, name="server-watch", daemon=True).start()


def _import_solver() -> None:
    import ortools.sat.python.cp_model  # noqa: F401


composing = Worker("composing", COMPOSING_NICE)
printing = Worker("printing", PRINTING_NICE)


def composed(request: ComposeRequest, screening: Screening, layer: Layer, own: Mapping[str, Entry]) -> Score:
    """A score for a request, with a practice's changes to what is known. Raises: CoreError."""
    return composing.run(_composed, request, screening, pickle.dumps((layer, dict(own))))


def programme_of(request: ProgrammeRequest, screening: Screening, layer: Layer, own: Mapping[str, Entry]) -> Programme:
    """A programme of several visits. Raises: CoreError."""
    return composing.run(_programme, request, screening, pickle.dumps((layer, dict(own))))


@lru_cache(maxsize=8)
def _knowledge(changes: bytes) -> Knowledge:
    layer, own = pickle.loads(changes)  # written by this application a moment ago  # noqa: S301
    return layered(layer, own)


def _composed(request: ComposeRequest, screening: Screening, changes: bytes) -> Score:
    return compose(request, screening, _knowledge(changes))


def _programme(request: ProgrammeRequest, screening: Screening, changes: bytes) -> Programme:
    return programme(request, screening, _knowledge(changes))
