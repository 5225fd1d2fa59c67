"""Treating with the hands on somebody: a whole session by keys, by pedal, and what is done at a sore spot."""

import re

import pytest
from playwright.sync_api import expect

from .conftest import DESK, Practitioner
from .test_look import assert_nothing_serious


@pytest.fixture
def at_table(chromium, server, signed_state):
    """A device of a practitioner who has signed in, as it comes: with its own worker, and no script from outside."""
    person = Practitioner(chromium.new_context(**DESK, storage_state=signed_state).new_page(), server)
    yield person
    person.closes()


def hands(person):
    """Touches that each thing that was said took, without the beginning."""
    visits = person.by.does("GET", f"/people/{person.id}/record")["visits"]
    told = next(one["events"] for one in visits if one["id"] == person.visit_id)
    return [(one["kind"], one["hands"]) for one in told if one["kind"] != "begin"]


def stop(page):
    return page.get_by_test_id("stop")


def all_sent(page):
    expect(page.get_by_test_id("unsent")).to_have_count(0)


def level(page):
    return page.get_by_test_id("level")


def test_a_whole_session_by_keys_alone_takes_at_most_a_touch_a_stop(at_table):
    """The clock is the browser's, driven on: the conductor moves on by itself, and waits where somebody turns."""
    person = at_table.takes_in("Keys Alone")
    page = at_table.page
    page.clock.install()
    at_table.draws_flat()
    at_table.goes(f"/treat/{person.visit_id}")
    page.get_by_role("button", name="Start session").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name=re.compile("^Start"))).to_be_visible()
    page.keyboard.press("Space")
    seen: list = []
    for _ in range(200):
        here = page.get_by_role("heading", level=1).first.text_content()
        if here == "Done":
            break
        if not seen or seen[-1] != here:
            seen.append(here)
        if page.get_by_role("region", name="Turn").count():
            page.keyboard.press("ArrowRight")
            expect(page.get_by_role("region", name="Turn")).to_have_count(0)
        page.clock.fast_forward(10_000)
    expect(page.get_by_role("heading", name="Done")).to_be_visible()
    expect(page.get_by_test_id("unsent")).to_have_count(0)
    played = [one for one in person.stops if not one["muted"]]
    assert len(seen) == len(played), "every stop, in its order, and none twice"
    session = person.treatment()["session"]
    assert session["status"] == "finished"
    told = hands(person)
    starts = [touches for kind, touches in told if kind == "start_stop"]
    assert starts[0] == 1 and sum(touches for _, touches in told) <= len(played), "at most one touch a stop"
    assert starts.count(0) > len(starts) / 2, "most of it moves on by itself"


@pytest.mark.long
def test_by_pedal_alone_a_number_is_chosen_and_something_is_seen(at_table):
    """What a foot switch sends, and nothing else: hold, next, sore with its number, something with its choice."""
    person = at_table.takes_in("Pedal Alone")
    page = person.lies_down()
    page.keyboard.press("PageUp")
    expect(page.get_by_role("button", name=re.compile("^Go on"))).to_be_visible()
    at_table.settles()
    at_table.holds_the_clock()
    page.clock.fast_forward(2000)
    page.keyboard.press("PageUp")
    expect(page.get_by_role("button", name=re.compile("^Pause Space"))).to_be_visible()
    page.keyboard.press("F8")
    chosen = page.get_by_role("alertdialog", name="How sore")
    expect(chosen.get_by_role("button", name="5", exact=True)).to_be_focused()
    page.keyboard.press("PageDown")
    expect(chosen.get_by_role("button", name="6", exact=True)).to_be_focused()
    page.keyboard.press("PageUp")
    expect(page.get_by_test_id("felt").get_by_label("soreness 6")).to_be_visible()
    page.keyboard.press("F9")
    seen = page.get_by_role("alertdialog", name="Reaction")
    expect(seen).to_be_visible()
    page.keyboard.press("PageDown")
    page.clock.fast_forward(500)
    page.keyboard.press("PageDown")
    expect(seen.get_by_role("button", name="Warm")).to_be_focused()
    page.keyboard.press("PageUp")
    expect(page.get_by_text("Warmth is spreading")).to_be_visible()
    page.clock.fast_forward(2000)
    page.keyboard.press("PageDown")
    expect(stop(page)).not_to_have_text("GB21")
    # What is wrong can be found out by two pedals as well: something, then on to the last choice but one.
    page.clock.fast_forward(500)
    page.keyboard.press("F9")
    wrong = seen.get_by_role("button", name="Something is wrong")
    wrong.focus()
    page.keyboard.press("PageUp")
    asked = page.get_by_role("alertdialog", name="Something is wrong")
    expect(asked).to_contain_text("Do they answer when you speak to them?")
    page.keyboard.press("PageDown")
    expect(asked.get_by_role("button", name="Yes")).to_be_focused()
    page.clock.fast_forward(500)
    page.keyboard.press("PageUp")
    expect(asked.get_by_role("heading", level=1)).to_contain_text("chest")
    page.keyboard.press("PageUp")
    expect(asked.get_by_role("heading", level=1)).to_contain_text("chest")  # a pedal that bounces answers once
    page.clock.resume()
    all_sent(page)
    record = person.treatment()["session"]["records"]["GB21-1"]
    assert [one["value"] for one in record["soreness"]] == [6] and record["reactions"] == ["warm"]


