"""./acuthesis test: every check, then every test, with the time of each."""

import argparse
import json
import os
import secrets
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from launch import days, homes, machine
from launch.machine import PYTHON, TEST_PYTHON, TEST_VENV, WEB, Node
from launch.steps import ROOT, WORK, CannotGoOn, fingerprint, is_stamped, run, stamp, step

CLIENT = WEB / "src" / "api"
SCHEMA, FACTS = "schema.ts", "facts.gen.ts"
VECTORS = WORK / "vectors.json"
PYTHON_SOURCES = [
    ROOT / name
    for name in ("acuthesis", "src", "tests", "launch", "benchmarks", "pyproject.toml", "requirements-test.lock")
]
WEB_SOURCES = [WEB / "src", *sorted(WEB.glob("*.json")), *sorted(WEB.glob("*.ts"))]
COURSES = 400  # of events, some twelve each, that the interface's fold is held against; a fifth in a usual run


def write_client(node: Node, folder: Path = CLIENT) -> None:
    """Write the TypeScript types of the API, and the facts that both sides need, into a folder."""
    code = (
        "import json; from acuthesis.api.app import app; from acuthesis.api.facts import shared_facts; "
        "print(json.dumps({'api': app.openapi(), 'facts': shared_facts()}, sort_keys=True))"
    )
    told = json.loads(run([str(PYTHON), "-c", code], log="openapi"))
    described = json.dumps(told["api"], indent=2)
    facts = json.dumps(told["facts"], indent=2, ensure_ascii=False)
    said = "/** Written by ./acuthesis client from src/acuthesis/api/facts.py: correct it there. */\n"
    (folder / FACTS).write_text(f"{said}export const facts = {facts} as const;\n")
    target = folder / SCHEMA
    with tempfile.TemporaryDirectory() as aside:
        description = Path(aside) / "openapi.json"
        description.write_text(described)
        node.run("openapi-typescript", str(description), "-o", str(target), log="client")


def write_vectors(long: bool) -> None:
    """Write what the core's fold makes of drawn courses: Vitest holds the interface's fold against it."""
    courses = COURSES if long else COURSES // 5
    run([str(PYTHON), "-m", "acuthesis.stand_ins.vectors", str(VECTORS), str(courses)], log="vectors")


def _client_is_current(node: Node) -> None:
    fresh = WORK / "client"
    fresh.mkdir(parents=True, exist_ok=True)
    write_client(node, fresh)
    if any(
        not (CLIENT / name).exists() or (fresh / name).read_text() != (CLIENT / name).read_text()
        for name in (SCHEMA, FACTS)
    ):
        raise CannotGoOn("the TypeScript client differs from the API. ./acuthesis client writes it.")


def _unless_passed(name: str, sources: list[Path], check: Callable[[], None], always: bool) -> None:
    """Run a check, unless it has passed on the very same files before: then it is skipped, but for a long run."""
    checked = fingerprint(*sources)
    if always or not is_stamped(f"passed-{name}", checked):
        check()
        stamp(f"passed-{name}", checked)


def _python_checks() -> None:
    tool = TEST_VENV / "bin"
    run([str(tool / "ruff"), "format", "--check", "."], log="format", hint="ruff format . mends it.")
    run([str(tool / "ruff"), "check", "."], log="lint")
    run([str(tool / "mypy")], log="types")
    run([str(tool / "lint-imports")], log="imports")


def _web_checks(node: Node, always: bool) -> None:
    def check() -> None:
        node.run("biome", "ci", "src", log="biome")
        node.run("tsc", "--noEmit", log="tsc")
        node.run("tsc", "--noEmit", "-p", "tsconfig.test.json", log="tsc-tests")

    _unless_passed("web", WEB_SOURCES, check, always)
    _client_is_current(node)


def _web_tests(node: Node, long: bool) -> None:
    def check() -> None:
        node.run("vitest", "run", log="vitest", env={"ACUTHESIS_VECTORS": str(VECTORS)})

    write_vectors(long)
    _unless_passed("vitest", [*WEB_SOURCES, VECTORS], check, long)


def _wanted(arguments: list[str]) -> tuple[argparse.Namespace, list[str]]:
    """The options of a test run, and what is for pytest."""
    at = arguments.index("--") if "--" in arguments else len(arguments)
    parser = argparse.ArgumentParser(prog="./acuthesis test")
    parser.add_argument("--long", action="store_true", help="everything that is drawn in full, from new seeds")
    parser.add_argument("--seed", type=int, help="with --long: the seed of a run that is to be repeated")
    parser.add_argument("--days", action="store_true", help="only the tests that know a date, on fifteen other days")
    return parser.parse_args(arguments[:at]), arguments[at + 1 :]


def test(arguments: list[str]) -> int:
    """Prepare the machine, run the checks, then pytest; with arguments only pytest, with `--days` only other days.

    `--long`: everything that is drawn in full, from a new seed or the one that is given (`--seed`).
    """
    begun = time.monotonic()
    wanted, rest = _wanted(arguments)
    only_days = wanted.days
    seed = wanted.seed if wanted.seed is not None else secrets.randbelow(10**6)
    tier = {} if rest else {"ACUTHESIS_TEST_SHORT": "1"}
    if wanted.long:
        tier = {"ACUTHESIS_TEST_LONG": "1", "ACUTHESIS_TEST_SEED": str(seed)}
    drawing = [f"--hypothesis-seed={seed}"] if wanted.long else []
    again = f", drawn anew (again: ./acuthesis test --long --seed {seed})" if wanted.long else ""
    print(f"Acuthesis: tests{again}", flush=True)
    machine.debian_packages(for_tests=True)
    machine.python_packages(for_tests=True)
    machine.browser()
    node = machine.node_packages()
    machine.front_end()
    machine.body_asset()
    cluster = homes.demo().cluster
    was_running = cluster.running() is not None
    try:
        server = cluster.start()
        if not (rest or only_days):
            with (
                step("format, lint, types, imports, front end and its own tests, client"),
                ThreadPoolExecutor(3) as pool,
            ):
                tests = pool.submit(_web_tests, node, wanted.long)
                python = pool.submit(_unless_passed, "python", PYTHON_SOURCES, _python_checks, wanted.long)
                web = pool.submit(_web_checks, node, wanted.long)
                for done in (tests, python, web):
                    done.result()
        sys.stdout.flush()
        urls = {f"ACUTHESIS_TEST_{role.upper()}": server.url(role, "{}") for role in server.passwords}
        # Two workers take file by file, in the order that tests/conftest.py gives.
        spread = [] if rest else ["-n", "2", "--dist", "loadscope", "--no-loadscope-reorder"]
        code = 0
        if not only_days:
            command = [str(TEST_PYTHON), "-m", "pytest", *spread, *drawing, *rest]
            code = subprocess.run(command, cwd=ROOT, env={**os.environ, **urls, **tier}, check=False).returncode
        if only_days:
            print("tests that know a date, on other days", flush=True)
            code = days.run_tests(days.MOMENTS, (*days.OF_API, *days.OF_BROWSER), urls)
        elif wanted.long and not rest:
            print("tests that know a date, on another day", flush=True)
            code = max(code, days.run_tests(days.IN_LONG, days.OF_LONG, urls))
    finally:
        if not was_running:
            cluster.stop()
    print(f"tests took {time.monotonic() - begun:.0f} s in all")
    return code
