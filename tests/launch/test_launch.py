"""The launcher: what stands in its way is one clear line with a way out."""

import json
import re
import shutil
import socket
import subprocess
import sys
import threading
import uuid
from pathlib import Path

import pytest
from launch.processes import identity
from launch.steps import CannotGoOn
from sqlalchemy import create_engine, text

from acuthesis.settings import ROOT
from launch import backup, commands, homes, machine, postgres, serving, steps, web_process
from tests.conftest import free_port
from tests.tiers import LONG

DUMPS = Path(__file__).parent / "dumps"  # a small one of each released version, in its schema
NEWEST = max(path.name[:4] for path in (ROOT / "src/acuthesis/store/migrations/versions").glob("0*.py"))


@pytest.fixture
def workshop(tmp_path, monkeypatch):
    """A working folder of the test's own, so that the checkout's server is not touched."""
    for module in (steps, machine, commands, homes):
        if hasattr(module, "WORK"):
            monkeypatch.setattr(module, "WORK", tmp_path)
    for module in (steps, postgres):
        monkeypatch.setattr(module, "LOGS", tmp_path / "logs")
    monkeypatch.setattr(steps, "ROOT", tmp_path)
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
            serving.demo(["--port", str(port)])
    assert postgres.port_is_free(port)
    with pytest.raises(CannotGoOn, match="not between 1024 and 65535"):
        serving.demo(["--port", "80"])


def test_a_damaged_state_or_data_folder_leads_to_reset(workshop):
    cluster = homes.demo().cluster
    cluster.state.write_text("{ not json")
    with pytest.raises(CannotGoOn, match=r"is damaged. ./acuthesis reset --of demo"):
        cluster.start()
    gone = {"data": str(workshop / "gone"), "port": 54999, "passwords": {}}
    cluster.state.write_text(json.dumps(gone))
    with pytest.raises(CannotGoOn, match="is gone or broken"):
        cluster.start()
    cluster.remove()
    assert not cluster.exists()


def test_reset_asks_and_touches_nothing_without_a_yes(workshop, monkeypatch):
    monkeypatch.setattr(sys, "stdin", open("/dev/null"))  # noqa: SIM115, PTH123
    for home in (homes.demo(), homes.practice()):
        home.folder.mkdir(exist_ok=True)
        home.cluster.state.write_text("{}")
        with pytest.raises(CannotGoOn, match="nothing was touched"):
            commands.reset(["--of", home.name])
        assert home.exists()


def test_status_of_nothing(workshop, capsys):
    homes.demo().state_file.write_text(json.dumps({"host": "127.0.0.1", "port": 1, "launcher": [2**22 + 1, 1]}))
    assert serving.status([]) == 0
    assert capsys.readouterr().out == "nothing here yet\n  server:   not running\n  database: not running\n"


def test_where_there_are_two_a_command_must_be_told_which(workshop):
    for command in (backup.dump, backup.restore):
        with pytest.raises(CannotGoOn, match=r"there is no such file|Nothing is set up yet"):
            command(["all.dump"])
    for home in (homes.demo(), homes.practice()):
        home.folder.mkdir(exist_ok=True)
        home.cluster.state.write_text("{}")
    for command in (backup.dump, backup.restore):
        with pytest.raises(CannotGoOn, match="--of demo, or --of practice"):
            command(["all.dump"])


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["--host", "0.0.0.0"], "over the network unencrypted"),
        (["--host", "192.0.2.7"], "over the network unencrypted"),
        (["--host", "0.0.0.0", "--plain-http"], "needs the name or address"),
        (["--https"], "--https needs the name"),
        (["--port", "80"], "is not between 1024 and 65535"),
    ],
)
def test_health_records_do_not_go_over_a_network_in_the_clear_by_mistake(workshop, arguments, says):
    with pytest.raises(CannotGoOn, match=says):
        serving.serve(arguments)
    assert not homes.practice().exists()


def test_restore_of_a_file_that_is_not_there(workshop):
    with pytest.raises(CannotGoOn, match="there is no such file"):
        backup.restore([str(workshop / "nothing.dump")])


