"""Access under pressure: crowds at the sign-in, locked and idle sessions, security notices, limits on requests."""

import json
import uuid
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta

import anyio
import pyotp
import pytest
from sqlalchemy import event as sql_event

from acuthesis.api import bodies, budget, concurrency
from acuthesis.core.errors import CoreError
from acuthesis.services.practice.sign_in import MOST_WRONG_CODES, check_new_password
from acuthesis.services.request.clock import now
from acuthesis.services.visit import person_screen
from acuthesis.settings import settings
from acuthesis.store import access
from acuthesis.store.database import engine, transaction

from .conftest import Newcomer, at_the_door, event, signed_in
from .test_access import enter, from_address
from .test_stations import problem

PASSWORD = "paper-moon-and-sixpence"


@pytest.fixture
def account(world):
    """An owner of a practice of their own: (email, practice id)."""
    email = f"{uuid.uuid4().hex[:8]}@elsewhere.example"
    with transaction() as db:
        practice = access.add_practice(db, "Door")
        access.add_practitioner(db, practice.id, "Door", email, PASSWORD)
        return email, practice.id


@pytest.fixture
def client(app, account):
    return signed_in(app, account[0], PASSWORD)


# --- trying


def test_of_many_tries_at_once_no_more_are_checked_than_the_limit_allows(app, account, monkeypatch):
    checked = []
    verify = access.is_password
    monkeypatch.setattr(access, "is_password", lambda *asked: checked.append(asked) or verify(*asked))
    for turn in (concurrency.database_turn, concurrency.password_turn):
        monkeypatch.setattr(turn, "wait_s", 120.0)  # however slow this machine is
    with ThreadPoolExecutor(30) as crowd:
        answers = list(
            crowd.map(
                lambda _: enter(from_address(app, "10.9.9.9"), account[0], "wrong-and-long").status_code, range(60)
            )
        )
    assert len(checked) <= access.TryLimits().of_name_here
    assert set(answers) == {401, 429} and answers.count(429) >= 52


def factor(client):
    """Sets two-step verification up; returns the authenticator and the recovery codes."""
    secret = client.post("/api/me/second-factor", json={"password": PASSWORD}).json()["secret"]
    authenticator = pyotp.TOTP(secret)
    codes = client.post("/api/me/second-factor/confirm", json={"code": authenticator.now()}).json()["codes"]
    return authenticator, codes


def test_ten_wrong_codes_after_the_right_password_stop_codes_until_a_recovery_code(app, account, client, clock):
    authenticator, codes = factor(client)
    start = now()

    def sign_in(number, code):
        # From address to address, and minutes apart: the limits on passwords are not what stops it.
        clock(start + timedelta(minutes=10 * number))
        body = {"email": account[0], "password": PASSWORD, "code": code}
        return from_address(app, f"10.8.0.{number}").post("/api/sign-in", json=body)

    for number in range(1, MOST_WRONG_CODES):
        problem(sign_in(number, "000000"), 401, "Incorrect code")
    stopped = sign_in(MOST_WRONG_CODES, "000000")
    problem(stopped, 401, "turned off after ten wrong ones")
    right = authenticator.at(start + timedelta(minutes=10 * 20))
    problem(sign_in(20, right), 401, "Use a recovery code")
    assert sign_in(21, codes[0]).status_code == 200
    assert sign_in(22, authenticator.at(start + timedelta(minutes=10 * 22))).status_code == 200, "and codes count again"
    kinds = [one["kind"] for one in signed_in_notices(app, account, codes[1])]
    assert "codes_stopped" in kinds


def signed_in_notices(app, account, code):
    client = at_the_door(app)
    body = {"email": account[0], "password": PASSWORD, "code": code}
    assert client.post("/api/sign-in", json=body).status_code == 200
    return client.get("/api/me/notices").json()


def test_turning_two_step_verification_off_takes_a_code_of_it(client):
    _, codes = factor(client)
    refused = client.post("/api/me/second-factor/off", json={"password": PASSWORD, "code": "000000"})
    problem(refused, 422, "Incorrect code")
    assert client.post("/api/me/second-factor/off", json={"password": PASSWORD}).status_code == 422
    assert client.get("/api/me").json()["second_factor"]
    done = client.post("/api/me/second-factor/off", json={"password": PASSWORD, "code": codes[0]})
    assert done.status_code == 204 and not client.get("/api/me").json()["second_factor"]


@pytest.mark.parametrize(
    "password", ["password1234", "qwertyuiop", "Summer2026!", "acupuncture1", "letmein2026", "marionette", "1234567890"]
)
def test_a_common_password_is_refused_with_a_way_to_a_better_one(password):
    with pytest.raises(CoreError, match="Use three or four unrelated words"):
        check_new_password(password, "ode@lanternwick.example")


