"""Serving the demo or a practice of one's own: prepared, started, watched, started again, stopped in good order."""

import argparse
import ipaddress
import json
import os
import secrets
import signal
import subprocess
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from contextlib import suppress
from dataclasses import asdict, dataclass, field
from datetime import date, datetime
from typing import Any

from launch import homes, machine, postgres
from launch.homes import Home
from launch.machine import PYTHON
from launch.postgres import Server
from launch.steps import ROOT, CannotGoOn, fingerprint, is_stamped, run, stamp, step, write_private

DEMO_PORT, PRACTICE_PORT = 8714, 8715
LOOPBACK = ("127.0.0.1", "localhost", "[::1]")
# Settings that whoever starts the server may give it (see src/acuthesis/settings.py). Addresses of the database come
# from the launcher alone, so that no owner's or superuser's ever reaches the web process.
PASSED_ON = ("ACUTHESIS_HTTPS", "ACUTHESIS_HOSTS", "ACUTHESIS_SESSION_HOURS")
LOOKS_EVERY_S = 0.5
FIRST_WAIT_S, LONGEST_WAIT_S = 0.5, 30.0  # before a part that ended is started again; doubled each time
STEADY_S = 60.0  # a part that ran for so long has got over it
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
    def address(self) -> str:
        """What people type."""
        if self.https:
            return f"https://{self.names[0]}"
        return f"http://{self.names[0] if self.names else '127.0.0.1'}:{self.port}"


@dataclass
class Part:
    """A part that has to run: since when, and how often it came back."""

    since: float = field(default_factory=time.time)
    came_back: int = 0


def demo(arguments: list[str]) -> int:
    """Prepare, load the demo world, and serve until Ctrl-C."""
    begun = time.monotonic()
    parser = argparse.ArgumentParser(prog="./acuthesis demo")
    parser.add_argument("--port", type=int, default=DEMO_PORT, help="port to serve on")
    home, front = homes.demo(), Front("127.0.0.1", parser.parse_args(arguments).port)
    _check_port(home, front)
    print("Acuthesis, the demo")
    _prepare()
    try:
        server = home.cluster.start()
        sign_in = _demo_world(home, homes.keeper_environment(server))
        said = ["Plain http, for this machine only: nothing outside it can connect."]
        return _serve(home, server, front, [f"{front.address}   {sign_in}", *said], begun)
    finally:
        home.state_file.unlink(missing_ok=True)
        home.cluster.stop()


def serve(arguments: list[str]) -> int:
    """Prepare, and serve a practice of one's own until Ctrl-C."""
    begun = time.monotonic()
    told = _serve_arguments(arguments)
    home, front = homes.practice(told.data), _front(told)
    _check_port(home, front)
    print(f"Acuthesis, data in {home.folder}")
    _prepare()
    try:
        server = home.cluster.start()
        with step("database"):
            environment = homes.keeper_environment(server)
            run([str(PYTHON), "-m", "acuthesis.keeper", "ready"], log="database", env=environment)
            link = _first_link(home, environment)
        said = [f"{front.address}/set-up#{link}", "Open this address to set your practice up. It works once."]
        return _serve(home, server, front, said if link else [front.address], begun)
    finally:
        home.state_file.unlink(missing_ok=True)
        home.cluster.stop()


def _serve_arguments(arguments: list[str]) -> argparse.Namespace:
    parser = argparse.ArgumentParser(
        prog="./acuthesis serve", description="A practice of your own. docs/guide/running.md says the rest."
    )
    parser.add_argument("--port", type=int, default=PRACTICE_PORT, help=f"port to listen on (default {PRACTICE_PORT})")
    parser.add_argument("--host", default="127.0.0.1", help="address to listen on (default 127.0.0.1)")
    parser.add_argument("--data", metavar="FOLDER", help="where the data is (default: in this checkout)")
    parser.add_argument("--name", action="append", default=[], metavar="HOST", help="name people type; can be repeated")
    parser.add_argument("--https", action="store_true", help="a reverse proxy in front speaks https")
    parser.add_argument("--proxy", default="127.0.0.1", metavar="ADDRESS", help="where that proxy is")
    parser.add_argument("--plain-http", action="store_true", help="listen beyond this machine without https, knowingly")
    return parser.parse_args(arguments)


