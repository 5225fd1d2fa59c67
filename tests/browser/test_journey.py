"""One person, from first visit to response, as a practitioner would: all ten stations on the real server."""

import json
import re
import uuid

import pytest
from playwright.sync_api import expect

from acuthesis.demo.world import PASSWORD
from acuthesis.store import access
from acuthesis.store.database import transaction

from .conftest import PATIENCE_MS

NAME = "Juniper"


def test_from_first_visit_to_response(practitioner, server, tmp_path):
    page = practitioner.page
    practitioner.goes_on_by_hand()
    practitioner.signs_in()
    practitioner.sets_pin()
    practitioner.goes("/")

    # 2. The day: a new person is taken in.
    page.get_by_role("button", name="New person").click()
    page.get_by_label("First name").fill(NAME)
    page.get_by_label("Date of birth").fill("1988-03-14")
    page.get_by_label("Figure").select_option("female")
    page.get_by_label("History").fill("Paints the flats; neck and head ache after long days.")
    page.get_by_role("button", name="Add person").click()

    # 3. Screening: an emergency stops with reasons, then the true answers become limits.
    expect(page.get_by_role("heading", name=NAME)).to_be_visible()
    emergency = page.get_by_role("checkbox", name=re.compile("Chest pain or pressure"))
    emergency.check()
    expect(page.get_by_text("This needs an ambulance now. Stay seated")).to_be_visible()
    page.get_by_role("button", name="Save answers").click()
    expect(page.get_by_role("alert")).to_contain_text("Chest pain or pressure")
    emergency.uncheck()
    page.get_by_role("checkbox", name=re.compile("Blood-thinning medicine")).check()
    page.get_by_role("button", name="Save answers").click()
    expect(page.get_by_role("alert")).to_have_count(0)
    expect(page.get_by_role("list", name="Limits").first).to_contain_text("Blood-thinning medicine: level 2 at most")

    # 4. A complaint and its rating before.
    page.get_by_label("What they say").fill("head aches after the screen")
    page.get_by_role("button", name=re.compile("^Tension headache")).click()
    page.get_by_role("combobox", name="Activity affected").fill("painting the sky")
    page.keyboard.press("Enter")
    page.get_by_label("What eases it").fill("a dark room")
    page.get_by_role("button", name="Add complaint").click()
    expect(page.get_by_text("eased by a dark room")).to_be_visible()
    page.get_by_role("radiogroup", name="painting the sky, 0 to 10").get_by_role("radio", name="6", exact=True).click()
    scale = page.get_by_role("radiogroup", name="Tension headache, 0 to 10")
    scale.get_by_role("radio", name="7", exact=True).click()
    expect(scale.get_by_role("radio", name="7", exact=True)).to_be_checked()
    page.get_by_role("main").get_by_role("button", name="Next: Measure").last.click()

    # 5. Measures: an impossible one is refused with the range, nothing is lost, then the true ones.
    page.get_by_label("Height").fill("169")
    page.get_by_label("Forearm").fill("99")
    page.get_by_role("button", name="Save measurements").click()
    expect(page.get_by_text("forearm is 99 cm; it can be 16 to 36 cm").first).to_be_visible()
    expect(page.get_by_label("Height")).to_have_value("169 cm")
    page.get_by_label("Forearm").fill("25.2")
    page.get_by_label("Lower leg, inside").fill("35.6")
    page.get_by_label("Thumb width", exact=True).fill("1.9")
    page.get_by_label("Four fingers", exact=True).fill("6.9")
    page.get_by_role("button", name="Save measurements").click()
    expect(page.get_by_text("Measurements saved")).to_be_visible()
    page.get_by_label("Forearm").focus()
    expect(page.get_by_text(re.compile(r"On the figure: 25\.[123] cm"))).to_be_visible()
    practitioner.sees_the_body()

    # 6. Find: by name, by key, by touch; in centimetres and fingers.
    page.get_by_role("link", name="Find").click()
    practitioner.sees_the_body()
    page.keyboard.press("/")
    page.keyboard.type("san yin jiao")
    expect(page.get_by_role("listitem").filter(has_text="SP6").first).to_be_visible()
    practitioner.settles()
    page.keyboard.press("Enter")
    sheet = page.get_by_role("complementary")
    expect(sheet.get_by_role("heading", name="SP6")).to_be_visible()
    expect(sheet).to_contain_text("3 of 13 cun")
    expect(sheet).to_contain_text("1 cun, measured")
    expect(sheet).to_contain_text("their four fingers")
    expect(sheet).to_contain_text("At most level 2")
    page.get_by_label("Find a point or area").press("Escape")
    page.keyboard.press("ArrowRight")
    expect(page).to_have_url(re.compile("side=right"))
    page.get_by_label("Find a point or area").fill("")
    page.get_by_label("Group").select_option("ear")
    page.get_by_role("button", name="Gate of the spirit (ear)", exact=True).click()
    expect(sheet).to_contain_text("on this person")

    # 7. Compose, and edit by keys and by hand.
    page.get_by_role("link", name="Compose").click()
    score = page.get_by_role("toolbar")
    expect(score).to_be_visible()
    closer = page.get_by_role("button", name="Show all")
    if closer.count():  # a long session opens in a window; here the whole of it is edited
        closer.click()
    blocks = score.locator("[data-key]")
    order = lambda: [block.get_attribute("data-key") for block in blocks.all()]  # noqa: E731
    before = order()
    place = next(n for n, block in enumerate(blocks.all()) if block.get_attribute("data-key").startswith("GB20"))
    first = blocks.nth(place)
    first.focus()
    stop = page.get_by_role("region", name="Stop", exact=True)
    expect(stop).to_contain_text("At most level 2: Blood-thinning medicine")
    key = first.get_attribute("data-key")
    page.keyboard.press("Shift+ArrowRight")
    expect(blocks.nth(place + 1)).to_have_attribute("data-key", key)
    page.get_by_role("button", name="Undo").click()
    expect(blocks.nth(place)).to_have_attribute("data-key", key)
    assert order() == before
    page.locator(f"[data-key='{key}']").focus()
    page.keyboard.press("m")
    expect(page.locator(f"[data-key='{key}']")).to_have_count(0)
    page.get_by_role("button", name=re.compile("Unmute")).click()
    expect(page.locator(f"[data-key='{key}']")).to_have_count(1)
    moved = blocks.nth(place)
    moved_key, target = moved.get_attribute("data-key"), blocks.nth(place + 1).bounding_box()
    box = moved.locator("rect").first.bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] - 4)
    page.mouse.down()
    page.mouse.move(target["x"] + target["width"], box["y"] + box["height"] - 4, steps=6)
    page.mouse.up()
    practitioner.settles()
    assert order().index(moved_key) > before.index(moved_key), "dragging moved the block to the right"

    # 8. Treat, hands-free; the server is killed in the middle, and nothing is lost.
    page.get_by_role("button", name="Treat", exact=True).click()
    page.get_by_role("button", name="Start session").click()
    page.get_by_role("button", name=re.compile("Start")).wait_for()
    page.keyboard.press("Space")
    expect(page.get_by_test_id("stop")).to_have_text("Talk and rate")
    walked = 0
    while re.fullmatch(r"[A-Z]{2}\d+", page.get_by_test_id("stop").text_content()) is None:
        here = page.get_by_test_id("stop").text_content()
        practitioner.moves_on()
        walked += 1
        expect(page.get_by_test_id("stop")).not_to_have_text(here)
    sore_stop = page.get_by_test_id("stop").text_content()
    page.keyboard.press("6")
    expect(page.get_by_role("region", name="At the sore spot")).to_contain_text("Sore 6.")
    expect(page.get_by_test_id("unsent")).to_have_count(0)
    with server.away():
        page.keyboard.press("4")
        practitioner.moves_on()
        page.keyboard.press("b")
        page.keyboard.press("Space")  # paused: by itself it would go on to the next stop while the server starts
        expect(page.get_by_test_id("unsent")).to_contain_text("Offline. 4 entries saved on this device.")
        after_kill = page.get_by_test_id("stop").text_content()
        assert after_kill != sore_stop, "the conductor goes on while the server is away"
        page.reload()  # the application itself comes from the browser now
        practitioner.opens_offline()
        expect(page.get_by_test_id("stop")).to_have_text(after_kill)
        expect(page.get_by_test_id("unsent")).to_contain_text("4 entries saved")
    expect(page.get_by_test_id("unsent")).to_have_count(0)
    expect(page.get_by_text("Lighten one level and wait")).to_be_visible()
    # Ctrl K at the table: stops of this score, and nothing that leads away from it. Typing is not conducting.
    page.keyboard.press("Control+k")
    search = page.get_by_placeholder("A stop or an action")
    expect(search).to_be_focused()
    expect(page.get_by_role("button", name=re.compile("Catalogue|Week"))).to_have_count(0)
    search.fill(sore_stop)
    search.press("Enter")
    expect(page.get_by_test_id("stop")).to_have_text(sore_stop)
    expect(page.get_by_test_id("unsent")).to_have_count(0)
    visit_id = page.url.rsplit("/", 1)[1]
    state = practitioner.asks(f"/api/visits/{visit_id}/treatment")
    felt = [one["value"] for record in state["session"]["records"].values() for one in record["soreness"]]
    assert felt == [6, 4]
    assert state["session"]["event_count"] == 8 + walked
    page.keyboard.press("x")
    expect(page.get_by_role("heading", name="Stopped")).to_be_visible()

    # 9. Rate again, and follow.
    after = page.get_by_role("region", name="Rate after")
    expect(after.get_by_role("heading")).to_have_text("Before they sit up, ask: how is it now?")
    page.keyboard.press("4")
    scale = after.get_by_role("radiogroup", name="Tension headache, 0 to 10")
    expect(scale.get_by_role("radio", name="4", exact=True)).to_be_checked()
    page.get_by_role("link", name="Complaints").click()
    page.get_by_role("link", name="Progress", exact=True).click()
    early = page.get_by_role("status").filter(has_text="Too early to say. A fair trial needs 3 visits (1 so far)")
    expect(early).to_be_visible()
    expect(page.get_by_text("but this is not certain yet")).to_be_visible()
    sore = page.get_by_label("Sore places")
    expect(sore.get_by_role("img", name=re.compile("soreness"))).to_have_count(2)
    expect(sore.get_by_role("img", name="soreness 6")).to_be_visible()
    expect(sore.get_by_role("img", name="soreness 4")).to_be_visible()

    # 10. Take away: papers, and the record out and refused the second time.
    page.get_by_role("link", name="Documents").click()
    for name in ("The visit", "For home"):
        link = page.get_by_role("listitem").filter(has_text=name).get_by_role("link")
        answer = page.request.get(f"{server.url}{link.get_attribute('href')}", timeout=PATIENCE_MS)
        assert answer.body().startswith(b"%PDF")
    with page.expect_download() as saved:
        page.get_by_role("link", name="Export to a file").click()
    record = tmp_path / "record.json"
    saved.value.save_as(record)
    assert json.loads(record.read_text())["person"]["given_name"] == NAME
    practitioner.goes("/people")
    page.locator("input[type=file]").set_input_files(record)
    expect(page.get_by_text(f"{NAME} is already in this practice.")).to_be_visible()
    broken = tmp_path / "broken.json"
    broken.write_text("{ not json")
    page.locator("input[type=file]").set_input_files(broken)
    expect(page.get_by_text("broken.json is not a JSON file")).to_be_visible()