@pytest.mark.long
def test_a_pedal_is_learnt_by_pressing_it(at_table):
    page = at_table.page
    at_table.goes("/hands-free")
    page.get_by_test_id("learn").click()
    page.keyboard.press("F7")
    row = page.get_by_role("row").filter(has_text="F7, just pressed")
    row.get_by_role("combobox").click()
    page.get_by_role("option", name="Come back later").click()
    person = at_table.takes_in("Learnt Pedal")
    page = person.lies_down()
    page.keyboard.press("F7")
    expect(page.get_by_test_id("looks")).to_contain_text("GB21")
    all_sent(page)
    assert person.treatment()["session"]["second_looks"] == ["GB21-1"]


@pytest.mark.long
@pytest.mark.parametrize(
    ("key", "way", "after", "said"),
    [
        (None, "ease", 3, "It eases: 6 to 3. Carry on as before."),
        ("r", "rim", 6, "Not enough yet. One level lighter"),
        ("l", "later", None, "Carry on, and come back to it."),
    ],
    ids=["as proposed", "rim", "later"],
)
def test_the_sore_spot_is_worked_on_each_way(at_table, key, way, after, said):
    person = at_table.takes_in(f"Sore {way}")
    page = person.lies_down()
    before = level(page).text_content()
    page.clock.install()
    page.keyboard.press("6")
    round_ = page.get_by_role("region", name="At the sore spot")
    expect(round_).to_contain_text("Sore 6. One level lighter, hold for half a minute.")
    expect(level(page)).not_to_have_text(before)
    if key is not None:
        page.keyboard.press(key)
    if way == "later":
        expect(page.get_by_text(said)).to_be_visible()
        expect(round_).to_have_count(0)
    else:
        expect(round_.get_by_label(re.compile(r"^\d+ s left"))).to_be_visible()
        page.clock.fast_forward(31_000)
        expect(round_).to_contain_text(re.compile(r"Press as before, level \d: how is it now\?"))
        page.keyboard.press(str(after))
        expect(page.get_by_text(said)).to_be_visible()
        at_table.pictures(f"treat-sore-{way}")
    expect(page.get_by_test_id("looks")).to_contain_text("GB21")
    all_sent(page)
    rounds = person.treatment()["session"]["records"]["GB21-1"]["rounds"]
    assert (rounds[0]["proposed"], rounds[0]["taken"], rounds[0]["after"]) == ("ease", way, after)


