"""The commands of ./acuthesis."""

import argparse
import contextlib
import json
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from datetime import date
from pathlib import Path

from launch import checks, machine, postgres
from launch.machine import PYTHON
from launch.steps import LOGS, ROOT, WORK, CannotGoOn, fingerprint, is_stamped, run, stamp, step, write_private

PORT = 8714
SERVE_STATE = WORK / "serve.json"
DATABASE = "acuthesis"
BENCH = "acuthesis_bench"
# Settings that whoever starts the server may give it (see src/acuthesis/settings.py). Addresses of the database come
# from the launcher alone, so that no owner's or superuser's ever reaches the web process.
PASSED_ON = ("ACUTHESIS_HTTPS", "ACUTHESIS_HOSTS", "ACUTHESIS_SESSION_HOURS")
CORE_COMMANDS = ("atlas", "point", "search", "locate", "compose", "conduct", "follow", "build-body")
HELP = """Acuthesis.

  ./acuthesis demo [--port N]   prepare what is missing, load the demo, serve it (Ctrl-C stops everything)
  ./acuthesis test [-- ARGS]    prepare, then run every check and test (ARGS go to pytest, and then only it runs)
  ./acuthesis status            what runs, and where
  ./acuthesis stop              stop what runs
  ./acuthesis reset             throw the demo's data away (asks)
  ./acuthesis client            write the TypeScript client from the API's description
  ./acuthesis bench             speed, as ratios within one run (--large, --fuzz CALLS, --kills N: see --help)
  ./acuthesis dump FILE         write the whole database to a file; restore FILE brings it back
  ./acuthesis {core}   the core from the shell; see --help of each
"""


