"""Watches the web process and the database of an installation, and restarts whichever ends or no longer answers."""

import json
import os
import subprocess
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from dataclasses import asdict, dataclass, field
from datetime import datetime
from typing import Any

from launch import homes, postgres
from launch.homes import Home
from launch.postgres import Server
from launch.processes import identity
from launch.steps import CannotGoOn, append_private
from launch.web_process import STARTED_LOG, Front, start_server, wait_for

LOOKS_EVERY_S = 0.5
FIRST_WAIT_S, LONGEST_WAIT_S = 0.5, 30.0  # before a part that ended is started again; doubled each time
STEADY_S = 60.0  # a part that ran for so long has got over it
# The server is asked every so often whether it answers; after so many times in a row without one it is restarted.
HEALTH_EVERY_S, HEALTH_WITHIN_S, HEALTH_MISSED = 3.0, 3.0, 3


@dataclass
class Part:
    """A part that has to run: since when, and how often it came back."""

    since: float = field(default_factory=time.time)
    came_back: int = 0


class Watched:
    """Server and database of an installation: whichever ends is started again, a little later each time."""

    def __init__(self, home: Home, server: Server, front: Front) -> None:
        self.home, self.server, self.front = home, server, front
        self.process: subprocess.Popen[bytes] | None = None
        self.parts = {"server": Part(), "database": Part()}
        self.waits = {"server": FIRST_WAIT_S, "database": FIRST_WAIT_S}
        self.missed, self.next_health = 0, 0.0  # health checks without an answer, and when the next is due

    def start(self) -> None:
        """Start the server, for the first time. Raises: CannotGoOn where it does not come up."""
        self._log("starting")
        self._start_server()
        self._tell()

    def watch(self) -> None:
        """Look after both until somebody asks to end."""
        while True:
            time.sleep(LOOKS_EVERY_S)
            if postgres.port_is_free(self.server.port) and not postgres.is_running(self.server):
                self._again("database", self._start_database)
            if self.process is None:
                continue
            if self.process.poll() is None and self._is_deaf():
                self._log("the server no longer responds; it is ended")
                self.process.kill()
                self.process.wait()
            if self.process.poll() is not None:
                self._again("server", self._start_server)

    def _is_deaf(self) -> bool:
        """Whether the server has not answered several times in a row. Any answer counts, one that says no as well."""
        if time.monotonic() < self.next_health:
            return False
        try:
            with urllib.request.urlopen(self.front.health, timeout=HEALTH_WITHIN_S):
                self.missed = 0
        except urllib.error.HTTPError:
            self.missed = 0
        except OSError:
            self.missed += 1
        self.next_health = time.monotonic() + HEALTH_EVERY_S
        return self.missed >= HEALTH_MISSED

    def end(self) -> None:
        """End the server. The database is stopped by whoever started it."""
        if self.process is None:
            return
        self.process.terminate()
        try:
            self.process.wait(timeout=10)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()
        self._log("stopped")

    def _start_server(self) -> None:
        self.process = start_server(self.home, self.front, homes.app_environment(self.server))
        self.missed, self.next_health = 0, time.monotonic() + HEALTH_EVERY_S
        wait_for(self.front, self.process, str(self.home.folder / "logs" / STARTED_LOG))

    def _start_database(self) -> None:
        self.server = self.home.cluster.start()

    def _again(self, name: str, start: Callable[[], None]) -> None:
        part = self.parts[name]
        if time.time() - part.since > STEADY_S:
            self.waits[name] = FIRST_WAIT_S
        wait = self.waits[name]
        self._log(f"the {name} ended; starting it again in {wait:g} s")
        time.sleep(wait)
        self.waits[name] = min(wait * 2, LONGEST_WAIT_S)
        try:
            start()
        except CannotGoOn as error:
            self._log(f"the {name} does not start: {error}")
            return
        self.parts[name] = Part(came_back=part.came_back + 1)
        self._log(f"the {name} is back, for the {_ordinal(part.came_back + 1)} time")
        self._tell()

    def _log(self, said: str) -> None:
        line = f"{datetime.now().astimezone().isoformat(timespec='seconds')} {said}"
        append_private(self.home.log, f"{line}\n")
        if "ended" in said or "back" in said or "not start" in said:
            print(f"\n  {line}", flush=True)

    def _tell(self) -> None:
        assert self.process is not None
        state: dict[str, Any] = {"host": self.front.reach, "port": self.front.port}
        state |= {"launcher": identity(os.getpid()), "web_process": identity(self.process.pid)}
        state |= {name: asdict(part) for name, part in self.parts.items()}
        self.home.state_file.write_text(json.dumps(state))


def _ordinal(number: int) -> str:
    ending = "th" if 10 < number % 100 < 20 else {1: "st", 2: "nd", 3: "rd"}.get(number % 10, "th")
    return f"{number}{ending}"
