"""The real server in a process of its own, and Debian's Chromium in front of it."""

import os
import re
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from pathlib import Path
from uuid import uuid4

import pytest
from playwright.sync_api import Page, expect, sync_playwright

from acuthesis.demo.world import EMAIL, PASSWORD
from acuthesis.settings import ROOT
from tests.conftest import demo_database, free_port
from tests.tiers import LONG

PATIENCE_MS = 120_000  # a fit and a drawing in software take seconds, and on a busy machine many times that
expect.set_options(timeout=PATIENCE_MS)

RETRIES = 3  # where the server has just closed a connection that had been idle, as a browser does too
PIN = "2486"
CHROMIUM = "/usr/bin/chromium"
FLAGS = [
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
    # Pages are painted without the drawing device that software stands in for here; only the body is drawn with it.
    "--disable-gpu-compositing",
    "--disable-gpu-rasterization",
    "--no-sandbox",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
]
SHOTS = ROOT / "docs" / "screenshots"
# Pictures are kept in the repository only when asked for, and only those that the README shows.
KEEP_SHOTS = os.environ.get("ACUTHESIS_KEEP_SCREENSHOTS") == "1"
TAKES_PICTURES = KEEP_SHOTS or LONG  # to be looked at; for a usual run they would only be slow


class Server:
    """The application's server, which can be killed and started again on its port."""

    def __init__(self) -> None:
        self.port = free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        command = [sys.executable, "-m", "uvicorn", "acuthesis.api.app:app", "--host", "127.0.0.1"]
        command += [
            "--port",
            str(self.port),
            "--log-level",
            "warning",
            "--http",
            "acuthesis.api.protocol:TimedProtocol",
        ]
        self.process = subprocess.Popen(command, cwd=ROOT, env={**os.environ, "ACUTHESIS_PROCESSES": "true"})
        for _ in range(600):
            if self.process.poll() is not None:
                raise RuntimeError(f"the server ended with {self.process.returncode}")
            try:
                with urllib.request.urlopen(f"{self.url}/api/health", timeout=1):
                    return
            except (urllib.error.URLError, OSError):
                time.sleep(0.1)
        raise RuntimeError("the server did not start")

    def kill(self) -> None:
        """As a power cut would."""
        assert self.process is not None
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()

    @contextmanager
    def away(self) -> Iterator[None]:
        """Killed for a while; started again in any case, so that one failure does not take the next tests with it."""
        self.kill()
        try:
            yield
        finally:
            self.start()


@pytest.fixture(scope="package")
def server():
    with demo_database():
        running = Server()
        running.start()
        yield running
        running.kill()


@pytest.fixture(scope="package")
def chromium():
    if not Path(CHROMIUM).exists():
        pytest.fail("Chromium is missing: run the tests with ./acuthesis test")
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        yield browser
        browser.close()