@pytest.mark.long
def test_a_session_that_ended_leads_back_to_where_one_was(practitioner):
    page = practitioner.page
    practitioner.signs_in()
    person = practitioner.visits()["Callum"]["person_id"]
    practitioner.goes(f"/people/{person}/follow")
    expect(page.get_by_text("Sore places")).to_be_visible()
    page.context.clear_cookies()
    page.reload()
    expect(page.get_by_text("Sign in to continue where you left off.")).to_be_visible()
    page.get_by_label("Email").fill("ode@lanternwick.example")
    page.get_by_label("Password", exact=True).fill("wrong")
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_text("Incorrect email or password.")).to_be_visible()
    page.get_by_label("Password", exact=True).fill("paper-moon")
    page.get_by_role("button", name="Sign in").click()
    expect(page).to_have_url(re.compile(f"/people/{person}/follow$"))


def test_who_signs_in_where_a_session_ran_out_sees_nothing_of_who_was_there(practitioner):
    """The page is never loaded anew: what it had read of one practice is not the next one's to see."""
    email = f"night-{uuid.uuid4().hex[:6]}@elsewhere.example"
    with transaction() as db:
        elsewhere = access.add_practice(db, "Elsewhere by night", "Europe/London")
        access.add_practitioner(db, elsewhere.id, "Nia", email, PASSWORD)
    page = practitioner.page
    practitioner.signs_in()
    page.get_by_role("link", name="People", exact=True).click()
    expect(page.get_by_text("Tamsin")).to_be_visible()
    practitioner.settles()
    page.evaluate("() => { window.sameDocument = true; }")
    page.context.clear_cookies()
    page.get_by_role("link", name="Follow-up").click()
    ended = page.get_by_role("alert").first
    expect(ended).to_contain_text("Your session has ended. Sign in again")
    ended.get_by_role("link", name="Sign in").click()
    page.get_by_label("Email").fill(email)
    page.get_by_label("Password", exact=True).fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    expect(page).to_have_url(re.compile("/follow-up$"))
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    page.get_by_role("link", name="People", exact=True).click()
    expect(page.get_by_role("link", name="Nia")).to_be_visible()
    for text in (page.get_by_role("main").inner_text(), page.evaluate("() => document.body.textContent")):
        assert "Tamsin" not in text
    practitioner.settles()
    assert "Tamsin" not in page.get_by_role("main").inner_text()
    assert page.evaluate("() => window.sameDocument") is True


@pytest.mark.long
def test_a_second_window_is_told_and_overwrites_nothing(practitioner):
    page = practitioner.page
    practitioner.signs_in()
    bram = practitioner.visits()["Callum"]
    practitioner.goes(f"/people/{bram['person_id']}/measures")
    page.get_by_label("Weight").fill("93")
    second = page.context.new_page()
    second.goto(page.url)
    second.get_by_label("Weight").fill("95")
    second.get_by_role("button", name="Save measurements").click()
    expect(second.get_by_text("Measurements saved")).to_be_visible()
    page.get_by_role("button", name="Save measurements").click()
    expect(page.get_by_text("changed in another window in the meantime")).to_be_visible()
    assert practitioner.asks(f"/api/people/{bram['person_id']}")["weight_kg"] == 95