def _front(told: argparse.Namespace) -> Front:
    """Raises: CannotGoOn for health records in the clear on a network, or a name that nobody could type."""
    host, names = str(told.host), [str(name).lower() for name in told.name]
    with suppress(ValueError):
        address = ipaddress.ip_address(host)
        if not (address.is_loopback or address.is_unspecified) and host not in names:
            names.append(host)
    if told.https and not names:
        raise CannotGoOn("--https needs the name that people type: --name practice.example")
    if host not in LOOPBACK and not (told.https or told.plain_http):
        raise CannotGoOn(
            f"--host {host} would send health records over the network unencrypted. Put a proxy with https in front "
            "and say --https --name NAME, or say --plain-http if you know why (docs/guide/running.md)."
        )
    if host not in LOOPBACK and not names:
        raise CannotGoOn(f"--host {host} needs the name or address that people type: --name practice.example")
    return Front(host, int(told.port), bool(told.https), tuple(names), str(told.proxy))


def _check_port(home: Home, front: Front) -> None:
    if not 1024 <= front.port <= 65535:
        raise CannotGoOn(f"--port {front.port} is not between 1024 and 65535.")
    if (address := home.served()) is not None:
        raise CannotGoOn(f"it runs already, at {address}. ./acuthesis stop --of {home.name} ends it.")
    if not postgres.port_is_free(front.port):
        name = "demo" if home.name == "demo" else "serve"
        raise CannotGoOn(
            f"port {front.port} is taken by another program. Choose one: ./acuthesis {name} --port {front.port + 1}"
        )


def _prepare() -> None:
    machine.debian_packages(for_tests=False)
    machine.python_packages()
    machine.front_end()
    machine.body_asset()


def _demo_world(home: Home, environment: dict[str, str]) -> str:
    """Migrate and load the demo world, once a day and for every change; returns the line with the sign-in."""
    code = ROOT / "src/acuthesis"
    kept = home.folder / "sign-in.txt"
    wanted = fingerprint(code / "store", code / "demo", home.cluster.state) + date.today().isoformat()
    if not kept.exists() or not is_stamped("demo", wanted):
        with step("database and demo world"):
            said = run([str(PYTHON), "-m", "acuthesis.demo"], log="demo", env=environment)
        write_private(kept, said.strip().splitlines()[-1])
        stamp("demo", wanted)
    return kept.read_text()


def _first_link(home: Home, environment: dict[str, str]) -> str:
    """The token of the link by which the practice is set up; empty once somebody is in. The same until it expires."""
    kept = home.folder / "set-up.txt"
    earlier = kept.read_text().strip() if kept.exists() else ""
    found = run(
        [str(PYTHON), "-m", "acuthesis.keeper", "first-link", earlier], log="first-link", env=environment
    ).strip()
    if found:
        write_private(kept, found)
    else:
        kept.unlink(missing_ok=True)
    return found


def start_server(home: Home, front: Front, environment: dict[str, str]) -> subprocess.Popen[bytes]:
    """Start the web process, with the environment of this one but for database addresses."""
    command = [str(PYTHON), "-m", "uvicorn", "acuthesis.api.app:app", "--host", front.host, "--port", str(front.port)]
    marked = ["--header", ":".join(OURS)]
    trusted = ["--proxy-headers", f"--forwarded-allow-ips={front.proxy}"] if front.https else ["--no-proxy-headers"]
    # A stream that somebody looks at does not hold up the end of a server for long.
    quiet = ["--log-level", "warning", "--no-server-header", "--timeout-graceful-shutdown", "3"]
    kept = {name: value for name, value in os.environ.items() if not name.startswith("ACUTHESIS_") or name in PASSED_ON}
    log = home.folder / "logs" / "server.log"
    log.parent.mkdir(parents=True, exist_ok=True)
    with log.open("a") as out:
        return subprocess.Popen(
            [*command, *quiet, *marked, *trusted],
            cwd=ROOT,
            env={**kept, **front.settings(), **environment},
            stdout=out,
            stderr=subprocess.STDOUT,
            start_new_session=True,
        )


def wait_for(front: Front, process: subprocess.Popen[bytes], log: str = "the server's log") -> None:
    """Wait until this very server answers.

    Raises: CannotGoOn where it ends instead, or says nothing for half a minute; also where another answers on its port.
    """
    for _ in range(300):
        if process.poll() is not None:
            raise CannotGoOn(f"the server ended at once; see {log}")
        try:
            with urllib.request.urlopen(f"http://{front.reach}:{front.port}/api/health", timeout=2) as answer:
                if answer.headers.get(OURS[0]) == OURS[1]:
                    return
        except (urllib.error.URLError, OSError):
            pass
        time.sleep(0.1)
    raise CannotGoOn(f"the server does not answer after 30 s; see {log}")


