"""Where one thing meets another: offline and online, signed out and in, two windows, this clock and ours."""

import re
from datetime import UTC, datetime, timedelta

import pytest
from playwright.sync_api import expect

from acuthesis.demo.world import PASSWORD
from tests.conftest import ZONE

from .conftest import DESK, Practitioner

# Everything that the browser keeps of this application, as text.
HELD = """async () => {
  const told = Object.values(localStorage);
  for (const { name } of await indexedDB.databases()) {
    const opened = indexedDB.open(name);
    const db = await new Promise(done => { opened.onsuccess = () => done(opened.result); });
    for (const store of db.objectStoreNames) {
      const asked = db.transaction(store).objectStore(store).getAll();
      const rows = await new Promise(done => { asked.onsuccess = () => done(asked.result); });
      told.push(JSON.stringify(rows, (_, value) => value instanceof ArrayBuffer || ArrayBuffer.isView(value)
        ? new TextDecoder().decode(value) : value));
    }
    db.close();
  }
  return told.join(' ');
}"""


@pytest.fixture
def at_table(chromium, server):
    """A browser with a session of its own. Without a service worker, whose requests could not be held back."""
    person = Practitioner(chromium.new_context(**DESK, service_workers="block").new_page(), server)
    person.signs_in()
    yield person
    person.closes()


def no_events(page):
    """From here on what happens at the table does not reach the server."""
    page.context.route("**/events", lambda route: route.abort())


def sees_them_again(page):
    page.context.unroute("**/events")


def waits(page):
    return page.get_by_test_id("unsent")


@pytest.mark.long
def test_the_echo_of_a_sore_point_is_the_servers_own(at_table):
    """9, 9, later, next: left for today on the screen as in the core, and nothing of it is disputed."""
    person = at_table.takes_in("Echo")
    page = person.lies_down()
    no_events(page)
    at_table.holds_the_clock()
    page.keyboard.press("9")
    expect(page.get_by_text("Sore 9. Very sore. One level lighter")).to_be_visible()
    page.keyboard.press("9")
    expect(page.get_by_test_id("felt").get_by_label("soreness 9")).to_have_count(1)  # a key that bounces is one
    page.clock.fast_forward(1000)
    page.keyboard.press("9")
    page.clock.resume()
    expect(page.get_by_text("Very sore twice: leave this point for today.")).to_be_visible()
    page.keyboard.press("l")
    at_table.moves_on()
    expect(page.get_by_test_id("stop")).not_to_have_text("GB21")
    page.keyboard.press("4")
    expect(waits(page)).to_contain_text("Offline. 5 entries saved on this device.")
    after = page.get_by_test_id("stop").text_content()
    sees_them_again(page)
    expect(waits(page)).to_have_count(0)
    told = person.treatment()
    gb21 = told["session"]["records"][next(stop["key"] for stop in person.stops if stop["id"] == "GB21")]
    assert (gb21["left"], [one["value"] for one in gb21["soreness"]]) == (True, [9, 9])
    assert [one["reason"] for one in told["disputed"]] == []
    assert told["session"]["second_looks"] == []
    now = told["session"]["records"][told["session"]["current"]]
    assert [one["value"] for one in now["soreness"]] == [4], "the next soreness is booked where it was said"
    expect(page.get_by_test_id("stop")).to_have_text(after)


@pytest.mark.long
def test_a_start_that_the_screening_forbids_says_why_and_how_to_go_on(at_table):
    person = at_table.takes_in("Forbidden")
    page = at_table.page
    at_table.goes(f"/treat/{person.visit_id}")
    page.get_by_role("button", name="Start session").wait_for()
    person.screened(pregnancy_weeks=20, blood_thinner=True)
    page.get_by_role("button", name="Start session").click()
    refusal = page.get_by_role("alert")
    expect(refusal).to_contain_text("stops are no longer allowed, or too strong, after new answers.")
    expect(refusal).to_contain_text(re.compile("GB21.*Traditionally not pressed in pregnancy"))
    at_table.pictures("treat-refused")
    page.get_by_role("link", name="Compose again").click()
    expect(page).to_have_url(re.compile(f"/people/{person.id}/compose"))
    assert person.treatment()["session"]["status"] == "not_begun"


