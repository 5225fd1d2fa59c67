"""At the table: how fast what happens is taken in, how soon a key shows with the server away, how soon a rest is there.

`python -m benchmarks.table` works on a database server and an application of its own, and removes both. Events are held
against what the same database takes of plain inserts by pgbench, each in a transaction of its own, in the same run.
"""

import random
import re
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from datetime import UTC, datetime
from itertools import islice
from pathlib import Path

from playwright.sync_api import sync_playwright

from acuthesis.store import access
from acuthesis.store.database import transaction
from benchmarks.kills import BATCH, EMAIL, PASSWORD, Client, Machine
from launch import postgres

MOST = 500  # events that one request may bring
SHARE = 0.5  # of plain inserts
KEY_MS = 50.0
REST_S = 1.0
SECONDS = 5
PLAIN = """INSERT INTO plain (body) VALUES ('{"kind": "soreness", "value": 6, "pad": "PAD"}');"""
# From the key to the first frame after the screen has changed, in the page's own clock.
MEASURE = """(key) => new Promise((done) => {
    const shown = document.querySelector('[aria-label=Stop]');
    let from = 0;
    new MutationObserver((_, own) => {
        if (!shown.innerText.includes('soreness') && !shown.querySelector(`[aria-label="soreness ${key}"]`)) return;
        own.disconnect();
        requestAnimationFrame(() => done(performance.now() - from));
    }).observe(shown, { childList: true, subtree: true, characterData: true, attributes: true });
    window.addEventListener('keydown', () => { from = performance.now(); }, { capture: true, once: true });
    window.measuring = true;
})"""


def said(name: str, value: str, met: bool, reach: str) -> bool:
    print(f"  {name:52}{value:>12}   reach {reach}   {'met' if met else 'NOT MET'}")
    return met


def plain_inserts(machine: Machine) -> float:
    """Rows a second that pgbench puts in, one client, one row a transaction, as heavy as an event."""
    url = machine.server.url("acuthesis_owner", "acuthesis").replace("+psycopg", "")
    with tempfile.TemporaryDirectory() as folder:
        script = Path(folder) / "plain.sql"
        script.write_text(PLAIN.replace("PAD", "x" * 120))
        made = ["CREATE TABLE plain (id bigserial PRIMARY KEY, body jsonb NOT NULL, at timestamptz DEFAULT now())"]
        subprocess.run([str(postgres.programs() / "psql"), url, "-qc", made[0]], check=True)
        ran = subprocess.run(
            [str(postgres.programs() / "pgbench"), "-n", "-c", "1", "-T", str(SECONDS), "-f", str(script), url],
            check=True,
            capture_output=True,
            text=True,
        )
    found = re.search(r"tps = ([\d.]+)", ran.stdout)
    assert found, ran.stdout
    return float(found[1])


def course(client: Client) -> Iterator[dict[str, object]]:
    """What two hands say at one stop after the other, for as long as somebody listens; all of it can follow."""
    score = client.http.get(f"/api/visits/{client.visit_id}").json()["score"]
    stops = [stop for stop in score["stops"] if not stop["muted"]]
    while True:
        for stop in stops:
            for said in (
                {"kind": "start_stop", "key": stop["key"]},
                {"kind": "soreness", "value": 2},
                {"kind": "level", "level": 1},
                {"kind": "pause"},
                {"kind": "resume"},
                {"kind": "soreness", "value": 1},
            ):
                yield client._stamped(**said)


def events_taken_in(client: Client) -> dict[int, float]:
    """Events a second over the API, by how many come at once: a device that was away sends what waited together."""
    at = f"/api/visits/{client.visit_id}/events"

    def post(events: list[dict[str, object]]) -> None:
        answer = client.http.post(at, json={"events": events, "sent_at": datetime.now(UTC).isoformat()})
        assert answer.status_code == 200, answer.text
        assert all(one["outcome"] == "kept" for one in answer.json()["outcomes"]), answer.text

    post(client.sent[:1])
    said = course(client)
    rates = {}
    for size, number in ((1, 100), (BATCH, 25), (MOST, 6)):
        batches = [list(islice(said, size)) for _ in range(number)]
        began = time.perf_counter()
        for batch in batches:
            post(batch)
        rates[size] = size * number / (time.perf_counter() - began)
    return rates


def rest_s(client: Client) -> float:
    """Seconds until a rest is offered, the slowest of some."""
    took = []
    for minutes in (4, 6, 8, 5):
        began = time.perf_counter()
        answer = client.http.post(f"/api/visits/{client.visit_id}/rest", json={"minutes": minutes})
        assert answer.status_code == 200, answer.text
        took.append(time.perf_counter() - began)
    return max(took)


def key_ms(machine: Machine, visit_id: str) -> float:
    """Milliseconds from a key to the screen, the server away: the median of some."""
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
        page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
        page.goto(f"http://127.0.0.1:{machine.port}/sign-in")
        page.get_by_label("Email").fill(EMAIL)
        page.get_by_role("textbox", name="Password").fill(PASSWORD)
        page.get_by_role("button", name=re.compile("sign in", re.I)).click()
        page.wait_for_url(f"http://127.0.0.1:{machine.port}/")
        page.goto(f"http://127.0.0.1:{machine.port}/treat/{visit_id}")
        page.get_by_role("button", name="Begin").click()
        page.get_by_role("button", name=re.compile("^Start")).wait_for()
        page.keyboard.press("Space")
        page.get_by_test_id("stop").wait_for()
        page.context.route("**/api/**", lambda route: route.abort())
        took = []
        for value in (1, 2, 3, 1, 2, 3, 1, 2):
            waiting = page.evaluate_handle(f"() => ({{ took: ({MEASURE})({value}) }})")
            page.wait_for_function("() => window.measuring")
            page.keyboard.press(str(value))
            took.append(waiting.evaluate("async (one) => await one.took"))
        browser.close()
    return statistics.median(took)


def main() -> bool:
    with tempfile.TemporaryDirectory() as folder:
        machine = Machine(Path(folder))
        try:
            with transaction(url=machine.server.url("acuthesis_app", "acuthesis")) as db:
                practice = access.add_practice(db, "Bench")
                access.add_practitioner(db, practice.id, "Bench", EMAIL, PASSWORD)
            client, other = (Client(machine.port, random.Random(seed)) for seed in (1, 2))
            print("At the table")
            plain = plain_inserts(machine)
            rates = events_taken_in(client)
            for size, rate in rates.items():
                print(f"  plain inserts {plain:.0f} a second; events {rate:.0f} by {size}, {rate / plain:.0%}")
            most = rates[MOST]
            met = [
                said("events taken in, of plain inserts", f"{most / plain:.0%}", most >= SHARE * plain, f"{SHARE:.0%}"),
            ]
            rest = rest_s(client)
            met.append(said("the rest composed anew", f"{rest:.2f} s", rest <= REST_S, f"{REST_S:g} s"))
            key = key_ms(machine, other.visit_id)
            met.append(said("from key to screen, the server away", f"{key:.0f} ms", key <= KEY_MS, f"{KEY_MS:g} ms"))
            return all(met)
        finally:
            machine.close()


if __name__ == "__main__":
    sys.exit(0 if main() else 1)