def main(arguments: list[str]) -> int:
    """Run a command; whatever stands in the way is one line."""
    # Without kept bytecode every start compiles its libraries anew, which takes longer than all the rest of it. It is
    # kept in this project's own folder, whatever the machine does elsewhere.
    os.environ |= {"PYTHONDONTWRITEBYTECODE": "", "PYTHONPYCACHEPREFIX": str(WORK / "bytecode")}
    try:
        return _dispatch(arguments)
    except CannotGoOn as error:
        print(f"acuthesis: {error}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        print("\nacuthesis: stopped.", file=sys.stderr)
        return 130


def _dispatch(arguments: list[str]) -> int:
    name, rest = (arguments[0], arguments[1:]) if arguments else ("--help", [])
    if name in CORE_COMMANDS:
        return _core(arguments)
    commands = {
        "demo": demo,
        "test": checks.test,
        "status": status,
        "stop": stop,
        "reset": reset,
        "client": client,
        "bench": bench,
        "dump": dump,
        "restore": restore,
    }
    if name in commands:
        return commands[name](rest)
    print(HELP.format(core="|".join(CORE_COMMANDS)))
    return 0 if name in ("-h", "--help", "help") else 2


def _core(arguments: list[str]) -> int:
    """The core's own command line, its output untouched: preparations are told on standard error."""
    told, sys.stdout = sys.stdout, sys.stderr
    try:
        machine.debian_packages(for_tests=False)
        machine.python_packages()
        if arguments[0] not in ("build-body", "follow", "conduct"):
            machine.body_asset()
    finally:
        sys.stdout = told
    return subprocess.run([str(PYTHON), "-m", "acuthesis.cli", *arguments], check=False).returncode


def _app_environment(server: postgres.Server, database: str = DATABASE) -> dict[str, str]:
    """What the web process gets: the application's role, which owns nothing, and no other."""
    return {"ACUTHESIS_DATABASE_URL": server.url("acuthesis_app", database)}


def _keeper_environment(server: postgres.Server, database: str = DATABASE) -> dict[str, str]:
    """What makes and migrates a database gets: the owner's and the superuser's addresses too."""
    return {
        **_app_environment(server, database),
        "ACUTHESIS_OWNER_URL": server.url("acuthesis_owner", database),
        "ACUTHESIS_ADMIN_URL": server.url("postgres", "postgres"),
    }


def _port(arguments: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="./acuthesis demo")
    parser.add_argument("--port", type=int, default=PORT, help="port to serve on")
    port = int(parser.parse_args(arguments).port)
    if not 1024 <= port <= 65535:
        raise CannotGoOn(f"--port {port} is not between 1024 and 65535.")
    if _served() is not None:
        raise CannotGoOn(f"it runs already, at http://127.0.0.1:{_served()}. ./acuthesis stop ends it.")
    if not postgres.port_is_free(port):
        raise CannotGoOn(f"port {port} is taken by another program. Choose one: ./acuthesis demo --port {port + 1}")
    return port


def demo(arguments: list[str]) -> int:
    """Prepare, load the demo world, and serve until Ctrl-C."""
    begun = time.monotonic()
    port = _port(arguments)
    print("Acuthesis")
    machine.debian_packages(for_tests=False)
    machine.python_packages()
    machine.front_end()
    machine.body_asset()
    try:
        server = postgres.start()
        sign_in = _demo_world(_keeper_environment(server))
        return _serve(port, _app_environment(server), sign_in, begun)
    finally:
        SERVE_STATE.unlink(missing_ok=True)
        postgres.stop()


def _demo_world(environment: dict[str, str]) -> str:
    """Migrate and load the demo world, once a day and for every change; returns the line with the sign-in."""
    code = ROOT / "src/acuthesis"
    kept = WORK / "sign-in.txt"
    wanted = fingerprint(code / "store", code / "demo", postgres.STATE) + date.today().isoformat()
    if not kept.exists() or not is_stamped("demo", wanted):
        with step("database and demo world"):
            said = run([str(PYTHON), "-m", "acuthesis.demo"], log="demo", env=environment)
        write_private(kept, said.strip().splitlines()[-1])
        stamp("demo", wanted)
    return kept.read_text()


def start_server(port: int, environment: dict[str, str]) -> subprocess.Popen[bytes]:
    """Start the web process on loopback, with the environment of this one but for database addresses."""
    LOGS.mkdir(parents=True, exist_ok=True)
    command = [str(PYTHON), "-m", "uvicorn", "acuthesis.api.app:app", "--host", "127.0.0.1", "--port", str(port)]
    kept = {name: value for name, value in os.environ.items() if not name.startswith("ACUTHESIS_") or name in PASSED_ON}
    with (LOGS / "server.log").open("w") as log:
        return subprocess.Popen(
            [*command, "--log-level", "warning", "--no-server-header", "--no-proxy-headers"],
            cwd=ROOT,
            env={**kept, **environment},
            stdout=log,
            stderr=subprocess.STDOUT,
            start_new_session=True,
        )


def _serve(port: int, environment: dict[str, str], sign_in: str, begun: float) -> int:
    process = start_server(port, environment)
    # Asked to end from outside, end as with Ctrl-C: the server first, then the database. Said for both signals,
    # because a shell starts what it puts in the background with Ctrl-C switched off.
    for asked in (signal.SIGTERM, signal.SIGINT):
        signal.signal(asked, _end)
    SERVE_STATE.write_text(json.dumps({"port": port, "pid": os.getpid()}))
    try:
        with step(f"server on port {port}"):
            _wait_for(port, process)
        print(f"\n  http://127.0.0.1:{port}   {sign_in}   ({time.monotonic() - begun:.1f} s)", flush=True)
        print("  Plain http, for this machine only: nothing outside it can connect.", flush=True)
        print("  Ctrl-C stops everything.", flush=True)
        return process.wait()
    except KeyboardInterrupt:
        print("\n  stopping", flush=True)
        return 0
    finally:
        process.terminate()
        try:
            process.wait(timeout=10)
        except subprocess.TimeoutExpired:
            process.kill()


def _end(*_: object) -> None:
    raise KeyboardInterrupt


def _wait_for(port: int, process: subprocess.Popen[bytes]) -> None:
    for _ in range(300):
        if process.poll() is not None:
            raise CannotGoOn("the server ended at once; see .acuthesis/logs/server.log")
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/health", timeout=2):
                return
        except (urllib.error.URLError, OSError):
            time.sleep(0.1)
    raise CannotGoOn("the server does not answer after 30 s; see .acuthesis/logs/server.log")


def _served() -> int | None:
    """Port of the running demo, or None."""
    if not SERVE_STATE.exists():
        return None
    try:
        state = json.loads(SERVE_STATE.read_text())
        os.kill(int(state["pid"]), 0)
    except (ValueError, KeyError, ProcessLookupError):
        return None
    except PermissionError:
        pass
    with socket.socket() as probe:
        probe.settimeout(0.5)
        return int(state["port"]) if probe.connect_ex(("127.0.0.1", int(state["port"]))) == 0 else None


def _is_alive(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True


def status(_: list[str]) -> int:
    """Say what runs."""
    port, server = _served(), postgres.running()
    print(f"server:   {'http://127.0.0.1:' + str(port) if port else 'not running'}")
    print(f"database: {f'port {server.port}, data in {server.data}' if server else 'not running'}")
    return 0


def stop(_: list[str]) -> int:
    """Stop the demo and the database."""
    if _served() is not None:
        pid = int(json.loads(SERVE_STATE.read_text())["pid"])
        os.kill(pid, signal.SIGTERM)
        # Until it has ended, and with it the database that it stops last: what is started next must not lose it.
        for _ in range(300):
            if not _is_alive(pid):
                break
            time.sleep(0.1)
        print("server stopped")
    print("database stopped" if postgres.stop() else "nothing else runs")
    return 0


def reset(arguments: list[str]) -> int:
    """Throw the database away, after asking."""
    if "--yes" not in arguments:
        answer = input("Throw away all data of this checkout's database? Type yes: ") if sys.stdin.isatty() else ""
        if answer.strip().lower() != "yes":
            raise CannotGoOn("nothing was touched. Answer yes, or call ./acuthesis reset --yes.")
    stop([])
    postgres.remove()
    print("the database is gone; ./acuthesis demo makes a new one")
    return 0


def client(_: list[str]) -> int:
    """Write the API's description and the TypeScript types made from it."""
    machine.debian_packages(for_tests=False)
    machine.python_packages()
    checks.write_client(machine.node_packages())
    print("web/src/api/schema.ts and facts.gen.ts are up to date")
    return 0


def _bench_arguments(arguments: list[str]) -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="./acuthesis bench")
    parser.add_argument("--large", action="store_true", help="with a practice of 1,000 people and 60,000 visits")
    parser.add_argument("--fuzz", type=int, metavar="CALLS", help="anything sent to the API in any state")
    parser.add_argument("--kills", type=int, metavar="N", help="application and database killed while events stream in")
    return parser.parse_args(arguments)


def bench(arguments: list[str]) -> int:
    """Measure, in a database of its own that is gone afterwards: the demo and a practice are not touched."""
    wanted = _bench_arguments(arguments)
    machine.debian_packages(for_tests=True)
    machine.python_packages()
    machine.body_asset()
    if wanted.kills:
        return _python("benchmarks.kills", str(wanted.kills))
    was_running = postgres.running() is not None
    server = postgres.start()
    environment = _keeper_environment(server, BENCH)
    try:
        _as_superuser(server, f'DROP DATABASE IF EXISTS "{BENCH}" WITH (FORCE)')
        if wanted.fuzz:
            return _python("benchmarks.fuzz", str(wanted.fuzz), env=environment)
        run([str(PYTHON), "-m", "acuthesis.demo"], log="demo", env=environment)
        ratios = _python("benchmarks.ratios", env=environment)
        return _python("benchmarks.growth", *(["--large"] if wanted.large else []), env=environment) or ratios
    finally:
        _as_superuser(server, f'DROP DATABASE IF EXISTS "{BENCH}" WITH (FORCE)')
        if not was_running:
            postgres.stop()


def _python(module: str, *arguments: str, env: dict[str, str] | None = None) -> int:
    command = [str(PYTHON), "-m", module, *arguments]
    return subprocess.run(command, cwd=ROOT, env={**os.environ, **(env or {})}, check=False).returncode


def _one_file(arguments: list[str], name: str) -> str:
    if len(arguments) != 1:
        raise CannotGoOn(f"./acuthesis {name} FILE takes one file.")
    return arguments[0]


def _postgres_tool(server: postgres.Server, tool: str, *arguments: str, database: str = DATABASE) -> None:
    programs = machine.postgres_programs()
    assert programs is not None  # the server runs, so its programs are there
    connection = ["-h", "127.0.0.1", "-p", str(server.port), "-U", "postgres", "-d", database]
    run([str(programs / tool), *connection, *arguments], log=tool, env={"PGPASSWORD": server.passwords["postgres"]})


def _as_superuser(server: postgres.Server, *statements: str) -> None:
    told = [argument for statement in statements for argument in ("-c", statement)]
    _postgres_tool(server, "psql", "-v", "ON_ERROR_STOP=1", *told, database="postgres")


def dump(arguments: list[str]) -> int:
    """Write the whole database to a file that only its owner can read."""
    path = _one_file(arguments, "dump")
    was_running = postgres.running() is not None
    server = postgres.start()
    try:
        with step(f"dump to {path}"):
            partial = Path(f"{path}.partial")
            try:
                write_private(partial, "")
                _postgres_tool(server, "pg_dump", "--format=custom", f"--file={partial}")
                partial.replace(path)
            finally:
                partial.unlink(missing_ok=True)
    finally:
        if not was_running:
            postgres.stop()
    return 0


def _ensure(server: postgres.Server, database: str) -> None:
    """Roles, the database, and its newest schema."""
    code = "from acuthesis.store.setup import ensure_from_environment; ensure_from_environment()"
    run([str(PYTHON), "-c", code], log="database", env=_keeper_environment(server, database))


def restore(arguments: list[str]) -> int:
    """Bring the whole database back from a file of this or an earlier version: all of it or nothing.

    It comes into an empty database of its own, is migrated there, and only then takes the place of what was there.
    """
    path = _one_file(arguments, "restore")
    if not Path(path).exists():
        raise CannotGoOn(f"{path}: there is no such file.")
    if _served() is not None:
        raise CannotGoOn("the demo runs. ./acuthesis stop first, then restore.")
    machine.python_packages()
    server = postgres.start()
    coming, going = f"{DATABASE}_coming", f"{DATABASE}_going"
    try:
        with step(f"restore from {path}"):
            _ensure(server, DATABASE)  # after a reset, or on another machine, there are no roles yet
            _as_superuser(
                server,
                f'DROP DATABASE IF EXISTS "{coming}" WITH (FORCE)',
                f'CREATE DATABASE "{coming}" OWNER acuthesis_owner',
            )
            _postgres_tool(server, "pg_restore", "--single-transaction", path, database=coming)
            _ensure(server, coming)
            _as_superuser(
                server,
                f'DROP DATABASE IF EXISTS "{going}" WITH (FORCE)',
                # A forgotten connection must not stand in the way of the new names.
                f"SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname IN ('{DATABASE}', '{coming}')",
                f'ALTER DATABASE "{DATABASE}" RENAME TO "{going}"',
                f'ALTER DATABASE "{coming}" RENAME TO "{DATABASE}"',
                f'DROP DATABASE "{going}" WITH (FORCE)',
            )
    finally:
        with contextlib.suppress(CannotGoOn):
            _as_superuser(server, f'DROP DATABASE IF EXISTS "{coming}" WITH (FORCE)')
        postgres.stop()
    return 0
