"""Application and database killed at random while events stream in: nothing lost, nothing doubled, order kept.

`python -m benchmarks.kills KILLS` works on a database server and an application of its own, and removes both.
"""

import os
import random
import signal
import subprocess
import sys
import tempfile
import threading
import time
import uuid
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import httpx
from launch.homes import Home
from sqlalchemy import create_engine, text

from acuthesis.store import access
from acuthesis.store.database import transaction
from acuthesis.store.setup import ensure_database
from launch import homes, postgres, web_process

EVENTS = 5_000  # of each of the two clients
BATCH = 40
EMAIL, PASSWORD = "killed@bench.example", "again-and-again"


class Machine:
    """The application and its database, each of which can be killed and comes back."""

    def __init__(self, folder: Path) -> None:
        self.home = Home("killed", folder)
        self.server = self.home.cluster.start()
        admin, owner = self.server.url("postgres", "postgres"), self.server.url("acuthesis_owner", "acuthesis")
        ensure_database(admin, owner, self.server.url("acuthesis_app", "acuthesis"))
        self.port = next(port for port in range(21_000, 29_000) if postgres.port_is_free(port))
        self.app: subprocess.Popen[bytes] | None = None
        self.start_app()

    def start_app(self) -> None:
        front = web_process.Front("127.0.0.1", self.port)
        self.app = web_process.start_server(self.home, front, homes.app_environment(self.server))
        web_process.wait_for(front, self.app)

    def kill_app(self) -> None:
        """As a power cut would."""
        assert self.app is not None
        self.app.send_signal(signal.SIGKILL)
        self.app.wait()
        self.start_app()

    def kill_database(self) -> None:
        """Every process of the server at once, so that it has to recover from its log."""
        pid = int((self.server.data / "postmaster.pid").read_text().splitlines()[0])
        children = subprocess.run(["pgrep", "-P", str(pid)], capture_output=True, text=True, check=False).stdout.split()
        for one in (pid, *map(int, children)):
            try:
                os.kill(one, signal.SIGKILL)
            except ProcessLookupError:
                continue
        while postgres.is_running(self.server):
            time.sleep(0.05)
        # A lock file outlives a kill; the server sees by itself that its owner is gone.
        self.server = self.home.cluster.start()

    def close(self) -> None:
        if self.app is not None:
            self.app.kill()
            self.app.wait()
        self.home.cluster.remove()


class Client(threading.Thread):
    """Streams events of one visit as a device does: in order, sent again until an answer says that they are kept."""

    def __init__(self, port: int, chance: random.Random) -> None:
        super().__init__()
        self.chance = chance
        self.http = httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=30)
        me = self.http.post("/api/sign-in", json={"email": EMAIL, "password": PASSWORD}).json()
        self.http.headers["X-CSRF"] = me["csrf"]
        self.visit_id, version, keys = self._composed()
        self.sent = [self._stamped(kind="begin", version=version), *(self._said(keys) for _ in range(EVENTS - 1))]
        self.tries = 0
        self.waited = 0

    def _composed(self) -> tuple[str, int, list[str]]:
        post = lambda path, body: self.http.post(path, json=body).json()  # noqa: E731
        person = post("/api/people", {"given_name": "Streamed", "born": "1990-01-01"})["id"]
        post(f"/api/people/{person}/screenings", {"answers": {}})
        complaint = post(f"/api/people/{person}/complaints", {"kind": "poor_sleep"})["id"]
        visit = self.http.get(f"/api/people/{person}/today").json()["visit_id"]
        made = post(f"/api/visits/{visit}/compose", {"version": 1, "complaint_ids": [complaint], "minutes": 10})
        return visit, made["version"], [stop["key"] for stop in made["score"]["stops"]]

    def _stamped(self, **values: Any) -> dict[str, Any]:
        id = str(uuid.UUID(int=self.chance.getrandbits(128), version=4))
        return {"id": id, "at": datetime.now(UTC).isoformat(), **values}

    def _said(self, keys: list[str]) -> dict[str, Any]:
        kinds: list[dict[str, Any]] = [
            {"kind": "start_stop", "key": self.chance.choice(keys)},
            {"kind": "soreness", "value": self.chance.randint(0, 6)},
            {"kind": "level", "level": self.chance.randint(1, 5)},
            {"kind": "pause"},
            {"kind": "later"},
        ]
        return self._stamped(**self.chance.choice(kinds))

    def run(self) -> None:
        waiting = list(self.sent)
        while waiting:
            batch = waiting[: self.chance.randint(1, BATCH)]
            self.tries += 1
            try:
                answer = self.http.post(
                    f"/api/visits/{self.visit_id}/events",
                    json={"events": batch, "sent_at": datetime.now(UTC).isoformat()},
                )
            except httpx.HTTPError:
                answer = None
            if answer is None or answer.status_code != 200:
                self.waited += 1
                time.sleep(0.1)
                continue
            kept = {one["id"] for one in answer.json()["outcomes"] if one["outcome"] != "elsewhere"}
            waiting = [one for one in waiting if one["id"] not in kept]
            time.sleep(self.chance.uniform(0, 0.02))


def main(kills: int) -> int:
    chance = random.Random(kills)
    with tempfile.TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)  # the database's own user has to get in
        machine = Machine(Path(folder))
        try:
            return stream(machine, kills, chance)
        finally:
            machine.close()


def stream(machine: Machine, kills: int, chance: random.Random) -> int:
    url = machine.server.url("acuthesis_app", "acuthesis")
    with transaction(url=url) as db:
        practice = access.add_practice(db, "Killed")
        access.add_practitioner(db, practice.id, "Killed", EMAIL, PASSWORD)
    clients = [Client(machine.port, random.Random(number)) for number in range(2)]
    begun = time.monotonic()
    for client in clients:
        client.start()
    done = {"application": 0, "database": 0}
    while sum(done.values()) < kills:
        time.sleep(chance.uniform(0.05, 0.6))
        what = chance.choice(("application", "application", "database"))
        (machine.kill_app if what == "application" else machine.kill_database)()
        done[what] += 1
        if sum(done.values()) % 10 == 0:
            print(f"  {sum(done.values())} kills, {time.monotonic() - begun:.0f} s", flush=True)
    under_fire = sum(client.is_alive() for client in clients)
    for client in clients:
        client.join()
    kept = create_engine(machine.server.url("postgres", "acuthesis"))
    lost = doubled = disordered = 0
    with kept.connect() as connection:
        for client in clients:
            rows = connection.execute(
                text("SELECT id::text FROM treatment_event WHERE visit_id = :id ORDER BY seq"), {"id": client.visit_id}
            )
            found = [row.id for row in rows]
            wanted = [one["id"] for one in client.sent]
            lost += len(set(wanted) - set(found))
            doubled += len(found) - len(set(found))
            disordered += found != [id for id in wanted if id in set(found)]
    kept.dispose()
    sent = sum(len(client.sent) for client in clients)
    tries, waited = sum(client.tries for client in clients), sum(client.waited for client in clients)
    print(
        f"{sent} events of two clients in {time.monotonic() - begun:.0f} s, {tries} sendings, {waited} unanswered; "
        f"killed: application {done['application']} times, database {done['database']} times "
        f"({under_fire} clients still streaming at the last kill)\n"
        f"lost {lost}, doubled {doubled}, out of order {disordered}"
    )
    return 0 if lost == doubled == disordered == 0 else 1


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1])))
