"""Backups of an installation's database: written, kept, tried out, brought back; and a lost password."""

import argparse
import contextlib
import getpass
import os
import subprocess
import sys
import tempfile
from datetime import datetime
from pathlib import Path

from launch import homes, machine
from launch.homes import DATABASE, Home
from launch.machine import PYTHON
from launch.postgres import Server
from launch.steps import CannotGoOn, run, step, write_private

DRILL = "acuthesis_drill"
ENCRYPTED = b"age-encryption.org/v1"  # how an encrypted dump begins
# What a drill counts, so that whoever tries a backup sees whether it is all there.
COUNTED = ("person", "visit", "treatment_event", "rating")


def postgres_tool(server: Server, tool: str, *arguments: str, database: str = DATABASE) -> str:
    """Run one of PostgreSQL's programs as the superuser. Returns what it printed."""
    return run(postgres_command(server, tool, *arguments, database=database), log=tool, env=_password(server))


def postgres_command(server: Server, tool: str, *arguments: str, database: str = DATABASE) -> list[str]:
    """The command line of one of PostgreSQL's programs, as the superuser."""
    programs = machine.postgres_programs()
    assert programs is not None  # the server runs, so its programs are there
    connection = ["-h", "127.0.0.1", "-p", str(server.port), "-U", "postgres", "-d", database]
    return [str(programs / tool), *connection, *arguments]


def _password(server: Server) -> dict[str, str]:
    return {"PGPASSWORD": server.passwords["postgres"]}


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
    parser.add_argument("--to", metavar="RECIPIENT", help="encrypt it to this age recipient (age1...)")
    parser.add_argument("--new-key", metavar="FILE", help="make a key, write it to FILE, and encrypt the dump to it")
    told = parser.parse_args(arguments)
    path, home = Path(told.path), homes.chosen(told)
    if told.to and told.new_key:
        raise CannotGoOn("--to RECIPIENT or --new-key FILE, not both.")
    recipient = _recipient(told.to, told.new_key)
    if told.keep is not None and (told.keep < 1 or not path.is_dir()):
        raise CannotGoOn("--keep N is for a folder that exists, and keeps at least one.")
    into = path if path.is_dir() else None
    if into is not None:
        path = into / f"acuthesis-{home.name}-{datetime.now().astimezone():%Y-%m-%dT%H%M%S.%f}.dump"
    _dump(home, path, recipient)
    if into is not None and told.keep is not None:
        for old in sorted(into.glob(f"acuthesis-{home.name}-*.dump"))[: -told.keep]:
            old.unlink()
            print(f"  removed {old.name}")
    return 0


def _recipient(named: str | None, new_key: str | None) -> str | None:
    if new_key is None:
        return named
    recipient = _keeper("new-identity", new_key).strip()
    print(f"  The key is in {new_key}. Move it to another machine or a safe: it opens the dumps encrypted to it.")
    print(f"  From now on: --to {recipient}")
    return recipient


def _keeper(*arguments: str, env: dict[str, str] | None = None) -> str:
    return run([str(PYTHON), "-m", "acuthesis.keeper", *arguments], log=f"keeper-{arguments[0]}", env=env)


def _piped(first: list[str], second: list[str], env: dict[str, str], *, source: Path, target: Path | None) -> None:
    """Two programs, the first's output into the second; the plain dump is never on the disk. Raises: CannotGoOn."""
    environment = {**os.environ, **env}
    with source.open("rb") as taken, contextlib.ExitStack() as stack:
        given = stack.enter_context(target.open("wb")) if target else None
        one, two = (stack.enter_context(tempfile.TemporaryFile()) for _ in range(2))
        reads = subprocess.Popen(first, stdin=taken, stdout=subprocess.PIPE, stderr=one, env=environment)
        writes = subprocess.Popen(second, stdin=reads.stdout, stdout=given or two, stderr=two, env=environment)
        assert reads.stdout is not None
        reads.stdout.close()  # so that the first hears when the second ends
        failed = [(writes.wait(), second, two), (reads.wait(), first, one)]
        for said in (one, two):
            said.seek(0)
        # Our own program says best what is wrong; the other one then sees only that its input or output broke off.
        for code, command, said in sorted(failed, key=lambda end: "acuthesis.keeper" not in end[1]):
            if code:
                told = said.read().decode(errors="replace").strip().splitlines()
                raise CannotGoOn(told[-1] if told else f"{Path(command[0]).name} failed")


def _dump(home: Home, path: Path, recipient: str | None = None) -> None:
    was_running = home.cluster.running() is not None
    server = home.cluster.start()
    try:
        with step(f"dump of the {home.name} to {path}"):
            partial = Path(f"{path}.partial")
            try:
                write_private(partial, "")
                _keeper("ledger", env=homes.keeper_environment(server))
                if recipient is None:
                    postgres_tool(server, "pg_dump", "--format=custom", f"--file={partial}")
                else:
                    writes = postgres_command(server, "pg_dump", "--format=custom")
                    seals = [str(PYTHON), "-m", "acuthesis.keeper", "encrypt", recipient]
                    _piped(writes, seals, _password(server), source=Path(os.devnull), target=partial)
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
    parser.add_argument("--key", metavar="FILE", help="the file with the key that opens an encrypted dump")
    homes.add_choice(parser)
    told = parser.parse_args(arguments)
    home = homes.chosen(told, fresh="practice")
    if not Path(told.path).exists():
        raise CannotGoOn(f"{told.path}: there is no such file.")
    key = _key_for(Path(told.path), told.key)
    if told.drill:
        return _drill(home, told.path, key)
    if home.served() is not None:
        raise CannotGoOn(f"the {home.name} runs. ./acuthesis stop --of {home.name} first, then restore.")
    machine.python_packages()
    _restore(home, told.path, key)
    return 0