@pytest.mark.long
def test_strangers_cannot_close_the_way_to_the_persons_screen(app, ode):
    person = Newcomer(ode)
    person.screen()
    person.compose(person.complain())
    person.say(person.begin())
    code = ode.post(f"/api/visits/{person.visit_id}/own-say").json()["code"]
    assert len(code) == person_screen.LETTERS
    for number in range(150):  # many at other addresses, and some at the same one
        address = "10.7.0.1" if number % 4 == 0 else f"10.7.1.{number}"
        from_address(app, address).post("/api/say/join", json={"code": "ZZZZ ZZZZ"})
    typed = f"{code[:4]}-{code[4:]}".lower()
    joined = from_address(app, "10.7.0.1").post("/api/say/join", json={"code": typed})
    assert joined.status_code == 200, joined.text
    again = from_address(app, "10.7.0.1").post("/api/say/join", json={"code": code})
    problem(again, 401, "already used")


# --- sessions


def test_a_locked_session_reads_nothing_whatever_the_browser_says(app, account, client):
    person = Newcomer(client)
    assert client.post("/api/cover").status_code == 204
    for path in ("/api/me", f"/api/people/{person.id}", "/api/day", "/api/openapi.json", "/api/me/notices"):
        problem(client.get(path), 423, "The screen is locked")
    assert person.screen().status_code == 423
    state = client.get("/api/session").json()
    assert (state["covered"], state["has_pin"]) == (True, False) and "device_key" not in state
    problem(client.post("/api/unlock", json={"pin": "2468"}), 422, "No PIN is set")
    problem(client.post("/api/unlock", json={}), 422, "Enter the password or the PIN")
    assert client.get("/api/day").status_code == 423
    assert client.post("/api/unlock", json={"password": PASSWORD}).json()["device_key"]
    assert client.get("/api/day").status_code == 200
    client.post("/api/cover")
    assert client.post("/api/sign-out").status_code == 204, "signing out is always possible"


def test_a_pin_unlocks_until_it_was_wrong_five_times(client):
    problem(client.put("/api/me/pin", json={"password": PASSWORD, "pin": "1234"}), 422, "too easy")
    problem(client.put("/api/me/pin", json={"password": "wrong", "pin": "2468"}), 422, "Incorrect password")
    assert client.put("/api/me/pin", json={"password": PASSWORD, "pin": "2486"}).status_code == 204
    client.post("/api/cover")
    assert client.get("/api/session").json()["has_pin"]
    problem(client.post("/api/unlock", json={"pin": "9999"}), 422, "Incorrect PIN")
    assert client.post("/api/unlock", json={"pin": "2486"}).status_code == 200
    client.post("/api/cover")
    for _ in range(5):
        problem(client.post("/api/unlock", json={"pin": "9999"}), 422, "Incorrect PIN")
    problem(client.post("/api/unlock", json={"pin": "2486"}), 422, "Enter your password")
    assert client.post("/api/unlock", json={"password": PASSWORD}).status_code == 200


def test_a_session_ends_when_idle_but_not_by_what_a_page_asks_on_its_own_nor_during_a_treatment(client, clock):
    assert client.patch("/api/practice", json={"idle_minutes": 10}).json()["idle_minutes"] == 10
    start = now()
    for minutes in (4, 8, 12, 16):
        clock(start + timedelta(minutes=minutes))
        assert client.get("/api/me").status_code == 200
    person = Newcomer(client)
    person.screen()
    person.compose(person.complain())
    person.say(person.begin())
    clock(start + timedelta(minutes=90))
    assert client.get("/api/me").status_code == 200, "a treatment of theirs is under way"
    person.say(event("reaction", reaction="asks_to_stop") | {"at": now().isoformat()})
    assert person.treatment()["session"]["status"] == "stopped"
    for minutes in (94, 98):
        clock(start + timedelta(minutes=minutes))
        assert client.get("/api/me", headers={"X-Background": "1"}).status_code == 200
    clock(start + timedelta(minutes=101))
    problem(client.get("/api/me", headers={"X-Background": "1"}), 401, "Your session has ended")


