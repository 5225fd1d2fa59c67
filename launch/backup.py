"""Backups of an installation's database: written, kept, tried out, brought back; and a lost password."""

import argparse
import contextlib
import getpass
import sys
from datetime import datetime
from pathlib import Path

from launch import homes, machine
from launch.homes import DATABASE, Home
from launch.machine import PYTHON
from launch.postgres import Server
from launch.steps import CannotGoOn, run, step, write_private

DRILL = "acuthesis_drill"
# What a drill counts, so that whoever tries a backup sees whether it is all there.
COUNTED = ("person", "visit", "treatment_event", "rating")


def postgres_tool(server: Server, tool: str, *arguments: str, database: str = DATABASE) -> str:
    """Run one of PostgreSQL's programs as the superuser. Returns what it printed."""
    programs = machine.postgres_programs()
    assert programs is not None  # the server runs, so its programs are there
    connection = ["-h", "127.0.0.1", "-p", str(server.port), "-U", "postgres", "-d", database]
    environment = {"PGPASSWORD": server.passwords["postgres"]}
    return run([str(programs / tool), *connection, *arguments], log=tool, env=environment)


def as_superuser(server: Server, *statements: str, database: str = "postgres") -> str:
    """Run statements, each in a transaction of its own. Returns rows as psql prints them, without decoration."""
    told = [argument for statement in statements for argument in ("-c", statement)]
    return postgres_tool(server, "psql", "-v", "ON_ERROR_STOP=1", "-At", *told, database=database)


def ensure(server: Server, database: str = DATABASE) -> None:
    """Roles, the database, and its newest schema."""
    environment = homes.keeper_environment(server, database)
    run([str(PYTHON), "-m", "acuthesis.keeper", "ready"], log="database", env=environment)


def dump(arguments: list[str]) -> int:
    """Write the whole database to a file that only its owner can read; into a folder, and keep the last few."""
    parser = argparse.ArgumentParser(prog="./acuthesis dump")
    parser.add_argument("path", metavar="FILE", help="the file to write, or a folder for dated files")
    parser.add_argument("--keep", type=int, metavar="N", help="in a folder: keep the newest N, remove older ones")
    homes.add_choice(parser)
    told = parser.parse_args(arguments)
    path, home = Path(told.path), homes.chosen(told)
    if told.keep is not None and (told.keep < 1 or not path.is_dir()):
        raise CannotGoOn("--keep N is for a folder that exists, and keeps at least one.")
    into = path if path.is_dir() else None
    if into is not None:
        path = into / f"acuthesis-{home.name}-{datetime.now():%Y-%m-%dT%H%M%S.%f}.dump"
    _dump(home, path)
    if into is not None and told.keep is not None:
        for old in sorted(into.glob(f"acuthesis-{home.name}-*.dump"))[: -told.keep]:
            old.unlink()
            print(f"  removed {old.name}")
    return 0


def _dump(home: Home, path: Path) -> None:
    was_running = home.cluster.running() is not None
    server = home.cluster.start()
    try:
        with step(f"dump of the {home.name} to {path}"):
            partial = Path(f"{path}.partial")
            try:
                write_private(partial, "")
                postgres_tool(server, "pg_dump", "--format=custom", f"--file={partial}")
                partial.replace(path)
            finally:
                partial.unlink(missing_ok=True)
    finally:
        if not was_running:
            home.cluster.stop()


def restore(arguments: list[str]) -> int:
    """Bring the whole database back from a file of this or an earlier version: all of it or nothing.

    It comes into an empty database of its own, is migrated there, and only then takes the place of what was there. A
    drill stops before that, says what is in it, and leaves everything as it was.
    """
    parser = argparse.ArgumentParser(prog="./acuthesis restore")
    parser.add_argument("path", metavar="FILE", help="a file that dump wrote")
    parser.add_argument("--drill", action="store_true", help="try it out: count what is in it, and change nothing")
    homes.add_choice(parser)
    told = parser.parse_args(arguments)
    home = homes.chosen(told, fresh="practice")
    if not Path(told.path).exists():
        raise CannotGoOn(f"{told.path}: there is no such file.")
    if told.drill:
        return _drill(home, told.path)
    if home.served() is not None:
        raise CannotGoOn(f"the {home.name} runs. ./acuthesis stop --of {home.name} first, then restore.")
    machine.python_packages()
    _restore(home, told.path)
    return 0


def _come_in(server: Server, path: str, database: str) -> None:
    """A dump into an empty database, brought to the newest schema."""
    as_superuser(
        server,
        f'DROP DATABASE IF EXISTS "{database}" WITH (FORCE)',
        f'CREATE DATABASE "{database}" OWNER acuthesis_owner',
    )
    postgres_tool(server, "pg_restore", "--single-transaction", path, database=database)
    ensure(server, database)


def _restore(home: Home, path: str) -> None:
    server = home.cluster.start()
    coming, going = f"{DATABASE}_coming", f"{DATABASE}_going"
    try:
        with step(f"restore of the {home.name} from {path}"):
            ensure(server)  # after a reset, or on another machine, there are no roles yet
            _come_in(server, path, coming)
            as_superuser(
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
            as_superuser(server, f'DROP DATABASE IF EXISTS "{coming}" WITH (FORCE)')
        home.cluster.stop()


def _drill(home: Home, path: str) -> int:
    machine.python_packages()
    was_running = home.cluster.running() is not None
    server = home.cluster.start()
    try:
        with step(f"drill with {path}"):
            ensure(server)
            _come_in(server, path, DRILL)
            counted = {name: as_superuser(server, f"SELECT count(*) FROM {name}", database=DRILL) for name in COUNTED}
        print("  " + ", ".join(f"{count.strip()} {name.replace('_', ' ')}s" for name, count in counted.items()))
        print("  The file can be restored. Nothing was changed.")
    finally:
        with contextlib.suppress(CannotGoOn):
            as_superuser(server, f'DROP DATABASE IF EXISTS "{DRILL}" WITH (FORCE)')
        if not was_running:
            home.cluster.stop()
    return 0


def passwd(arguments: list[str]) -> int:
    """Give somebody a new password, on the machine itself; every browser of theirs is signed out."""
    parser = argparse.ArgumentParser(prog="./acuthesis passwd")
    parser.add_argument("email", help="what they sign in with")
    parser.add_argument("--no-second-factor", action="store_true", help="forget their second factor too: a lost phone")
    homes.add_choice(parser)
    told = parser.parse_args(arguments)
    home = homes.chosen(told)
    if sys.stdin.isatty():
        password = getpass.getpass("New password: ")
        if password != getpass.getpass("Once more: "):
            raise CannotGoOn("the two do not match; nothing was changed.")
    else:
        password = sys.stdin.readline().rstrip("\n")
    was_running = home.cluster.running() is not None
    server = home.cluster.start()
    try:
        command = [str(PYTHON), "-m", "acuthesis.keeper", "passwd", told.email]
        more = ["--no-second-factor"] if told.no_second_factor else []
        environment = {**homes.app_environment(server), "ACUTHESIS_NEW_PASSWORD": password}
        print(f"  {run([*command, *more], log='passwd', env=environment).strip()}")
    finally:
        if not was_running:
            home.cluster.stop()
    return 0