@pytest.mark.long
def test_what_stands_over_the_stop_is_accessible_in_both_themes(at_work):
    """The stop with its sore spot, the keys, the numbers, the note and the change of course."""
    person = at_work.takes_in("Seen By All")
    page = person.lies_down()
    page.keyboard.press("6")
    expect(page.get_by_role("region", name="At the sore spot")).to_be_visible()
    page.keyboard.press("Space")
    for dim in (False, True):
        assert_nothing_serious(page)
        for key, name in (("?", "Keys"), ("F8", "How sore"), ("n", "Note"), ("m", "Adjust session")):
            page.keyboard.press(key)
            expect(page.get_by_role("alertdialog", name=name)).to_be_visible()
            assert_nothing_serious(page)
            page.keyboard.press("Escape")
            expect(page.get_by_role("alertdialog")).to_have_count(0)
        if not dim:
            page.keyboard.press("d")
            expect(page.locator("html[data-mantine-color-scheme=dark]")).to_have_count(1)


def test_a_wrong_key_is_taken_back_a_note_is_kept_and_the_breath_is_followed(at_table):
    person = at_table.takes_in("Taken Back")
    page = person.lies_down()
    page.keyboard.press("9")
    expect(page.get_by_test_id("felt").get_by_label("soreness 9")).to_be_visible()
    page.keyboard.press("z")
    expect(page.get_by_text("Undone: soreness 9, right.")).to_be_visible()
    expect(page.get_by_test_id("felt").get_by_label("soreness 9")).to_have_count(0)
    page.keyboard.press("n")
    note = page.get_by_role("alertdialog", name="Note")
    expect(note.get_by_label("Note")).to_be_focused()
    note.get_by_role("button", name="Warmer than last time").click()
    page.keyboard.press("n")
    expect(note.get_by_label("Note")).to_be_focused()
    page.keyboard.type("asked for evenings")
    page.keyboard.press("Enter")
    page.keyboard.press("?")
    expect(page.get_by_role("alertdialog", name="Keys")).to_contain_text("undo the last entry")
    page.keyboard.press("Escape")
    all_sent(page)
    at_table.holds_the_clock()
    for _ in range(5):
        page.keyboard.press("c")
        page.clock.fast_forward(6000)
    page.clock.resume()
    all_sent(page)
    treatment = person.treatment()
    session = treatment["session"]
    assert treatment["disputed"] == []
    assert session["breath_s"] == pytest.approx(6, abs=0.1)
    assert [one["text"] for one in session["notes"]] == ["Warmer than last time", "asked for evenings"]
    told = [kind for kind, _ in hands(person)]
    assert told.count("soreness") == 1 and told.count("undo") == 1, "the log keeps both"
    page.keyboard.press("x")
    at_table.goes(f"/visits/{person.visit_id}")
    expect(page.get_by_label("Observed")).to_have_value(re.compile("Warmer than last time. asked for evenings."))


@pytest.mark.long
def test_what_the_hand_found_and_what_is_under_it(at_table):
    """A texture and an offset by keys, told over the stop; what is touched on the body is added by the composer."""
    person = at_table.takes_in("Found Here")
    page = person.lies_down(in_depth=True)
    page.keyboard.press("g")
    found = page.get_by_role("alertdialog", name="Your finding")
    expect(found).to_contain_text("At its place")
    for key in ("3", "ArrowRight", "ArrowRight", "ArrowDown"):
        page.keyboard.press(key)
    expect(found.get_by_role("status")).to_have_text("4 mm back and 2 mm outwards, knot")
    at_table.pictures("treat-found")
    page.keyboard.press("Enter")
    expect(found).to_have_count(0)
    page.keyboard.press("b")
    expect(page.get_by_role("button", name=re.compile("^GB21.*bracing"))).to_be_visible()
    at_table.sees_the_body()
    page.keyboard.press("m")
    page.keyboard.press("a")
    body = page.locator("canvas").first.bounding_box()
    page.mouse.click(body["x"] + body["width"] / 2, body["y"] + body["height"] / 2)
    near = page.get_by_role("region", name="Nearby")
    expect(near).to_be_visible()
    at_table.pictures("treat-touched")
    near.get_by_role("listitem").get_by_role("button").first.click()
    offered = page.get_by_role("alertdialog", name="New plan for the remaining time").or_(page.get_by_role("alert"))
    expect(offered.first).to_be_visible()
    page.keyboard.press("Escape")
    all_sent(page)
    (kept,) = person.treatment()["session"]["found"]
    assert (kept["texture"], kept["side"], len(kept["offset"]["mm"])) == ("knot", "right", 2)