def _serve(home: Home, server: Server, front: Front, said: list[str], begun: float) -> int:
    watched = Watched(home, server, front)
    # Asked to end from outside, end as with Ctrl-C: the server first, then the database. Said for both signals,
    # because a shell starts what it puts in the background with Ctrl-C switched off.
    for asked in (signal.SIGTERM, signal.SIGINT):
        signal.signal(asked, _end)
    try:
        with step(f"server on port {front.port}"):
            watched.start()
        print(f"\n  {said[0]}   ({time.monotonic() - begun:.1f} s)", flush=True)
        for line in said[1:]:
            print(f"  {line}", flush=True)
        print("  Ctrl-C stops everything.", flush=True)
        watched.watch()
    except KeyboardInterrupt:
        print("\n  stopping", flush=True)
    finally:
        watched.end()
    return 0


def _end(*_: object) -> None:
    raise KeyboardInterrupt


class Watched:
    """Server and database of an installation: whichever ends is started again, a little later each time."""

    def __init__(self, home: Home, server: Server, front: Front) -> None:
        self.home, self.server, self.front = home, server, front
        self.process: subprocess.Popen[bytes] | None = None
        self.parts = {"server": Part(), "database": Part()}
        self.waits = {"server": FIRST_WAIT_S, "database": FIRST_WAIT_S}

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
            if self.process is not None and self.process.poll() is not None:
                self._again("server", self._start_server)

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
        wait_for(self.front, self.process, str(self.home.folder / "logs" / "server.log"))

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
        self.home.log.parent.mkdir(parents=True, exist_ok=True)
        with self.home.log.open("a") as log:
            log.write(f"{line}\n")
        if "ended" in said or "back" in said or "not start" in said:
            print(f"\n  {line}", flush=True)

    def _tell(self) -> None:
        state: dict[str, Any] = {"host": self.front.reach, "port": self.front.port, "pid": os.getpid()}
        state |= {name: asdict(part) for name, part in self.parts.items()}
        self.home.state_file.write_text(json.dumps(state))


def _ordinal(number: int) -> str:
    ending = "th" if 10 < number % 100 < 20 else {1: "st", 2: "nd", 3: "rd"}.get(number % 10, "th")
    return f"{number}{ending}"


def status(_: list[str]) -> int:
    """Say what runs, for how long, and how often it came back."""
    shown = [home for home in (homes.demo(), homes.practice()) if home.exists()]
    for home in shown or [homes.demo()]:
        state, server = home.state() or {}, home.cluster.running()
        address = home.served()
        print(f"{home.name}, data in {home.folder}" if home.exists() else "nothing here yet")
        print(f"  server:   {address + _for_how_long(state.get('server')) if address else 'not running'}")
        since = state.get("database") if server else None
        print(f"  database: {f'port {server.port}' + _for_how_long(since) if server else 'not running'}")
    return 0


def _for_how_long(part: dict[str, Any] | None) -> str:
    """Since when a part runs and how often it came back, in words.

    >>> _for_how_long({"since": time.time() - 7500, "came_back": 2})
    ', up 2 h 5 min, came back 2 times'
    """
    if part is None:
        return ""
    minutes = int(time.time() - float(part["since"])) // 60
    up = f"{minutes // 1440} d {minutes % 1440 // 60} h" if minutes >= 1440 else f"{minutes // 60} h {minutes % 60} min"
    times = int(part["came_back"])
    back = "" if not times else ", came back once" if times == 1 else f", came back {times} times"
    return f", up {f'{minutes} min' if minutes < 60 else up}{back}"


def stop(arguments: list[str]) -> int:
    """Stop what runs: the one that was named, or the only one that does."""
    parser = argparse.ArgumentParser(prog="./acuthesis stop")
    homes.add_choice(parser)
    told = parser.parse_args(arguments)
    named = told.of is not None or told.data is not None
    candidates = [homes.chosen(told)] if named else [homes.demo(), homes.practice()]
    running = [home for home in candidates if home.served() is not None]
    if len(running) > 1:
        raise CannotGoOn("the demo and your practice both run. Say which: --of demo, or --of practice.")
    for home in running:
        _stop_server(home)
        print(f"{home.name}: server stopped")
    idle = [] if running and not named else candidates
    stopped = [home for home in (running or idle) if home.cluster.stop()]
    if stopped:
        print(f"{stopped[0].name}: database stopped")
    elif not running:
        print("nothing runs")
    return 0


def _stop_server(home: Home) -> None:
    pid = int((home.state() or {"pid": 0})["pid"])
    if not pid:
        return
    os.kill(pid, signal.SIGTERM)
    # Until it has ended, and with it the database that it stops last: what is started next must not lose it.
    for _ in range(300):
        if not _is_alive(pid):
            return
        time.sleep(0.1)


def _is_alive(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True
