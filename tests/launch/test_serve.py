"""A practice of one's own from the shell: served, set up, killed in parts, backed up, tried out, let in again."""

import io
import json
import os
import re
import signal
import socket
import subprocess
import sys
import threading
import time
from pathlib import Path
from typing import Any

import httpx
import pytest
from launch.processes import identity, is_alive
from launch.steps import CannotGoOn, append_private
from sqlalchemy import create_engine, text
from sqlalchemy.exc import DBAPIError

from acuthesis.settings import ROOT
from launch import backup, homes, serving
from tests.conftest import free_port

PATIENCE_S = 60
EMAIL, PASSWORD = "first@harbour.example", "low-tide-lantern"
NEW_PASSWORD = "high-tide-lantern"


class Serving:
    """`./acuthesis serve` in a process of its own."""

    def __init__(self, data: Path) -> None:
        self.port = free_port()
        self.process = subprocess.Popen(
            [sys.executable, "acuthesis", "serve", "--data", str(data), "--port", str(self.port)],
            cwd=ROOT,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
        )
        self.said: list[str] = []
        threading.Thread(target=lambda: self.said.extend(self.process.stdout or ()), daemon=True).start()
        self.until(lambda: "Ctrl-C stops everything" in self.text)
        self.address = f"http://127.0.0.1:{self.port}"

    @property
    def text(self) -> str:
        return "".join(self.said)

    def until(self, there, what="what it should say"):
        for _ in range(PATIENCE_S * 10):
            found = there()
            if found:
                return found
            assert self.process.poll() is None, self.text
            time.sleep(0.1)
        pytest.fail(f"waited in vain for {what}: {self.text}")

    def answers(self):
        try:
            return httpx.get(f"{self.address}/api/health", timeout=2).status_code == 200
        except httpx.HTTPError:
            return False

    def end(self):
        if self.process.poll() is None:
            self.process.send_signal(signal.SIGTERM)
            assert self.process.wait(timeout=30) == 0


@pytest.fixture(scope="module")
def data(tmp_path_factory):
    folder = tmp_path_factory.mktemp("practice")
    yield folder
    homes.practice(str(folder)).cluster.remove()


@pytest.fixture
def served(data):
    serving = Serving(data)
    yield serving
    serving.end()


def sign_in(served, password):
    return httpx.post(f"{served.address}/api/sign-in", json={"email": EMAIL, "password": password}).status_code


@pytest.mark.long
def test_a_practice_is_set_up_once_by_its_link(served, data):
    link = re.search(rf"{served.address}/set-up#(\S+)", served.text)
    assert link, served.text
    body: dict[str, Any] = {
        "token": link[1],
        "practice": {"name": "Harbour room", "time_zone": "Europe/Lisbon", "emergency": "112"},
        "practitioner": {"name": "First", "email": EMAIL, "password": PASSWORD, "usual_minutes": 50},
    }
    client = httpx.Client(base_url=served.address)
    too_short = {**body, "practitioner": {**body["practitioner"], "password": "short"}}
    assert client.post("/api/links/set-up", json=too_short).status_code == 422
    me = client.post("/api/links/set-up", json=body)
    assert me.status_code == 201, me.text
    assert (me.json()["practice"], me.json()["role"], me.json()["usual_minutes"]) == ("Harbour room", "owner", 50)
    assert client.get("/api/day").json() == [] == client.get("/api/people").json()
    assert client.post("/api/links/set-up", json=body).status_code == 404, "it works once"
    assert not homes.demo().cluster.state.samefile(homes.practice(str(data)).cluster.state)
    served.end()
    again = Serving(data)
    try:
        assert "set-up#" not in again.text, "nobody is asked again"
        assert sign_in(again, PASSWORD) == 200
    finally:
        again.end()


@pytest.mark.long
def test_what_dies_comes_back_and_status_says_so(served, data, capsys):
    home = homes.practice(str(data))
    was = home.state()
    ours = subprocess.run(["pgrep", "-f", f"uvicorn.*--port {served.port}"], capture_output=True, text=True, check=True)
    os.kill(int(ours.stdout.split()[0]), signal.SIGKILL)
    served.until(lambda: "the server is back" in served.text and served.answers(), "the server")
    server = home.cluster.running()
    assert server is not None
    os.kill(int((server.data / "postmaster.pid").read_text().splitlines()[0]), signal.SIGKILL)
    served.until(lambda: "the database is back" in served.text and served.answers(), "the database")
    state = home.state()
    assert state["launcher"] == was["launcher"]
    assert [state[part]["came_back"] for part in ("server", "database")] == [1, 1]
    assert "starting it again in" in home.log.read_text()
    assert sign_in(served, PASSWORD) == 200
    # One that lives and does not answer is no better than a dead one.
    os.kill(state["web_process"][0], signal.SIGSTOP)
    served.until(lambda: home.state()["server"]["came_back"] == 2 and served.answers(), "the server that was deaf")
    assert "the server no longer responds" in home.log.read_text()