class Practitioner:
    """A page with hands: what a practitioner does in a browser."""

    def __init__(self, page: Page, server: Server) -> None:
        self.page, self.server = page, server
        self.errors: list[str] = []
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        page.set_default_timeout(PATIENCE_MS)

    def goes(self, path: str) -> None:
        """Goes to an address, once what is being saved here has been."""
        expect(self.page.locator("[aria-busy=true], [data-busy]")).to_have_count(0)
        self.page.goto(f"{self.server.url}{path}")

    def signs_in(self) -> None:
        self.goes("/")
        self.page.get_by_label("Email").fill(EMAIL)
        self.page.get_by_label("Password", exact=True).fill(PASSWORD)
        self.page.get_by_role("button", name="Sign in").click()
        self.page.get_by_role("button", name="New person").wait_for()

    def opens_offline(self, pin: str | None = None) -> None:
        """The server is away and the page was loaded again: the PIN opens what the device keeps."""
        self.page.get_by_label(re.compile("^PIN of")).fill(pin or PIN)
        self.page.get_by_role("button", name="Open offline").click()

    def sets_pin(self, pin: str | None = None) -> None:
        """A PIN of their own, on this device too: with it what the device keeps opens offline."""
        self.goes("/account")
        section = self.page.locator("section").filter(has=self.page.get_by_role("heading", name="PIN", exact=True))
        section.get_by_label("Your password").fill(PASSWORD)
        section.get_by_label(re.compile("PIN$")).fill(pin or PIN)
        section.get_by_role("button", name=re.compile("^(Set|Change) PIN")).click()
        expect(self.page.get_by_text("PIN set. This device opens offline with it.")).to_be_visible()

    def asks(self, path: str):
        """JSON from the API, with the session of the page, wherever that is."""
        return self.page.request.get(f"{self.server.url}{path}", max_retries=RETRIES, timeout=PATIENCE_MS).json()

    def does(self, method: str, path: str, body: dict | None = None):
        """Something done in another window: JSON of the answer, which has to be a good one."""
        api = self.page.request
        csrf = self.asks("/api/me")["csrf"]
        again = RETRIES if method == "GET" else 0
        url, headers = f"{self.server.url}/api{path}", {"X-CSRF": csrf}
        answer = api.fetch(url, method=method, data=body, headers=headers, max_retries=again, timeout=PATIENCE_MS)
        assert answer.ok, answer.text()
        return answer.json() if answer.text() else None

    def takes_in(self, name: str) -> "Newcomer":
        """A person of today, screened, rated, and composed for with a point on the shoulder."""
        return Newcomer(self, name)

    def visits(self):
        return {visit["given_name"]: visit for visit in self.asks("/api/day")}

    def settles(self) -> None:
        """Waits until nothing is asked for or saved any more, and what came back has been drawn."""
        drawn = (
            "() => document.fonts.ready.then(() => new Promise(done => "
            "requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done)))))"
        )
        self.page.evaluate(drawn)  # what was just done begins to be saved only after it has been drawn
        expect(self.page.locator("[aria-busy=true], [data-busy]")).to_have_count(0)
        self.page.evaluate(drawn)

    def sees_the_body(self) -> None:
        """Waits until the body is there, has been turned to what matters, and stands still."""
        self.page.locator("canvas").first.wait_for()
        self.settles()
        expect(self.page.locator("[data-testid=body][data-still]").first).to_be_visible()
        self.settles()

    def moves_on(self, key: str = "ArrowRight") -> None:
        """Goes on to the next stop, once the one before has rested: a key that bounces moves nobody on."""
        expect(self.page.locator("[data-rests]")).to_have_count(0)
        self.page.keyboard.press(key)

    def goes_on_by_hand(self) -> None:
        """This device is set to wait for a key at the end of a stop: however slow the machine, a stop stays."""
        self.page.context.add_init_script(
            """(() => {
                if (location.origin === "null") return;  // a page that has not been anywhere yet keeps nothing
                const key = "acuthesis-device-prefs";
                const kept = JSON.parse(localStorage.getItem(key) ?? "{}");
                localStorage.setItem(key, JSON.stringify({ ...kept, movesOn: "by hand" }));
            })()"""
        )

    def draws_flat(self) -> None:
        """This device cannot draw in depth: where the body is not what is asked for, as light as the work itself."""
        self.page.context.add_init_script(
            """(() => {
                const drawn = HTMLCanvasElement.prototype.getContext;
                HTMLCanvasElement.prototype.getContext = function (kind, ...how) {
                    return kind.startsWith("webgl") ? null : drawn.call(this, kind, ...how);
                };
            })()"""
        )

    def holds_the_clock(self) -> None:
        """From here on time passes on the page only when it is driven: two presses are as far apart as is said."""
        self.page.clock.install()
        self.page.clock.pause_at(datetime.now(UTC) + timedelta(seconds=2))

    def pictures(self, name: str, page: Page | None = None) -> None:
        """Takes a picture of the page, or of another, where pictures are wanted."""
        if page is None:
            self.settles()
        if not TAKES_PICTURES:
            return
        kept = KEEP_SHOTS and f"screenshots/{name}.png" in (ROOT / "README.md").read_text()
        folder = SHOTS if kept else ROOT / ".acuthesis" / "screenshots"
        folder.mkdir(parents=True, exist_ok=True)
        (page or self.page).screenshot(path=folder / f"{name}.png")

    def closes(self) -> None:
        assert self.errors == [], self.errors
        self.page.context.close()