@pytest.fixture
def server_of_its_own(tmp_path, monkeypatch):
    """A PostgreSQL server of the test's own, for a practice."""
    monkeypatch.setattr(homes, "WORK", tmp_path)
    yield tmp_path
    for home in (homes.practice(), homes.demo()):
        home.cluster.remove()


def as_superuser(statement, **values):
    """Rows of a statement, past every wall."""
    found = create_engine(homes.practice().cluster.start().url("postgres", homes.DATABASE))
    with found.begin() as connection:
        done = connection.execute(text(statement), values)
        rows = [tuple(row) for row in done] if done.returns_rows else []
    found.dispose()
    return rows


def ready():
    server = homes.practice().cluster.start()
    backup.ensure(server)
    return server


@pytest.mark.long
def test_a_dump_outlives_the_database(server_of_its_own):
    """Everything is thrown away, and comes back with its walls between practices; nobody else can read the files."""
    file = server_of_its_own / "all.dump"
    practice = (str(uuid.uuid4()), "Harbour room")
    server = ready()
    as_superuser("INSERT INTO practice (id, name) VALUES (:id, :name)", id=practice[0], name=practice[1])
    assert backup.dump([str(file)]) == 0
    for private in (file, homes.practice().cluster.state):
        assert private.stat().st_mode & 0o777 == 0o600, private
    file.chmod(0o644)
    assert backup.dump([str(file)]) == 0
    assert file.stat().st_mode & 0o777 == 0o600, "also over a file that was readable"
    assert commands.reset(["--yes", "--of", "practice"]) == 0
    assert not server.data.exists()
    assert backup.restore([str(file)]) == 0
    assert as_superuser("SELECT id::text, name FROM practice") == [practice]
    forced = "SELECT relrowsecurity AND relforcerowsecurity FROM pg_class WHERE relname = 'person'"
    assert as_superuser(forced) == [(True,)]
    assert as_superuser("SELECT count(*) FROM pg_database WHERE datname LIKE 'acuthesis\\_%'") == [(0,)]


PERSON = """INSERT INTO person (id, practice_id, given_name, born, fingers)
    VALUES (:id, :practice, 'Erased', '1990-01-01', '{}')"""
SESSION = """INSERT INTO auth_session (token_hash, id, practice_id, practitioner_id, csrf, expires_at)
    VALUES ('x', gen_random_uuid(), :practice, :who, 'c', now() + interval '1 day')"""


