"""The web process: where it listens, how it is started, and when it answers."""

import json
import os
import secrets
import subprocess
import time
import urllib.error
import urllib.request
from dataclasses import dataclass
from pathlib import Path

from launch.homes import Home
from launch.machine import PYTHON
from launch.processes import dies_with_parent
from launch.steps import ROOT, CannotGoOn, write_private

LOOPBACK = ("127.0.0.1", "localhost", "[::1]")
# Settings that whoever starts the server may give it (see src/acuthesis/settings.py). Addresses of the database come
# from the launcher alone, so that no owner's or superuser's ever reaches the web process.
PASSED_ON = ("ACUTHESIS_HTTPS", "ACUTHESIS_HOSTS", "ACUTHESIS_SESSION_HOURS")
LOG_BYTES, LOGS_KEPT = 5_000_000, 5
STARTED_LOG = "server-start.log"  # what the web process prints before it logs: why it does not start
# By this the launcher knows its own server from another that took the port a moment before it.
OURS = ("x-served-for", secrets.token_hex(8))


@dataclass(frozen=True)
class Front:
    """Where the server listens, and what stands before it. `proxy`: whose word on the asker's address is believed."""

    host: str
    port: int
    https: bool = False
    names: tuple[str, ...] = ()
    proxy: str = "127.0.0.1"

    def settings(self) -> dict[str, str]:
        """What the web process is told of it."""
        if not (self.names or self.https):
            return {}
        hosts = json.dumps([*LOOPBACK, *self.names])
        return {"ACUTHESIS_HOSTS": hosts} | ({"ACUTHESIS_HTTPS": "true"} if self.https else {})

    @property
    def reach(self) -> str:
        """Under which address this machine itself reaches it."""
        return "127.0.0.1" if self.host in ("0.0.0.0", "::", "localhost", "[::1]") else self.host

    @property
    def health(self) -> str:
        """Where this machine asks whether the server answers."""
        return f"http://{self.reach}:{self.port}/api/health"

    @property
    def address(self) -> str:
        """What people type."""
        if self.https:
            return f"https://{self.names[0]}"
        return f"http://{self.names[0] if self.names else '127.0.0.1'}:{self.port}"


def start_server(home: Home, front: Front, environment: dict[str, str]) -> subprocess.Popen[bytes]:
    """Start the web process, with the environment of this one but for database addresses."""
    command = [str(PYTHON), "-m", "uvicorn", "acuthesis.api.app:app", "--host", front.host, "--port", str(front.port)]
    marked = ["--header", ":".join(OURS)]
    trusted = ["--proxy-headers", f"--forwarded-allow-ips={front.proxy}"] if front.https else ["--no-proxy-headers"]
    # A stream that somebody looks at does not hold up the end of a server for long.
    quiet = ["--no-access-log", "--no-server-header", "--timeout-graceful-shutdown", "3"]
    timed = ["--http", "acuthesis.api.protocol:TimedProtocol"]
    kept = {name: value for name, value in os.environ.items() if not name.startswith("ACUTHESIS_") or name in PASSED_ON}
    logs = home.folder / "logs"
    logs.mkdir(parents=True, exist_ok=True)
    logged = logs / "logging.json"
    write_private(logged, json.dumps(_logging(logs / "server.log")))
    started = logs / STARTED_LOG
    write_private(started, "")
    with started.open("a") as out:
        return subprocess.Popen(
            dies_with_parent([*command, *quiet, *timed, *marked, *trusted, "--log-config", str(logged)]),
            cwd=ROOT,
            env={**kept, **front.settings(), **environment},
            stdout=out,
            stderr=subprocess.STDOUT,
            start_new_session=True,
            umask=0o077,  # logs are for the owner alone
        )


def _logging(log: Path) -> dict[str, object]:
    """Python's logging configuration: warnings and errors to a file that is rotated."""
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "formatters": {"line": {"format": "%(asctime)s %(levelname)s %(name)s: %(message)s"}},
        "handlers": {
            "file": {
                "class": "logging.handlers.RotatingFileHandler",
                "formatter": "line",
                "filename": str(log),
                "maxBytes": LOG_BYTES,
                "backupCount": LOGS_KEPT,
                "encoding": "utf-8",
            }
        },
        "root": {"level": "WARNING", "handlers": ["file"]},
    }


def wait_for(front: Front, process: subprocess.Popen[bytes], log: str = "its logs") -> None:
    """Wait until this very server answers.

    Raises: CannotGoOn where it ends instead, or says nothing for half a minute; also where another answers on its port.
    """
    for _ in range(300):
        if process.poll() is not None:
            raise CannotGoOn(f"the server ended at once; see {log}")
        try:
            with urllib.request.urlopen(front.health, timeout=2) as answer:
                if answer.headers.get(OURS[0]) == OURS[1]:
                    return
        except (urllib.error.URLError, OSError):
            pass
        time.sleep(0.1)
    raise CannotGoOn(f"the server does not answer after 30 s; see {log}")