@pytest.mark.long
def test_a_start_refused_too_late_keeps_what_happened_to_be_settled(at_table):
    person = at_table.takes_in("Too Late")
    page = at_table.page
    at_table.goes_on_by_hand()
    at_table.goes(f"/treat/{person.visit_id}")
    no_events(page)
    page.get_by_role("button", name="Start session").click()
    page.get_by_role("button", name="Start").click()
    person.walks_to("GB21")
    page.keyboard.press("7")
    expect(page.get_by_test_id("felt").get_by_label("soreness 7")).to_be_visible()
    person.screened(red_flags=["chest_pain"])
    sees_them_again(page)
    entries = page.get_by_role("region", name="Entries that were not applied")
    expect(entries).to_contain_text("The start was refused: Chest pain")
    line = entries.get_by_role("listitem").filter(has_text="soreness 7")
    line.get_by_label(re.compile("Note on soreness 7")).fill("Before we knew.")
    line.get_by_role("button", name="Include in the record").click()
    expect(line).to_contain_text("In the write-up. Before we knew.")
    told = {one["words"].split(",")[0]: one for one in person.treatment()["disputed"]}
    assert told["soreness 7"]["settled"] == "happened" and told["the start of the session"]["settled"] is None


def test_after_signing_out_nothing_readable_stays_and_nothing_is_lost(at_table):
    person = at_table.takes_in("Sealed Juniper")
    page = person.lies_down()
    no_events(page)
    page.keyboard.press("8")
    page.keyboard.press("t")
    page.keyboard.press("x")
    expect(page.get_by_role("heading", name="Stopped")).to_be_visible()
    at_table.goes("/")
    saved = page.get_by_role("status", name="Saved on this device")
    expect(saved).to_contain_text("3 entries of Sealed Juniper's session saved on this device.")
    page.get_by_role("button", name="Sign out").click()
    expect(saved).to_contain_text(
        "3 entries of a session saved on this device. Will be sent when Ode Marrable signs in."
    )
    held = page.evaluate(HELD)
    for word in ("Juniper", "soreness", "tingling", "GB21", "stopped"):
        assert word not in held, f"'{word}' can be read after signing out"
    page.context.route("**/api/**", lambda route: route.abort())
    at_table.goes(f"/treat/{person.visit_id}")
    expect(page.get_by_text("Sign in to continue where you left off.")).to_be_visible()
    page.context.unroute("**/api/**")
    sees_them_again(page)
    with page.expect_response("**/events"):
        at_table.signs_in()
    expect(saved).to_have_count(0)
    db = person.treatment()["session"]
    assert db["status"] == "stopped"
    assert [one["value"] for record in db["records"].values() for one in record["soreness"]] == [8]


def test_a_closed_tab_is_not_the_end(at_table):
    """The table's page is closed with entries waiting; any other page of the application sends them."""
    person = at_table.takes_in("Closed Tab")
    page = person.lies_down()
    no_events(page)
    page.keyboard.press("6")
    expect(waits(page)).to_contain_text("1 entry saved on this device.")
    at_table.page = page.context.new_page()
    page.close()
    sees_them_again(at_table.page)
    at_table.goes("/safety")
    expect(at_table.page.get_by_text("Pressure levels").first).to_be_visible()
    at_table.settles()
    at_table.goes("/")
    expect(at_table.page.get_by_role("status", name="Saved on this device")).to_have_count(0)
    felt = [one["value"] for record in person.treatment()["session"]["records"].values() for one in record["soreness"]]
    assert felt == [6]


@pytest.mark.long
def test_of_two_windows_one_sends_and_hands_over_when_it_is_closed(at_table):
    """The window that was opened last sends for both; once it is closed, the one that is left sends what waits."""
    first = at_table.page
    person = at_table.takes_in("Two Windows")
    at_table.page = first.context.new_page()
    table = person.lies_down()
    sent: list[str] = []
    for window, name in ((first, "first"), (table, "table")):
        window.on("request", lambda asked, name=name: asked.url.endswith("/events") and sent.append(name))
    table.keyboard.press("6")
    expect(table.get_by_role("region", name="At the sore spot")).to_contain_text("Sore 6.")
    expect(waits(table)).to_have_count(0)
    assert set(sent) == {"table"}
    no_events(table)
    table.keyboard.press("4")
    expect(waits(table)).to_contain_text("1 entry saved on this device.")
    sees_them_again(table)
    with first.expect_response("**/events") as answer:
        table.close()
    assert answer.value.ok
    at_table.page = first
    records = person.treatment()["session"]["records"]
    assert [one["value"] for record in records.values() for one in record["soreness"]] == [6, 4]