@pytest.mark.long
def test_a_launcher_that_is_killed_takes_its_server_along_and_leaves_nothing_that_cannot_be_stopped(data, capsys):
    served = Serving(data)
    home = homes.practice(str(data))
    web_process = home.state()["web_process"]
    served.process.kill()
    served.process.wait()
    for _ in range(PATIENCE_S * 10):
        if not is_alive(web_process):
            break
        time.sleep(0.1)
    assert not is_alive(web_process) and home.served() is None
    assert home.cluster.running() is not None, "the database is found and stopped"
    assert serving.stop(["--data", str(data)]) == 0
    assert "database stopped" in capsys.readouterr().out
    # Where a web process outlives its launcher all the same, it is found by the state file.
    with socket.socket() as listening:
        listening.bind(("127.0.0.1", 0))
        listening.listen()
        left = subprocess.Popen([sys.executable, "-c", "import time; time.sleep(600)"])
        state = {"host": "127.0.0.1", "port": listening.getsockname()[1]}
        state |= {"launcher": [2**22 + 1, 1], "web_process": identity(left.pid)}
        home.state_file.write_text(json.dumps(state))
        threading.Thread(target=left.wait, daemon=True).start()
        with pytest.raises(CannotGoOn, match="Already running at"):
            serving.serve(["--data", str(data)])
        assert serving.stop(["--data", str(data)]) == 0
    assert left.wait(timeout=20) == -signal.SIGTERM
    home.state_file.unlink()


@pytest.mark.long
def test_backups_are_kept_and_tried_out_and_a_lost_password_is_set(served, data, tmp_path, capsys, monkeypatch):
    of = ["--data", str(data)]
    for _ in range(3):
        assert backup.dump([str(tmp_path), "--keep", "2", *of]) == 0
    kept = sorted(tmp_path.glob("acuthesis-practice-*.dump"))
    assert len(kept) == 2
    assert all(file.stat().st_mode & 0o777 == 0o600 for file in kept)
    capsys.readouterr()
    assert backup.restore([str(kept[-1]), "--drill", *of]) == 0
    assert "0 persons, 0 visits" in capsys.readouterr().out
    with pytest.raises(CannotGoOn, match="the practice runs"):
        backup.restore([str(kept[-1]), *of])
    monkeypatch.setattr(sys, "stdin", io.StringIO("short\n"))
    with pytest.raises(CannotGoOn, match="at least 10 characters"):
        backup.passwd([EMAIL, *of])
    monkeypatch.setattr(sys, "stdin", io.StringIO(f"{NEW_PASSWORD}\n"))
    assert backup.passwd([EMAIL, *of]) == 0
    assert "First has a new password" in capsys.readouterr().out
    assert (sign_in(served, PASSWORD), sign_in(served, NEW_PASSWORD)) == (401, 200)
    with pytest.raises(CannotGoOn, match="Already running at"):
        serving.serve(of)
    state = json.loads(homes.practice(str(data)).state_file.read_text())
    assert state["port"] == served.port


@pytest.mark.long
def test_logs_are_the_owners_alone_rotate_and_name_nobody(served, data):
    """Health data is put where errors are made: into a statement that fails in the database, and into the API."""
    client = httpx.Client(base_url=served.address)
    me = client.post("/api/sign-in", json={"email": EMAIL, "password": NEW_PASSWORD})
    client.headers["X-CSRF"] = me.json()["csrf"]
    name, note = "Wilhelmina-of-the-log", "weeps-at-the-third-stop"
    person = client.post("/api/people", json={"given_name": name, "born": "1990-01-01", "story": note}).json()["id"]
    assert client.post(f"/api/people/{person}/screenings", json={"answers": {note: True}}).status_code == 422
    server = homes.practice(str(data)).cluster.running()
    with (
        create_engine(server.url("acuthesis_owner", homes.DATABASE)).connect() as connection,
        pytest.raises(DBAPIError),
    ):
        connection.execute(text("INSERT INTO place (id, practice_id, name) VALUES (1, 2, :name)"), {"name": name})
    logs = [*(data / "logs").iterdir(), server.data / "server.log"]
    assert {"server.log", "server-start.log", "practice.log"} <= {log.name for log in logs}
    for log in logs:
        assert log.stat().st_mode & 0o077 == 0, log
        assert not {word for word in (name, note) if word in log.read_text()}, log
    grown = data / "logs" / "grown.log"
    grown.write_bytes(b"x" * 5_000_000)
    append_private(grown, "after")
    assert (grown.read_text(), (data / "logs" / "grown.log.1").stat().st_size) == ("after", 5_000_000)
    grown.unlink()
