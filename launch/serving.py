"""Serving the demo or a practice of one's own: prepared, started, watched, started again, stopped in good order."""

import argparse
import ipaddress
import os
import signal
import time
from contextlib import suppress
from datetime import datetime
from typing import Any

from launch import homes, machine, postgres
from launch.homes import Home
from launch.machine import PYTHON
from launch.postgres import Server
from launch.processes import is_alive
from launch.steps import ROOT, CannotGoOn, fingerprint, is_stamped, run, stamp, step, write_private
from launch.watching import Watched
from launch.web_process import LOOPBACK, Front

DEMO_PORT, PRACTICE_PORT = 8714, 8715


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
        sign_in = demo_world(home, homes.keeper_environment(server))
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
        raise CannotGoOn(f"Already running at {address}. To stop it: ./acuthesis stop --of {home.name}")
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


def demo_world(home: Home, environment: dict[str, str]) -> str:
    """Migrate and load the demo world, once a day and for every change; returns the line with the sign-in."""
    code = ROOT / "src/acuthesis"
    kept = home.folder / "sign-in.txt"
    wanted = (
        fingerprint(code / "store", code / "demo", home.cluster.state) + datetime.now().astimezone().date().isoformat()
    )
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


def status(_: list[str]) -> int:
    """Say what runs, for how long, and how often it came back."""
    shown = [home for home in (homes.demo(), homes.practice()) if home.exists()]
    for home in shown or [homes.demo()]:
        state, server = home.state() or {}, home.cluster.running()
        address = home.served()
        print(f"{home.name}, data in {home.folder}" if home.exists() else "nothing here yet")
        print(f"  server:   {address + _for_how_long(state.get('server')) if address else 'not running'}")
        if address and not is_alive(state.get("launcher")):
            print(f"            its launcher was killed; ./acuthesis stop --of {home.name} stops the server")
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
        print("Nothing is running.")
    return 0


def _stop_server(home: Home) -> None:
    """Ask the launcher to end, which ends the web process; where the launcher is gone, the web process itself."""
    state = home.state() or {}
    known = next((one for one in (state.get("launcher"), state.get("web_process")) if is_alive(one)), None)
    if known is None:
        return
    os.kill(int(known[0]), signal.SIGTERM)
    # Until it has ended, and with it the database that it stops last: what is started next must not lose it.
    for _ in range(300):
        if not is_alive(known):
            return
        time.sleep(0.1)
