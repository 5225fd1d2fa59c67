"""A practice of one's own from the shell: served, set up, killed in parts, backed up, tried out, let in again."""

import io
import json
import os
import re
import signal
import subprocess
import sys
import threading
import time
from pathlib import Path

import httpx
import pytest
from launch.steps import CannotGoOn

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


def test_a_practice_is_set_up_once_by_its_link(served, data):
    link = re.search(rf"{served.address}/set-up#(\S+)", served.text)
    assert link, served.text
    body = {
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
    assert state["pid"] == was["pid"]
    assert [state[part]["came_back"] for part in ("server", "database")] == [1, 1]
    assert "starting it again in" in home.log.read_text()
    assert sign_in(served, PASSWORD) == 200


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
    with pytest.raises(CannotGoOn, match="runs already"):
        serving.serve(of)
    state = json.loads(homes.practice(str(data)).state_file.read_text())
    assert state["port"] == served.port