@pytest.mark.long
def test_new_answers_reach_the_table_at_once(at_table):
    person = at_table.takes_in("New Answers")
    page = person.lies_down()
    person.screened(blood_thinner=True)
    expect(page.get_by_text("New answers: level 2 at most here.")).to_be_visible()
    expect(page.get_by_test_id("level")).to_have_text("level 2, maximum")
    expect(page.get_by_role("button", name=re.compile("^Deeper"))).to_be_disabled()


@pytest.mark.long
def test_a_treatment_begins_without_the_network_where_the_day_was_opened_before(practitioner, server):
    """People, score and figure of the day are on the device, sealed; it is begun, played and sent later."""
    practitioner.signs_in()
    person = practitioner.takes_in("At Hand")
    page = practitioner.page
    practitioner.goes_on_by_hand()
    practitioner.sets_pin()
    practitioner.goes("/")
    line = page.get_by_role("listitem").filter(has_text="At Hand")
    expect(line.and_(page.locator("[data-at-hand]"))).to_be_visible(timeout=90_000)  # the nearest first, one by one
    expect(page.get_by_test_id("at-hand")).to_contain_text("ready to use offline.")
    page.evaluate("() => navigator.serviceWorker.ready")
    assert "At Hand" not in page.evaluate(HELD), "what is kept can be read by nobody"
    with server.away():
        page.reload()
        practitioner.opens_offline("1357")
        expect(page.get_by_role("alert")).to_contain_text("Incorrect PIN. 4 tries left.")
        practitioner.pictures("offline", page)
        practitioner.opens_offline()
        expect(page.get_by_text("The server is not responding. This is the day")).to_be_visible()
        page.goto(f"{server.url}/treat/{person.visit_id}")
        practitioner.opens_offline()
        page.get_by_role("button", name="Start session").click()
        page.get_by_role("button", name="Start").wait_for()
        page.keyboard.press("Space")
        person.walks_to("GB21")
        page.keyboard.press("6")
        expect(page.get_by_role("region", name="At the sore spot")).to_be_visible()
        page.keyboard.press("Space")
        expect(page.get_by_label("Well of the shoulder on the body")).to_be_visible()
        for way in ("Something is wrong W", "Stop X"):
            expect(page.get_by_role("button", name=way)).to_be_in_viewport(ratio=1)
        practitioner.pictures("treat-away", page)
        expect(waits(page)).to_contain_text("saved on this device.")
    expect(waits(page)).to_have_count(0)
    state = person.treatment()
    assert (state["session"]["status"], state["disputed"]) == ("paused", [])
    assert [one["value"] for one in state["session"]["records"]["GB21-1"]["soreness"]] == [6]
    practitioner.goes("/")
    assert person.id in page.evaluate(HELD)
    page.get_by_role("button", name="Sign out").click()
    page.get_by_role("button", name="Sign in").wait_for()
    assert person.id not in page.evaluate(HELD), "with a sign-out it goes"


@pytest.mark.long
def test_an_idle_screen_is_covered_and_a_treatment_never(chromium, server):
    alone = Practitioner(chromium.new_context(**DESK, service_workers="block").new_page(), server)
    page = alone.page
    page.clock.install()
    alone.signs_in()
    alone.sets_pin()
    alone.goes("/")
    person = alone.takes_in("Idle")
    cover = page.get_by_role("dialog", name="Screen locked")
    page.get_by_role("button", name="New person").wait_for()
    page.clock.pause_at(datetime.now(UTC) + timedelta(minutes=5))  # however long all this took, idle time begins now:
    page.mouse.move(300, 300)
    page.clock.run_for("09:50")
    expect(cover).to_have_count(0)
    with page.expect_response("**/api/cover") as told:
        page.clock.run_for("00:30")
    assert told.value.status == 204
    expect(cover).to_be_visible()
    page.clock.resume()
    expect(page.get_by_role("button", name="New person")).to_have_count(0)
    problem = page.evaluate("() => fetch('/api/day').then(answer => answer.json())")
    assert problem["code"] == "covered", "the lock is the server's"
    page.evaluate("() => localStorage.clear()")
    page.reload()
    expect(cover).to_be_visible()
    expect(page.get_by_text("Tamsin")).to_have_count(0)
    alone.pictures("locked", page)
    cover.get_by_label("PIN", exact=True).fill("1357")
    cover.get_by_role("button", name="Unlock").click()
    expect(cover.get_by_role("alert")).to_contain_text("Incorrect PIN.")
    cover.get_by_role("button", name="Use the password").click()
    cover.get_by_label("Password", exact=True).fill(PASSWORD)
    cover.get_by_role("button", name="Unlock").click()
    expect(cover).to_have_count(0)
    alone.goes(f"/treat/{person.visit_id}")
    page.get_by_role("button", name="Start session").click()
    page.get_by_role("button", name="Start").wait_for()
    page.clock.run_for("15:00")
    expect(cover).to_have_count(0)
    expect(page.get_by_role("button", name="Start")).to_be_visible()
    alone.closes()