@pytest.mark.long
def test_who_lies_there_says_it_on_a_screen_of_their_own(at_table, chromium, server):
    """A phone joins by the code; its number is heard here as theirs; it ends with the treatment."""
    person = at_table.takes_in("Own Say")
    page = person.lies_down()
    page.keyboard.press("y")
    theirs = page.get_by_role("alertdialog", name="Their own screen")
    theirs.get_by_role("button", name="Show a code").click()
    shown = theirs.locator("b")
    expect(shown).to_have_text(re.compile(r"^[0-9A-Z]{4} [0-9A-Z]{4}$"))
    expect(theirs.get_by_role("img", name="QR code with the address and the code")).to_be_visible()
    at_table.pictures("treat-their-screen")
    pocket = {"viewport": {"width": 390, "height": 844}, "locale": "en-GB", "bypass_csp": True}
    phone = chromium.new_context(**pocket).new_page()
    phone.goto(f"{server.url}/say")
    phone.get_by_label("Code from the practitioner's screen").fill(shown.text_content())
    phone.get_by_role("button", name="Join").click()
    expect(phone.get_by_role("img", name=re.compile("^Breathe (in|out)"))).to_be_visible()
    expect(theirs.get_by_role("status")).to_contain_text("Connected.")
    page.keyboard.press("Escape")
    phone.get_by_role("button", name="6", exact=True).click()
    expect(phone.get_by_role("status")).to_have_text("6. Thank you.")
    expect(page.get_by_test_id("felt")).to_contain_text("self-rated")
    assert_nothing_serious(phone)
    at_table.pictures("say", phone)
    phone.get_by_role("button", name="Lighter").click()
    expect(page.get_by_text(re.compile("They want less"))).to_be_visible()
    phone.get_by_role("button", name="Stop", exact=True).click()
    expect(phone.get_by_role("heading", name="It is over")).to_be_visible()
    expect(page.get_by_role("heading", name="Stopped")).to_be_visible()
    phone.reload()
    expect(phone.get_by_role("alert")).to_contain_text("has ended")
    phone.context.close()


def test_the_rest_is_composed_anew_within_a_second_taken_by_a_key_and_left_by_one(at_table):
    person = at_table.takes_in("Late Today")
    page = person.lies_down()
    planned = [one["key"] for one in person.treatment()["session"]["score"]["stops"]]
    page.keyboard.press("m")
    change = page.get_by_role("alertdialog", name="Adjust session")
    expect(change.get_by_role("button", name=re.compile("^5 minutes left"))).to_be_visible()
    page.keyboard.press("1")
    offered = page.get_by_role("alertdialog", name="New plan for the remaining time")
    expect(offered).to_contain_text("proven best")
    at_table.pictures("treat-rest")
    page.keyboard.press("Escape")
    expect(offered).to_have_count(0)
    assert [one["key"] for one in person.treatment()["session"]["score"]["stops"]] == planned, "left: as it was"
    page.keyboard.press("m")
    page.keyboard.press("1")
    expect(offered).to_contain_text("Dropped")
    page.keyboard.press("Enter")
    expect(offered).to_have_count(0)
    all_sent(page)
    session = person.treatment()["session"]
    assert session["given_up"] and len(session["score"]["stops"]) < len(planned)
    page.keyboard.press("z")
    expect(page.get_by_text("Undone: a new plan for the remaining time: 5 minutes left.")).to_be_visible()
    all_sent(page)
    assert [one["key"] for one in person.treatment()["session"]["score"]["stops"]] == planned