@pytest.mark.long
def test_an_encrypted_dump_opens_with_its_key_alone_and_brings_nobody_back_who_was_erased(server_of_its_own, capsys):
    folder, server = server_of_its_own, ready()
    practice, person, who = (str(uuid.uuid4()) for _ in range(3))
    as_superuser("INSERT INTO practice (id, name) VALUES (:id, 'Harbour room')", id=practice)
    account = "INSERT INTO practitioner (id, practice_id, name, email, password_hash, device_key) VALUES "
    as_superuser(account + "(:id, :practice, 'Marit', 'm@x.example', 'old', 'k')", id=who, practice=practice)
    as_superuser(PERSON, id=person, practice=practice)
    as_superuser(SESSION, practice=practice, who=who)
    file, key = folder / "all.dump", folder / "key.txt"
    assert backup.dump([str(file), "--new-key", str(key)]) == 0
    recipient = re.search(r"age1\w+", capsys.readouterr().out)[0]
    assert file.read_bytes().startswith(b"age-encryption.org/v1") and b"Harbour" not in file.read_bytes()
    assert key.stat().st_mode & 0o777 == 0o600 and "AGE-SECRET-KEY-" in key.read_text()
    with pytest.raises(CannotGoOn, match="exists already"):
        backup.dump([str(folder / "other.dump"), "--new-key", str(key)])
    with pytest.raises(CannotGoOn, match="is not an age recipient"):
        backup.dump([str(folder / "other.dump"), "--to", "age1nonsense"])
    assert not list(folder.glob("other.dump*")), "nothing half written"
    # After the dump: somebody is erased, the account is closed, the password changed.
    as_superuser("DELETE FROM person WHERE id = :id", id=person)
    erased = "INSERT INTO audit (practice_id, person_id, action) VALUES (:practice, :person, 'record erased: asked')"
    as_superuser(erased, practice=practice, person=person)
    as_superuser("UPDATE practitioner SET password_hash = NULL, email = NULL, closed_at = now() WHERE id = :id", id=who)
    wrong = folder / "wrong.txt"
    assert backup.dump([str(folder / "third.dump"), "--new-key", str(wrong)]) == 0
    for named, says in (([], "Name the file with its key"), (["--key", str(wrong)], "does not open the dump")):
        with pytest.raises(CannotGoOn, match=says):
            backup.restore([str(file), *named])
        assert as_superuser("SELECT count(*) FROM person") == [(0,)], "what was there is there still"
    capsys.readouterr()
    assert backup.restore([str(file), "--drill", "--key", str(key)]) == 0
    assert "1 persons" in capsys.readouterr().out
    assert backup.restore([str(file), "--key", str(key)]) == 0
    said = capsys.readouterr().out
    assert "1 record was erased again" in said and "Everyone is signed out" in said
    assert "Marit: the account was closed, and is open again" in said
    assert as_superuser("SELECT count(*) FROM person") == [(0,)]
    assert as_superuser("SELECT count(*) FROM auth_session") == [(0,)]
    assert backup.dump([str(folder / "again.dump"), "--to", recipient]) == 0
    # The audit holds; a row that is changed by hand is found, and so is one that is gone.
    assert backup.verify_audit([]) == 0
    as_superuser("ALTER TABLE audit DISABLE TRIGGER USER")
    as_superuser("UPDATE audit SET action = 'nothing at all' WHERE number = 1")
    assert backup.verify_audit([]) == 1
    assert "CHANGED from entry 1 on" in capsys.readouterr().out
    # And a new key for what is encrypted in the database.
    before = homes.secret_keys(homes.practice().folder)
    stored = "SELECT encode(device_key, 'escape') FROM practitioner"
    old = as_superuser(stored)
    assert backup.rotate_keys([]) == 0
    after = homes.secret_keys(homes.practice().folder)
    assert len(after) == 1 and after != before and as_superuser(stored) != old
    assert server.folder == homes.practice().folder


def test_a_port_that_looks_free_and_is_taken_is_passed_over(server_of_its_own, monkeypatch):
    """Two servers that start at once see the same port free: the slower one takes another."""
    first = free_port()
    monkeypatch.setattr(postgres, "FIRST_PORT", first)
    with socket.socket() as quicker:
        quicker.bind(("127.0.0.1", first))  # and does not listen yet: whoever knocks finds nobody
        assert postgres.port_is_free(first)
        assert homes.practice().cluster.start().port == first + 1
    assert homes.practice().cluster.running().port == first + 1


@pytest.mark.long
def test_dumps_of_every_earlier_version_come_back(server_of_its_own):
    """Each into an empty database, then to the newest schema; what was recorded is there, and a broken file is not."""
    ready()
    found = sorted(DUMPS.glob("*.dump"))
    assert [file.stem for file in found] == ["0.1.0", "0.2.0", "0.3.0", "0.4.0", "0.5.0"]
    # The oldest goes through every migration, the newest through the fewest; those between, in a long run.
    for file in found if LONG else (found[0], found[-1]):
        assert backup.restore([str(file)]) == 0, file.stem
        assert as_superuser("SELECT name, time_zone FROM practice") == [("Harbour room", "UTC")], file.stem
        assert as_superuser("SELECT treatment, felt FROM visit") == [("over", [])], file.stem
        assert as_superuser("SELECT count(*), count(disputed) FROM treatment_event") == [(2, 0)]
        sealed = "SELECT encode(device_key, 'escape') LIKE 'sealed:%' FROM practitioner"
        assert as_superuser(sealed) == [(True,)], "what was readable is encrypted"
        assert as_superuser("SELECT version_num FROM alembic_version") == [(NEWEST,)]
        grants = "SELECT has_table_privilege('acuthesis_app', 'visit', 'DELETE')"
        assert as_superuser(grants) == [(False,)], file.stem
    broken = server_of_its_own / "broken.dump"
    broken.write_bytes(found[0].read_bytes()[:9_000])
    with pytest.raises(CannotGoOn, match="pg_restore failed"):
        backup.restore([str(broken)])
    assert as_superuser("SELECT name FROM practice") == [("Harbour room",)], "what was there is there still"