def test_the_owner_of_an_account_hears_of_a_new_device_and_a_new_password(app, account, client):
    assert client.get("/api/me/notices").json() == [], "the first device is not news"
    again = at_the_door(app)
    again.cookies.set("acuthesis_device", client.cookies["acuthesis_device"])
    assert enter(again, account[0], PASSWORD).status_code == 200
    assert client.get("/api/me/notices").json() == [], "nor is one that was seen before"
    other = from_address(app, "10.6.6.6")
    other.headers["User-Agent"] = "Mozilla/5.0 (X11; Linux x86_64) Firefox/140.0"
    me = enter(other, account[0], PASSWORD).json()
    (told,) = client.get("/api/me/notices").json()
    assert (told["kind"], told["device"], told["address"], told["unseen"]) == (
        "new_device",
        "Firefox on Linux",
        "10.6.6.6",
        True,
    )
    # The new device itself cannot make it unseen.
    other.headers["X-CSRF"] = me["csrf"]
    assert other.post("/api/me/notices/dismiss").status_code == 204
    assert client.get("/api/me/notices").json()[0]["unseen"]
    listed = client.get("/api/me/sessions").json()
    assert {"Firefox on Linux", "A browser"} <= {one["device"] for one in listed}
    client.post("/api/me/notices/dismiss")
    assert not client.get("/api/me/notices").json()[0]["unseen"]
    changed = client.post("/api/me/password", json={"password": PASSWORD, "new_password": "sixpence-and-paper-moon"})
    assert changed.status_code == 204
    assert client.get("/api/me/notices").json()[0]["kind"] == "password_changed"


# --- requests


@pytest.mark.long
def test_nothing_answers_500_to_a_crowd_and_an_overload_says_when_to_come_back(app, client, monkeypatch):
    monkeypatch.setattr(concurrency.database_turn, "wait_s", 120.0)  # however slow this machine is
    with ThreadPoolExecutor(60) as crowd:
        answers = list(crowd.map(lambda _: client.get("/api/me").status_code, range(200)))
    assert set(answers) == {200}
    held = 0

    def counted(*_):
        nonlocal held
        held = max(held, engine(settings().database_url).pool.checkedout())  # type: ignore[attr-defined]

    sql_event.listen(engine(settings().database_url), "before_cursor_execute", counted)
    with ThreadPoolExecutor(60) as crowd:
        list(crowd.map(lambda _: client.get("/api/day").status_code, range(120)))
    sql_event.remove(engine(settings().database_url), "before_cursor_execute", counted)
    assert 0 < held <= concurrency.database_turn.most + concurrency.RESERVED
    monkeypatch.setattr(concurrency.database_turn, "wait_s", 0.0)
    monkeypatch.setattr(concurrency.Limit, "limiter", lambda self: _Full())
    busy = client.get("/api/me")
    problem(busy, 503, "The server is busy")
    assert int(busy.headers["Retry-After"]) >= 1


class _Full:
    """A limiter whose turns are all taken."""

    async def acquire_on_behalf_of(self, _):
        await anyio.sleep_forever()


BIG = b'{"given_name": "' + b"x" * 20_000 + b'"}'
JSON = {"Content-Type": "application/json"}