@pytest.mark.long
def test_afterwards_planned_stands_beside_done_times_are_put_right_and_the_end_is_taken_back(at_work):
    person = at_work.takes_in("Afterwards")
    page = person.lies_down()
    page.keyboard.press("6")
    expect(page.get_by_role("region", name="At the sore spot")).to_be_visible()
    page.keyboard.press("b")
    page.keyboard.press("x")
    done = page.get_by_role("region", name="Session summary")
    row = done.get_by_role("row").filter(has_text="GB21")
    expect(row).to_contain_text(re.compile(r"lightened, bracing"))
    expect(done.get_by_role("row").filter(has_text="not reached").first).to_be_visible()
    time = row.get_by_role("textbox")
    time.fill("1:15")
    time.press("Enter")
    expect(time).to_have_value("1:15")
    at_work.settles()
    assert_nothing_serious(page)
    at_work.pictures("treat-over")
    all_sent(page)
    assert person.treatment()["session"]["records"]["GB21-1"]["active_s"] == 75
    done.get_by_role("button", name="Undo: 75 s at GB21-1").click()
    done.get_by_role("button", name="Undo: the end of the session").click()
    expect(stop(page)).to_have_text("GB21")
    all_sent(page)
    assert person.treatment()["session"]["status"] == "running"


@pytest.fixture
def second(chromium, server, signed_state):
    """Another device of the same practitioner."""
    person = Practitioner(chromium.new_context(**DESK, storage_state=signed_state).new_page(), server)
    yield person
    person.closes()


@pytest.mark.long
def test_two_devices_hear_of_each_other_and_agree_after_ten_minutes_apart(at_table, second):
    person = at_table.takes_in("Two Devices")
    page = person.lies_down()
    there = second.page
    second.goes_on_by_hand()
    second.draws_flat()
    second.goes(f"/treat/{person.visit_id}")
    expect(stop(there)).to_have_text("GB21")
    for device in (at_table, second):
        device.settles()
        device.holds_the_clock()  # neither looks by itself any more: what it hears, the stream said
    page.keyboard.press("4")
    expect(there.get_by_test_id("felt").get_by_label("soreness 4")).to_be_visible()
    there.keyboard.press("b")
    expect(page.get_by_text("Lighten one level and wait")).to_be_visible()
    expect(level(page)).to_have_text(level(there).text_content())

    page.keyboard.press("Space")
    expect(there.get_by_role("button", name=re.compile("^Go on"))).to_be_visible()
    # Ten minutes apart: both are told something.
    for device in (page, there):
        device.context.route("**/api/**", lambda route: route.abort())
    page.keyboard.press("7")
    there.keyboard.press("p")
    for device in (page, there):
        device.clock.fast_forward(600_000)
    there.keyboard.press("n")
    there.get_by_role("textbox", name="Note").fill("ten minutes later")
    there.keyboard.press("Enter")
    expect(there.get_by_test_id("unsent")).to_contain_text("Offline. 2 entries")
    for device in (page, there):
        device.context.unroute("**/api/**")
        device.clock.resume()
    for device in (page, there):
        all_sent(device)
        device.reload()
        expect(stop(device)).to_be_visible()
    told = person.treatment()
    assert told["disputed"] == [], "nothing of it contradicts"
    gb21 = told["session"]["records"]["GB21-1"]
    assert [one["value"] for one in gb21["soreness"]] == [4, 7] and gb21["reactions"] == ["bracing", "pulse_felt"]
    assert [one["text"] for one in told["session"]["notes"]] == ["ten minutes later"]
    here, other = (device.get_by_test_id("felt").inner_text() for device in (page, there))
    assert (here, stop(page).text_content()) == (other, stop(there).text_content())


@pytest.mark.long
def test_a_device_without_room_says_so_and_loses_nothing(at_table):
    person = at_table.takes_in("No Room")
    page = person.lies_down()
    page.evaluate(
        """() => {
            const full = () => { throw new DOMException('QuotaExceededError', 'QuotaExceededError'); };
            Storage.prototype.setItem = full;
            IDBObjectStore.prototype.add = full;
        }"""
    )
    page.context.route("**/events", lambda route: route.abort())
    page.keyboard.press("4")
    expect(page.get_by_text("Storage on this device is full")).to_be_visible()
    expect(page.get_by_test_id("unsent")).to_contain_text("1 entry")
    page.context.unroute("**/events")
    all_sent(page)
    expect(page.get_by_text("Storage on this device is full")).to_have_count(0)
    assert [one["value"] for one in person.treatment()["session"]["records"]["GB21-1"]["soreness"]] == [4]