def test_the_web_process_knows_the_applications_address_and_no_other(server_of_its_own, monkeypatch):
    """Started as `demo` starts it, with every address in the launcher's own environment."""
    server = ready()
    for name in ("OWNER", "ADMIN"):
        monkeypatch.setenv(f"ACUTHESIS_{name}_URL", server.url("postgres", "postgres"))
    front = web_process.Front("127.0.0.1", free_port())
    process = web_process.start_server(homes.practice(), front, homes.app_environment(server))
    try:
        web_process.wait_for(front, process)
        environment = Path(f"/proc/{process.pid}/environ").read_bytes().decode()
        assert server.url("acuthesis_app", homes.DATABASE) in environment
        for role in ("postgres", "acuthesis_owner"):
            assert server.passwords[role] not in environment, role
        # Another launcher that lost the race for the port is not content with this one's answer.
        monkeypatch.setattr(web_process, "OURS", (web_process.OURS[0], "another"))
        with pytest.raises(CannotGoOn, match="ended at once"):
            web_process.wait_for(
                front, web_process.start_server(homes.practice(), front, homes.app_environment(server))
            )
    finally:
        process.terminate()
        process.wait(timeout=20)


def test_a_machine_without_node_gets_one_with_an_npm_that_runs(tmp_path, monkeypatch):
    """The machine's Node, npm and npx are hidden; what the preparation brings instead answers for itself."""
    programs = tmp_path / "programs"
    programs.mkdir()
    for name in ("sh", "env", "uname", "dirname"):
        (programs / name).symlink_to(shutil.which(name))
    monkeypatch.setenv("PATH", str(programs))
    assert shutil.which("node") is None and shutil.which("npm") is None
    found = machine.node()
    for command in (found.npm, found.npx):
        assert re.fullmatch(r"\d+\.\d+\.\d+", steps.run([*command, "--version"], log="try", env=found.env).strip())
    assert steps.run(["node", "--version"], log="try", env=found.env).startswith("v")
    # A script of a package is found and run with that same Node, as the build and the checks run theirs.
    assert "Version " in found.run("tsc", "--version", log="try")


def test_a_node_without_npm_is_passed_over(tmp_path, monkeypatch):
    (tmp_path / "node").symlink_to(shutil.which("node") or sys.executable)
    monkeypatch.setenv("PATH", str(tmp_path))
    assert machine._machines_node() is None


def test_what_the_browser_needs_is_named_in_one_line(monkeypatch):
    monkeypatch.setattr(machine, "CHROMIUM", "/nowhere/chromium")
    with pytest.raises(
        CannotGoOn, match=r"/nowhere/chromium is not installed. Install by hand: apt-get install chromium"
    ):
        machine.browser()


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


def test_stopping_waits_until_what_it_stops_has_ended(workshop, monkeypatch):
    """The demo stops its database last: a command that follows must not find it going down under it."""
    slow = (
        "import signal, sys, time, pathlib\n"
        "def end(*_): pathlib.Path(sys.argv[1]).unlink(); time.sleep(1.5); sys.exit(0)\n"
        "signal.signal(signal.SIGTERM, end)\n"
        "while True: time.sleep(0.05)\n"
    )
    with socket.socket() as listening:
        listening.bind(("127.0.0.1", 0))
        listening.listen()
        ending = subprocess.Popen([sys.executable, "-c", slow, str(homes.demo().state_file)])
        state = {"host": "127.0.0.1", "port": listening.getsockname()[1], "launcher": identity(ending.pid)}
        homes.demo().state_file.write_text(json.dumps(state))
        reaper = threading.Thread(target=ending.wait)  # its parent, as a shell would be
        reaper.start()
        assert serving.stop([]) == 0
        reaper.join(timeout=0.2)
        assert ending.poll() is not None
