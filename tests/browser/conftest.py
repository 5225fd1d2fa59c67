"""The real server in a process of its own, and Debian's Chromium in front of it."""

import os
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect, sync_playwright

from acuthesis.demo.histories import load_demo
from acuthesis.demo.world import EMAIL, PASSWORD
from acuthesis.settings import ROOT
from acuthesis.store.database import transaction

expect.set_options(timeout=20_000)  # a fit and a drawing in software take seconds on a small machine

CHROMIUM = "/usr/bin/chromium"
FLAGS = [
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
    "--no-sandbox",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
]
SHOTS = ROOT / "docs" / "screenshots"
# Pictures are kept in the repository only when asked for; otherwise they go where test results go.
KEEP_SHOTS = os.environ.get("ACUTHESIS_KEEP_SCREENSHOTS") == "1"


def free_port() -> int:
    """A port below those that the system gives to outgoing connections: one of these could take it while we restart."""
    for port in range(21_000 + os.getpid() % 4_000, 29_000):
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port)) != 0:
                return port
    raise RuntimeError("no port is free")


class Server:
    """The application's server, which can be killed and started again on its port."""

    def __init__(self) -> None:
        self.port = free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        command = [sys.executable, "-m", "uvicorn", "acuthesis.api.app:app", "--host", "127.0.0.1"]
        self.process = subprocess.Popen([*command, "--port", str(self.port), "--log-level", "warning"], cwd=ROOT)
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


@pytest.fixture(scope="session")
def server(database):
    with transaction() as session:
        load_demo(session, datetime.now().astimezone())
    running = Server()
    running.start()
    yield running
    running.kill()


@pytest.fixture(scope="session")
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
        page.set_default_timeout(30_000)

    def goes(self, path: str) -> None:
        self.page.goto(f"{self.server.url}{path}")

    def signs_in(self) -> None:
        self.goes("/")
        self.page.get_by_label("Name").fill(EMAIL)
        self.page.get_by_label("Password", exact=True).fill(PASSWORD)
        self.page.get_by_role("button", name="Sign in").click()
        self.page.get_by_role("button", name="New person").wait_for()

    def asks(self, path: str):
        """JSON from the API, as the page itself would get it."""
        return self.page.evaluate("path => fetch(path).then(answer => answer.json())", path)

    def visits(self):
        return {visit["given_name"]: visit for visit in self.asks("/api/day")}

    def sees_the_body(self) -> None:
        self.page.locator("canvas").first.wait_for()
        # Drawn on demand: two frames after the canvas is there, the figure has been turned and drawn.
        self.page.wait_for_timeout(1500)

    def pictures(self, name: str) -> None:
        folder = SHOTS if KEEP_SHOTS else ROOT / ".acuthesis" / "screenshots"
        folder.mkdir(parents=True, exist_ok=True)
        self.page.screenshot(path=folder / f"{name}.png")

    def closes(self) -> None:
        assert self.errors == [], self.errors
        self.page.context.close()


DESK = {"viewport": {"width": 1280, "height": 800}, "locale": "en-GB", "reduced_motion": "reduce"}


@pytest.fixture
def practitioner(chromium, server):
    """A fresh browser at the desk, signed out."""
    person = Practitioner(chromium.new_context(**DESK).new_page(), server)
    yield person
    person.closes()


@pytest.fixture(scope="session")
def signed_state(chromium, server):
    """The cookie of one sign-in, for the tests that begin behind it."""
    person = Practitioner(chromium.new_context(**DESK).new_page(), server)
    person.signs_in()
    state = person.page.context.storage_state()
    person.closes()
    return state


@pytest.fixture
def at_work(chromium, server, signed_state):
    """A browser that is signed in. It takes scripts from outside, because the accessibility check brings its own."""
    context = chromium.new_context(**DESK, storage_state=signed_state, bypass_csp=True, service_workers="block")
    person = Practitioner(context.new_page(), server)
    person.goes("/")
    yield person
    person.closes()