def _key_for(path: Path, named: str | None) -> Path | None:
    """The file with the key of an encrypted dump: named, or asked for; None for a dump that is not encrypted."""
    with path.open("rb") as file:
        if file.read(len(ENCRYPTED)) != ENCRYPTED:
            return None
    if named is None and sys.stdin.isatty():
        named = input("This dump is encrypted. File with its key: ").strip()
    if not named:
        raise CannotGoOn(f"{path} is encrypted. Name the file with its key: --key FILE")
    if not Path(named).exists():
        raise CannotGoOn(f"{named}: there is no such file.")
    return Path(named)


def _come_in(server: Server, path: str, database: str, key: Path | None) -> None:
    """A dump into an empty database, brought to the newest schema."""
    as_superuser(
        server,
        f'DROP DATABASE IF EXISTS "{database}" WITH (FORCE)',
        f'CREATE DATABASE "{database}" OWNER acuthesis_owner',
    )
    if key is None:
        postgres_tool(server, "pg_restore", "--single-transaction", path, database=database)
    else:
        opens = [str(PYTHON), "-m", "acuthesis.keeper", "decrypt", str(key)]
        reads = postgres_command(server, "pg_restore", "--single-transaction", database=database)
        _piped(opens, reads, _password(server), source=Path(path), target=None)
    ensure(server, database)


def _restore(home: Home, path: str, key: Path | None) -> None:
    server = home.cluster.start()
    coming, going = f"{DATABASE}_coming", f"{DATABASE}_going"
    try:
        with step(f"restore of the {home.name} from {path}"):
            ensure(server)  # after a reset, or on another machine, there are no roles yet
            _keeper("ledger", env=homes.keeper_environment(server))  # what was erased in the database that goes
            _come_in(server, path, coming, key)
            said = [_keeper("after-restore", env=homes.keeper_environment(server, coming)).strip()]
            said += _came_back_older(server, DATABASE, coming)
            as_superuser(
                server,
                f'DROP DATABASE IF EXISTS "{going}" WITH (FORCE)',
                # A forgotten connection must not stand in the way of the new names.
                f"SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname IN ('{DATABASE}', '{coming}')",
                f'ALTER DATABASE "{DATABASE}" RENAME TO "{going}"',
                f'ALTER DATABASE "{coming}" RENAME TO "{DATABASE}"',
                f'DROP DATABASE "{going}" WITH (FORCE)',
            )
        for line in said:
            print(f"  {line}")
    finally:
        with contextlib.suppress(CannotGoOn):
            as_superuser(server, f'DROP DATABASE IF EXISTS "{coming}" WITH (FORCE)')
        home.cluster.stop()


ACCOUNTS = (
    "SELECT id, name, coalesce(md5(password_hash), ''), closed_at IS NOT NULL, role, totp_since IS NOT NULL "
    "FROM practitioner ORDER BY name"
)


def _came_back_older(server: Server, now: str, coming: str) -> list[str]:
    """What an owner has to look at: accounts that differ between the dump and the database that it replaces."""
    rows = [as_superuser(server, ACCOUNTS, database=database).splitlines() for database in (now, coming)]
    before, after = ({row.split("|")[0]: row.split("|") for row in found if "|" in row} for found in rows)
    if not before:
        return ["No earlier database here to compare with: passwords, roles and closed accounts are the dump's."]
    said = []
    for id, row in after.items():
        was = before.get(id)
        if was is None:
            said.append(f"{row[1]}: an account that is not in the database that was here.")
            continue
        older = [
            name for at, name in ((2, "password"), (4, "role"), (5, "two-step verification")) if row[at] != was[at]
        ]
        if was[3] == "t" and row[3] == "f":
            said.append(f"{row[1]}: the account was closed, and is open again. Close it again under Practice.")
        elif older:
            said.append(f"{row[1]}: {', '.join(older)} as in the dump, which is older.")
    return said


def _drill(home: Home, path: str, key: Path | None) -> int:
    machine.python_packages()
    was_running = home.cluster.running() is not None
    server = home.cluster.start()
    try:
        with step(f"drill with {path}"):
            ensure(server)
            _come_in(server, path, DRILL, key)
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
    parser.add_argument("--no-second-factor", action="store_true", help="turn off two-step verification too")
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


def rotate_keys(arguments: list[str]) -> int:
    """Replace the key for what is encrypted in its column. The old one is kept until everything is encrypted anew."""
    parser = argparse.ArgumentParser(prog="./acuthesis rotate-keys")
    homes.add_choice(parser)
    home = homes.chosen(parser.parse_args(arguments))
    if home.served() is not None:
        raise CannotGoOn(f"the {home.name} runs. ./acuthesis stop --of {home.name} first.")
    fresh = homes.new_secret_key()
    homes.write_secret_keys(home.folder, [fresh, *homes.secret_keys(home.folder)])
    server = home.cluster.start()
    try:
        print(f"  {_keeper('reseal', env=homes.keeper_environment(server)).strip()}")
        homes.write_secret_keys(home.folder, [fresh])
    finally:
        home.cluster.stop()
    return 0


def verify_audit(arguments: list[str]) -> int:
    """Verify the hashes of the audit. Returns 1 where a row was changed, removed or put in."""
    parser = argparse.ArgumentParser(prog="./acuthesis verify-audit")
    homes.add_choice(parser)
    home = homes.chosen(parser.parse_args(arguments))
    was_running = home.cluster.running() is not None
    server = home.cluster.start()
    try:
        said = _keeper("verify-audit", env=homes.keeper_environment(server)).strip()
        print(said)
    finally:
        if not was_running:
            home.cluster.stop()
    return 1 if "CHANGED" in said else 0