@pytest.mark.parametrize(
    ("path", "size", "known", "status"),
    [
        ("/api/sign-in", 16 * 1024 + 1, False, 401),
        ("/api/people", 16 * 1024 + 1, False, 401),
        ("/api/records", 16 * 1024 + 1, False, 401),
        ("/api/diary/told", 16 * 1024 + 1, False, 401),
        ("/api/people", 256 * 1024 + 1, True, 413),
        ("/api/records", 256 * 1024 + 1, True, 422),
        ("/api/records", 8 * 1024 * 1024 + 1, True, 413),
    ],
)
def test_how_large_a_body_may_be_depends_on_who_sends_it_where(app, client, path, size, known, status):
    sender = client if known else at_the_door(app)
    answer = sender.post(path, content=b"[" + b" " * (size - 2) + b"]", headers=JSON)
    assert answer.status_code == status, answer.text

    def parts():  # of a length that is not announced
        yield b"["
        for _ in range(size // 4096):
            yield b" " * 4096
        yield b"]"

    assert sender.post(path, content=parts(), headers=JSON).status_code == status


def test_bodies_with_too_many_fields_or_levels_are_refused_in_a_sentence(client):
    keys = json.dumps({f"k{number}": 1 for number in range(bodies.MOST_NAMES + 1)})
    problem(client.post("/api/people", content=keys, headers=JSON), 422, "more than 10000 fields")
    few = json.dumps({f"k{number}": 1 for number in range(2000)})
    refused = client.post("/api/people", content=few, headers=JSON)
    assert refused.status_code == 422 and len(refused.json()["details"]) <= 20 and len(refused.content) < 8000
    for deep in (b"[" * 200 + b"]" * 200, b"[" * 100_000, b'{"a":' * 120 + b"1" + b"}" * 120):
        problem(client.post("/api/people", content=deep, headers=JSON), 422, "")
    problem(client.post("/api/people", content=b'"\xff\xfe"', headers=JSON), 422, "not UTF-8")


def test_every_path_that_may_be_large_is_an_endpoint(app):
    """The list of imports stands beside the routes: a path that was renamed must not lose its size unseen."""
    posts = [path for path, methods in app.openapi()["paths"].items() if "post" in methods]
    large = [path for path in posts if bodies.IMPORTS.fullmatch(path)]
    assert sorted(large) == [
        "/api/atlas/file",
        "/api/complaints/{complaint_id}/ratings-list",
        "/api/protocols/import",
        "/api/ratings-list/columns",
        "/api/records",
    ]


def test_a_session_or_an_address_that_asks_without_end_is_told_to_wait(app, client, account, monkeypatch):
    budget.counter.cache_clear()
    monkeypatch.setattr(settings(), "requests_per_minute_session", 20)
    monkeypatch.setattr(settings(), "requests_per_minute_address", 50)

    def until_refused(asking):
        """How the requests before the first refused one were answered, and that one."""
        taken: list[int] = []
        while (one := asking.get("/api/me")).status_code != 429 and len(taken) < 200:
            taken.append(one.status_code)
        return taken, one  # a few more than the limit where a minute ends meanwhile

    taken, refused = until_refused(client)
    assert set(taken) == {200}
    assert 20 <= len(taken) < 40
    problem(refused, 429, "Too many requests")
    assert 1 <= int(refused.headers["Retry-After"]) <= 60
    assert client.get("/api/health").status_code == 200
    taken, _ = until_refused(from_address(app, "10.5.5.5"))
    assert set(taken) == {401}
    assert 50 <= len(taken) < 100, "a made-up cookie would not help: the address is counted as well"
    budget.counter.cache_clear()


@pytest.mark.parametrize("path", ["/assets/%00", "/%00", "/assets/..%2f..%2fetc%2fpasswd", "/" + "a" * 5000, "/%ff%fe"])
def test_a_name_that_no_file_can_have_is_not_found(app, path):
    answer = at_the_door(app).get(path)
    assert answer.status_code in (200, 404), "the application, which finds its way, or nothing"
    if "%00" in path or len(path) > 4000:
        assert answer.status_code == 404


def test_the_description_of_the_api_is_for_who_is_signed_in(app, client):
    assert at_the_door(app).get("/api/openapi.json").status_code == 401
    assert client.get("/api/openapi.json").json()["info"]["title"] == "Acuthesis"


def test_a_calendar_ends_with_the_role_and_with_the_account(app, account, client):
    invited = {"name": "Books", "email": f"books-{account[0]}", "role": "helper"}
    token = client.post("/api/staff/invitations", json=invited).json()["token"]
    joined = at_the_door(app)
    me = joined.post("/api/links/join", json={"token": token, "name": "Books", "password": PASSWORD}).json()
    joined.headers["X-CSRF"] = me["csrf"]

    def feed():
        made = joined.post("/api/me/calendar").json()["token"]
        assert at_the_door(app).get(f"/api/calendar/{made}.ics").status_code == 200
        return made

    made = feed()
    client.patch(f"/api/staff/{me['id']}", json={"role": "reader"})
    assert at_the_door(app).get(f"/api/calendar/{made}.ics").status_code == 404
    client.patch(f"/api/staff/{me['id']}", json={"role": "helper"})
    assert at_the_door(app).get(f"/api/calendar/{made}.ics").status_code == 404, "it does not come back by itself"
    made = feed()
    client.post(f"/api/staff/{me['id']}/close", json={})
    assert at_the_door(app).get(f"/api/calendar/{made}.ics").status_code == 404


# --- times of what happened


@pytest.mark.parametrize(
    ("at", "sent_at", "outcome"),
    [
        ("1800-01-01T00:00:00Z", None, 422),
        ("0001-01-01T00:00:00+14:00", None, 422),
        ("9999-12-31T23:59:59-14:00", None, 422),
        (None, "0001-01-01T00:00:00+14:00", 422),
        (None, "", 422),
        ("1970-01-01T00:00:05Z", "1970-01-01T00:00:06Z", "kept"),
        ("+1 day", None, "in the future"),
        ("-40 days", None, "long before this visit"),
    ],
)
def test_times_that_cannot_be_are_refused_or_disputed_and_never_lost(ode, at, sent_at, outcome):
    person = Newcomer(ode)
    person.screen()
    person.compose(person.complain())
    person.say(person.begin())
    moment = datetime.now(UTC)
    if at and at[0] in "+-":
        at = (moment + timedelta(days=1 if at[0] == "+" else -40)).isoformat()
    said = event("pause") | ({"at": at} if at else {})
    answer = person.say(said, sent_at=moment.isoformat() if sent_at is None else sent_at)
    if outcome == 422:
        assert answer.status_code == 422, answer.text
        return
    assert answer.status_code == 200, answer.text
    (told,) = answer.json()["outcomes"]
    assert told["outcome"] == ("kept" if outcome == "kept" else "disputed"), told
    assert outcome == "kept" or outcome in told["reason"]
    missing = ode.post(f"/api/visits/{person.visit_id}/events", json={"events": [event("resume")]})
    problem(missing, 422, "sent_at")