class Newcomer:
    """A person of today who is ready to be treated."""

    def __init__(self, practitioner: Practitioner, name: str) -> None:
        self.by, self.name = practitioner, name
        self.id = practitioner.does("POST", "/people", {"given_name": name, "born": "1990-05-01", "sex": "female"})[
            "id"
        ]
        self.screened()
        kind = {"kind": "neck_shoulder_ache", "side": "right"}
        complaint = practitioner.does("POST", f"/people/{self.id}/complaints", kind)["id"]
        self.visit_id = practitioner.does("GET", f"/people/{self.id}/today")["visit_id"]
        wish = {"complaint_ids": [complaint], "minutes": 20, "pinned": ["GB21"]}
        visit = practitioner.does("POST", f"/visits/{self.visit_id}/compose", {**wish, "version": 1})
        self.stops = visit["score"]["stops"]

    def screened(self, **answers) -> None:
        self.by.does("POST", f"/people/{self.id}/screenings", {"answers": answers})

    def treatment(self):
        return self.by.does("GET", f"/visits/{self.visit_id}/treatment")

    def lies_down(self, *, in_depth: bool = False) -> Page:
        """The treatment's page, begun, hands on at the shoulder; the body drawn flat, unless it is looked at."""
        page = self.by.page
        if not in_depth:
            self.by.draws_flat()
        self.by.goes_on_by_hand()
        self.was_begun("GB21-1")
        self.by.goes(f"/treat/{self.visit_id}")
        expect(page.get_by_test_id("stop")).to_have_text("GB21")
        return page

    def was_begun(self, key: str) -> None:
        """Another device has begun, and has played up to this stop, a second each."""
        version = self.by.does("GET", f"/visits/{self.visit_id}")["version"]
        keys = [stop["key"] for stop in self.stops if not stop["muted"]]
        said = [{"kind": "begin", "version": version}]
        said += [{"kind": "start_stop", "key": one} for one in keys[: keys.index(key) + 1]]
        now = datetime.now(UTC)
        stamps = [{"id": str(uuid4()), "at": str(now - timedelta(seconds=len(said) - n))} for n in range(len(said))]
        events = [one | stamp for one, stamp in zip(said, stamps, strict=True)]
        self.by.does("POST", f"/visits/{self.visit_id}/events", {"events": events, "sent_at": str(now)})

    def walks_to(self, code: str) -> None:
        stop = self.by.page.get_by_test_id("stop")
        while (here := stop.text_content()) != code:
            self.by.moves_on()
            expect(stop).not_to_have_text(here)


# The figure with a quarter of its pixels: drawing in software takes most of these tests' time.
LIGHT = """(() => {
    if (location.origin === "null") return;
    const key = "acuthesis-device-prefs";
    if (!localStorage.getItem(key)) localStorage.setItem(key, JSON.stringify({ figure: "light" }));
})()"""
DESK = {"viewport": {"width": 1280, "height": 800}, "locale": "en-GB", "reduced_motion": "reduce"}


@pytest.fixture
def practitioner(chromium, server):
    """A fresh browser at the desk, signed out."""
    context = chromium.new_context(**DESK)
    context.add_init_script(LIGHT)
    person = Practitioner(context.new_page(), server)
    yield person
    person.closes()


@pytest.fixture(scope="package")
def signed_state(chromium, server):
    """The cookie of one sign-in, for the tests that begin behind it and do not sign out."""
    person = Practitioner(chromium.new_context(**DESK).new_page(), server)
    person.signs_in()
    state = person.page.context.storage_state()
    person.closes()
    return state


@pytest.fixture
def at_work(chromium, server, signed_state):
    """A signed-in browser, on no page yet. It takes outside scripts: the accessibility check brings its own."""
    context = chromium.new_context(**DESK, storage_state=signed_state, bypass_csp=True, service_workers="block")
    if not TAKES_PICTURES:
        context.add_init_script(LIGHT)
    person = Practitioner(context.new_page(), server)
    yield person
    person.closes()
