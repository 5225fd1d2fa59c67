"""The commands of ./acuthesis."""

import argparse
import os
import secrets
import subprocess
import sys

from launch import backup, checks, developing, homes, machine, serving
from launch.machine import PYTHON, TEST_PYTHON
from launch.steps import ROOT, WORK, CannotGoOn, run

BENCH = "acuthesis_bench"
CORE_COMMANDS = ("atlas", "point", "search", "locate", "compose", "conduct", "follow", "build-body")
HELP = """Acuthesis.

  ./acuthesis demo [--port N]   prepare what is missing, load the demo, serve it (Ctrl-C stops everything)
  ./acuthesis serve             serve a practice of your own (--port, --host, --data, --https: see --help)
  ./acuthesis dev [--port N]    run the demo's data while you work: the API and the browser reload
  ./acuthesis test [-- ARGS]    prepare, then run every check and test (ARGS go to pytest, which then runs alone);
                                --long: all drawn cases in full; --days: fifteen other dates
  ./acuthesis status            what runs, and where
  ./acuthesis stop              stop what runs (--of demo, --of practice)
  ./acuthesis reset             delete the demo's data (asks first)
  ./acuthesis passwd EMAIL      set a new password for an account
  ./acuthesis client            write the TypeScript client from the API's description
  ./acuthesis bench             speed, as ratios within one run (--push, --large, --fuzz and more: see --help)
  ./acuthesis dump FILE         write the whole database to a file or into a folder (--keep N, --to RECIPIENT)
  ./acuthesis restore FILE      restore it, or test that it can be restored (--drill); --key FILE for an encrypted one
  ./acuthesis verify-audit      check that no audit entry was changed, removed or inserted
  ./acuthesis rotate-keys       encrypt the database's secrets with a new key
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
        "demo": serving.demo,
        "dev": developing.dev,
        "serve": serving.serve,
        "test": checks.test,
        "status": serving.status,
        "stop": serving.stop,
        "reset": reset,
        "passwd": backup.passwd,
        "client": client,
        "bench": bench,
        "dump": backup.dump,
        "restore": backup.restore,
        "rotate-keys": backup.rotate_keys,
        "verify-audit": backup.verify_audit,
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


def reset(arguments: list[str]) -> int:
    """Throw an installation's data away, after asking: the demo's, unless the practice is named."""
    parser = argparse.ArgumentParser(prog="./acuthesis reset")
    parser.add_argument("--yes", action="store_true", help="do not ask")
    homes.add_choice(parser)
    told = parser.parse_args(arguments)
    home = homes.practice(told.data) if told.data or told.of == "practice" else homes.demo()
    if not told.yes:
        what = "your own practice: every record in it" if home.name == "practice" else "the demo"
        answer = input(f"Throw away all data of {what}? Type {home.name}: ") if sys.stdin.isatty() else ""
        if answer.strip().lower() != home.name:
            raise CannotGoOn(f"nothing was touched. Answer {home.name}, or add --yes.")
    if home.served() is not None:
        serving.stop(["--of", home.name, *(["--data", told.data] if told.data else [])])
    home.cluster.remove()
    command = "demo" if home.name == "demo" else "serve"
    print(f"the data of the {home.name} is gone; ./acuthesis {command} begins anew")
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
    parser.add_argument("--push", action="store_true", help="bursts, large and slow requests, heavy work beside cheap")
    parser.add_argument(
        "--table",
        action="store_true",
        help="treating: events, a key on screen, a new plan",
    )
    parser.add_argument("--panel", action="store_true", help="hold what is composed against the reference cases")
    parser.add_argument("--mutants", type=int, metavar="N", help="do the tests notice N small changes of the core?")
    parser.add_argument("--web-mutants", action="store_true", help="the same for web/src/treatment, all changes")
    parser.add_argument("--seed", type=int, help="with --mutants: the seed of a run that is to be repeated")
    parser.add_argument("--care", type=int, metavar="N", help="compose for N drawn people and hold each score to care")
    return parser.parse_args(arguments)


def bench(arguments: list[str]) -> int:
    """Measure, in a database of its own that is gone afterwards: the demo and a practice are not touched."""
    wanted = _bench_arguments(arguments)
    machine.debian_packages(for_tests=True)
    machine.python_packages(for_tests=True)
    machine.body_asset()
    if wanted.panel:
        return _python("benchmarks.panel")
    if wanted.push:
        machine.front_end()
        return _python("benchmarks.push")
    if wanted.table:
        machine.front_end()
        return _python("benchmarks.table")
    if wanted.mutants:
        machine.mutation_tool()
        seed = secrets.randbelow(10**6) if wanted.seed is None else wanted.seed
        return _python("benchmarks.mutants", str(wanted.mutants), str(seed))
    if wanted.web_mutants:
        node = machine.node_packages()
        checks.write_vectors(long=False)
        return _python("benchmarks.web_mutants", *node.npx, env=node.env)
    if wanted.care:
        return _python("benchmarks.care", str(wanted.care))
    if wanted.kills:
        return _python("benchmarks.kills", str(wanted.kills))
    cluster = homes.demo().cluster
    was_running = cluster.running() is not None
    server = cluster.start()
    environment = homes.keeper_environment(server, BENCH)
    try:
        backup.as_superuser(server, f'DROP DATABASE IF EXISTS "{BENCH}" WITH (FORCE)')
        if wanted.fuzz:
            return _python("benchmarks.fuzz", str(wanted.fuzz), env=environment)
        run([str(PYTHON), "-m", "acuthesis.demo"], log="demo", env=environment)
        ratios = _python("benchmarks.ratios", env=environment)
        return _python("benchmarks.growth", *(["--large"] if wanted.large else []), env=environment) or ratios
    finally:
        backup.as_superuser(server, f'DROP DATABASE IF EXISTS "{BENCH}" WITH (FORCE)')
        if not was_running:
            cluster.stop()


def _python(module: str, *arguments: str, env: dict[str, str] | None = None) -> int:
    command = [str(TEST_PYTHON), "-m", module, *arguments]
    return subprocess.run(command, cwd=ROOT, env={**os.environ, **(env or {})}, check=False).returncode
