"""The launcher: what stands in its way is one clear line with a way out."""

import json
import socket
import subprocess
import sys
import uuid

import pytest
from launch.steps import CannotGoOn
from sqlalchemy import create_engine, text

from acuthesis.settings import ROOT
from acuthesis.store.setup import ensure_database
from launch import commands, machine, postgres, steps

OWNER_AND_APP = ("acuthesis_owner", "acuthesis_app")


@pytest.fixture
def workshop(tmp_path, monkeypatch):
    """A working folder of the test's own, so that the checkout's server is not touched."""
    for module in (steps, postgres, machine, commands):
        if hasattr(module, "WORK"):
            monkeypatch.setattr(module, "WORK", tmp_path)
    monkeypatch.setattr(steps, "LOGS", tmp_path / "logs")
    monkeypatch.setattr(postgres, "LOGS", tmp_path / "logs")
    monkeypatch.setattr(steps, "ROOT", tmp_path)
    monkeypatch.setattr(postgres, "ROOT", tmp_path)
    monkeypatch.setattr(postgres, "STATE", tmp_path / "postgres.json")
    monkeypatch.setattr(commands, "SERVE_STATE", tmp_path / "serve.json")
    return tmp_path


def test_a_program_that_fails_is_told_in_one_line_with_its_log(workshop):
    with pytest.raises(CannotGoOn) as told:
        steps.run(
            [sys.executable, "-c", "print('first'); print('the reason'); raise SystemExit(3)"],
            log="try",
            hint="Do this.",
        )
    assert str(told.value).endswith("failed: the reason (all of it: logs/try.log). Do this.")
    assert (workshop / "logs" / "try.log").read_text() == "first\nthe reason\n"
    with pytest.raises(CannotGoOn, match=r"no-such-program is not installed. Install it."):
        steps.run(["no-such-program"], log="try", hint="Install it.")
    with pytest.raises(CannotGoOn, match="did not finish in"):
        steps.run([sys.executable, "-c", "import time; time.sleep(5)"], log="try", timeout=0.2)


def test_a_stamp_holds_until_a_file_changes(workshop):
    source = workshop / "source"
    source.mkdir()
    (source / "a.txt").write_text("one")
    before = steps.fingerprint(source)
    steps.stamp("built", before)
    assert steps.is_stamped("built", steps.fingerprint(source))
    (source / "a.txt").write_text("two")
    assert not steps.is_stamped("built", steps.fingerprint(source))
    (source / "a.txt").write_text("one")
    assert steps.is_stamped("built", steps.fingerprint(source))


def test_a_taken_port_is_said_with_another_one(workshop):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        assert not postgres.port_is_free(port)
        with pytest.raises(
            CannotGoOn, match=f"port {port} is taken by another program. Choose one: ./acuthesis demo --port {port + 1}"
        ):
            commands.demo(["--port", str(port)])
    assert postgres.port_is_free(port)
    with pytest.raises(CannotGoOn, match="not between 1024 and 65535"):
        commands.demo(["--port", "80"])


def test_a_damaged_state_or_data_folder_leads_to_reset(workshop):
    postgres.STATE.write_text("{ not json")
    with pytest.raises(CannotGoOn, match="is damaged"):
        postgres.start()
    gone = {"data": str(workshop / "gone"), "port": 54999, "passwords": {}}
    postgres.STATE.write_text(json.dumps(gone))
    with pytest.raises(CannotGoOn, match="is gone or broken"):
        postgres.start()
    postgres.remove()
    assert not postgres.STATE.exists()


def test_reset_asks_and_touches_nothing_without_a_yes(workshop, monkeypatch):
    monkeypatch.setattr(sys, "stdin", open("/dev/null"))  # noqa: SIM115, PTH123
    postgres.STATE.write_text("{}")
    with pytest.raises(CannotGoOn, match="nothing was touched"):
        commands.reset([])
    assert postgres.STATE.exists()


def test_status_of_nothing(workshop, capsys):
    commands.SERVE_STATE.write_text(json.dumps({"port": 1, "pid": 2**22 + 1}))
    assert commands.status([]) == 0
    assert capsys.readouterr().out == "server:   not running\ndatabase: not running\n"


def test_restore_of_a_file_that_is_not_there(workshop):
    with pytest.raises(CannotGoOn, match="there is no such file"):
        commands.restore([str(workshop / "nothing.dump")])
    with pytest.raises(CannotGoOn, match="takes one file"):
        commands.dump([])


def test_a_dump_outlives_the_database(tmp_path, monkeypatch):
    """With a server of the test's own: everything is thrown away, and comes back with its walls between practices."""
    monkeypatch.setattr(postgres, "WORK", tmp_path)
    monkeypatch.setattr(postgres, "ROOT", tmp_path)
    monkeypatch.setattr(postgres, "STATE", tmp_path / "postgres.json")
    monkeypatch.setattr(commands, "SERVE_STATE", tmp_path / "serve.json")
    file = str(tmp_path / "all.dump")
    practice = {"id": str(uuid.uuid4()), "name": "Harbour room"}

    def owned(statement, **values):
        engine = create_engine(postgres.start().url("acuthesis_owner", commands.DATABASE))
        with engine.begin() as connection:
            done = connection.execute(text(statement), values)
            rows = list(done) if done.returns_rows else []
        engine.dispose()
        return rows

    try:
        server = postgres.start()
        urls = [server.url("postgres", "postgres"), *(server.url(r, commands.DATABASE) for r in OWNER_AND_APP)]
        ensure_database(*urls)
        owned("INSERT INTO practice (id, name) VALUES (:id, :name)", **practice)
        assert commands.dump([file]) == 0
        assert commands.reset(["--yes"]) == 0
        assert not server.data.exists()
        assert commands.restore([file]) == 0
        assert [tuple(map(str, row)) for row in owned("SELECT id, name FROM practice")] == [tuple(practice.values())]
        forced = "SELECT relrowsecurity AND relforcerowsecurity FROM pg_class WHERE relname = 'person'"
        assert owned(forced) == [(True,)]
    finally:
        postgres.remove()


def test_help_and_unknown_commands():
    shown = subprocess.run(
        [sys.executable, str(ROOT / "acuthesis"), "--help"], capture_output=True, text=True, check=False
    )
    assert shown.returncode == 0
    assert "./acuthesis demo" in shown.stdout
    unknown = subprocess.run(
        [sys.executable, str(ROOT / "acuthesis"), "dance"], capture_output=True, text=True, check=False
    )
    assert unknown.returncode == 2


def test_the_core_runs_from_a_checkout():
    command = [sys.executable, str(ROOT / "acuthesis"), "search", "inner wrist"]
    done = subprocess.run(command, capture_output=True, text=True, check=False, cwd="/")
    assert done.returncode == 0, done.stderr
    assert done.stdout.startswith("HT7")
    wrong = subprocess.run([*command[:2], "point", "SP99"], capture_output=True, text=True, check=False)
    assert (wrong.returncode, wrong.stderr.count("\n")) == (2, 1)


def test_locks_name_no_registry_and_carry_hashes():
    for lock in ROOT.glob("requirements*.lock"):
        text = lock.read_text()
        assert "://" not in text
        assert "index-url" not in text
        assert text.count("--hash=sha256:") >= text.count("==")
    packages = (ROOT / "web" / "package-lock.json").read_text()
    assert '"resolved"' not in packages