@pytest.mark.long
def test_a_clock_that_is_wrong_is_told_and_corrected(chromium, server):
    fast = Practitioner(chromium.new_context(**DESK, service_workers="block").new_page(), server)
    fast.page.clock.install(time=datetime.now(UTC) + timedelta(hours=1))
    fast.signs_in()
    person = fast.takes_in("Fast Clock")
    page = fast.page
    fast.goes(f"/treat/{person.visit_id}")
    page.get_by_role("button", name="Start session").click()
    page.get_by_role("button", name="Start").click()
    expect(page.get_by_text("This device's clock is 60 min fast.")).to_be_visible()
    begun = datetime.fromisoformat(person.treatment()["session"]["began_at"])
    assert abs(begun - datetime.now(UTC)) < timedelta(minutes=2)
    left = page.get_by_test_id("left").text_content()
    assert re.fullmatch(r"\d:\d\d", left), f"the stop has just begun, and says {left}"
    fast.closes()


@pytest.mark.long
@pytest.mark.parametrize("zone", ["Pacific/Honolulu", "Pacific/Tongatapu"])
def test_times_are_the_practices_wherever_the_browser_is(chromium, server, signed_state, zone):
    far = Practitioner(chromium.new_context(**DESK, storage_state=signed_state, timezone_id=zone).new_page(), server)
    far.goes("/")
    line = far.page.get_by_role("listitem").filter(has_text="Bram")
    expect(line).to_contain_text("09:45")
    there = far.page.evaluate(
        "zone => new Date().toLocaleDateString('en-GB', "
        "{ timeZone: zone, weekday: 'long', day: 'numeric', month: 'long' })",
        ZONE,
    )
    expect(far.page.get_by_role("heading", level=1)).to_have_text(there)
    far.closes()


@pytest.mark.parametrize("address", ["/people/nonsense", "/people/00000000-0000-4000-8000-000000000000"])
def test_a_bad_address_is_told_plainly(at_work, address):
    at_work.goes(address)
    expect(at_work.page.get_by_role("alert").first).to_contain_text(re.compile("there is no such person", re.I))


@pytest.mark.long
def test_the_audit_is_read_by_person_and_day(at_work):
    page = at_work.page
    tamsin = at_work.visits()["Tamsin"]["person_id"]
    at_work.does("GET", f"/people/{tamsin}/course")
    at_work.goes(f"/audit?person={tamsin}")
    rows = page.get_by_role("row")
    expect(rows.filter(has_text="course read").first).to_contain_text("Tamsin Orrell")
    page.get_by_label("Day", exact=True).fill("2001-01-01")
    expect(page.get_by_text("No entries match.")).to_be_visible()
    with page.expect_download() as saved:
        page.get_by_role("link", name="Export CSV").click()
    assert saved.value.suggested_filename == "audit-2001-01-01.csv"


@pytest.mark.long
def test_a_record_is_erased_by_its_name(at_work):
    page = at_work.page
    person = at_work.takes_in("Erased")
    at_work.goes(f"/people/{person.id}/file")
    page.get_by_role("button", name="Erase the record").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Reason").fill("Asked for it")
    expect(dialog.get_by_role("button", name="Erase in seven days")).to_be_disabled()
    dialog.get_by_label("Type Erased to confirm").fill("Erased")
    dialog.get_by_role("button", name="Erase in seven days").click()
    expect(page).to_have_url(re.compile("/people$"))
    row = page.get_by_role("region", name="Records to be erased").get_by_role("listitem").filter(has_text="Erased")
    expect(row).to_contain_text("Asked for it")
    at_work.pictures("people-erased")
    at_work.goes(f"/people/{person.id}")
    expect(page.get_by_role("alert").first).to_contain_text("no such person")
    at_work.goes("/people")
    row.get_by_role("button", name="Undo").click()
    expect(row).to_have_count(0)
    at_work.goes(f"/audit?person={person.id}")
    expect(page.get_by_role("row").filter(has_text="erasure requested: Asked for it")).to_be_visible()
    expect(page.get_by_role("row").filter(has_text="erasure withdrawn")).to_be_visible()
