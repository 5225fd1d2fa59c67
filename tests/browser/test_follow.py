"""Following as a practitioner reads it: the sentence, the time line by keys and touch, the decision, the film."""

import re

import pytest
from playwright.sync_api import expect

from .conftest import Practitioner


def opens(practitioner: Practitioner, name: str):
    person = practitioner.visits()[name]["person_id"]
    practitioner.goes(f"/people/{person}/follow")
    practitioner.page.get_by_label("Outcome").wait_for()
    return practitioner.page, person


def test_a_course_is_read_moved_through_and_decided_upon(at_work):
    page, person = opens(at_work, "Idris")
    course = at_work.asks(f"/api/people/{person}/course")
    [headache] = course["complaints"]
    expect(page.get_by_role("status").filter(has_text=headache["outcome"]["sentence"])).to_be_visible()
    line = page.get_by_label("Timeline of Idris")
    # All of it is seen; nearer, less is; moved along, others are.
    sessions = line.get_by_role("button", name=re.compile("session, "))
    expect(sessions).to_have_count(sum(visit["held"] for visit in course["visits"]))
    page.keyboard.press("+")
    page.keyboard.press("+")
    seen = sessions.count()
    assert 0 < seen < sum(visit["held"] for visit in course["visits"])
    first = sessions.first.get_attribute("aria-label")
    for _ in range(4):
        page.keyboard.press("ArrowLeft")
    expect(sessions.first).not_to_have_attribute("aria-label", str(first))
    line.get_by_role("button", name="All").click()
    # A session that is touched shows its score, and is closed again.
    sessions.last.click()
    session = page.get_by_label("The session")
    expect(session.get_by_text("Sore: ")).to_be_visible()
    expect(session.locator("svg").first).to_be_visible()
    session.get_by_role("button", name="Close", exact=True).click()
    expect(session).to_have_count(0)
    # The practitioner decides otherwise than is proposed, and both are kept.
    page.get_by_label("You decide").first.click()
    page.get_by_role("option", name="Space out sessions").click()
    page.get_by_role("textbox", name="Because").fill("the log is quiet")
    page.get_by_role("button", name="Save decision").click()
    expect(page.get_by_text("the log is quiet")).to_be_visible()
    expect(page.get_by_text(f"Suggested: {headache['proposal']['label'].lower()}.")).to_be_visible()


@pytest.mark.long
def test_what_happened_is_noted_and_a_rating_is_corrected(at_work):
    page, person = opens(at_work, "Bram")
    log = page.get_by_label("Between visits")
    log.get_by_role("button", name="Add an entry").click()
    log.get_by_label("In words").fill("long drive north")
    log.get_by_role("button", name="Save entry").click()
    expect(log.get_by_role("listitem").filter(has_text="long drive north")).to_be_visible()
    expect(page.get_by_label("Timeline of Bram").locator("text", has_text="long drive")).to_be_visible()
    log.get_by_role("button", name="Remove: long drive north").click()
    expect(log.get_by_role("listitem").filter(has_text="long drive north")).to_have_count(0)
    page.get_by_text("as a table").click()
    table = page.get_by_role("table").filter(has=page.get_by_role("columnheader", name="Moment"))
    home = table.get_by_role("row").filter(has_text="from home").first
    home.get_by_role("button", name="Correct").click()
    home.get_by_role("radio", name="9").click()
    expect(home.get_by_role("cell").nth(1)).to_have_text("9")
    record = at_work.asks(f"/api/people/{person}/record")
    assert [row["value"] for row in record["ratings"] if row["replaces"]] == [9]
    # Where a diary of home ratings is wanted elsewhere, it can be taken along.
    with page.expect_download() as waiting:
        page.get_by_role("link", name="Save as CSV").click()
    assert waiting.value.suggested_filename == "course.csv"


@pytest.mark.long
def test_a_list_from_elsewhere_is_looked_at_before_it_is_kept(at_work, tmp_path):
    page, person = opens(at_work, "Soren")
    page.get_by_text("as a table").click()
    kept = tmp_path / "heel.csv"
    kept.write_text("date,pain\n3/8/2026,6\n5/8/2026,eight\n")
    page.locator("input[type=file]").set_input_files(kept)
    expect(page.get_by_text("Row 1: “3/8/2026” is not a date")).to_be_visible()
    page.get_by_label("Date format").first.click()
    page.get_by_role("option", name="31/3/2026").click()
    expect(page.get_by_text("Row 2: “eight” is not a whole number from 0 to 10")).to_be_visible()
    expect(page.get_by_role("button", name="Save 1 ratings")).to_be_disabled()
    kept.write_text("date,pain\n3/8/2026,6\n5/8/2026,8\n")
    page.locator("input[type=file]").set_input_files([])
    page.locator("input[type=file]").set_input_files(kept)
    page.get_by_role("button", name="Save 2 ratings").click()
    expect(page.get_by_text("2 ratings saved.")).to_be_visible()
    rated = [row["value"] for row in at_work.asks(f"/api/people/{person}/record")["ratings"]]
    assert rated[:2] == [6, 8]


@pytest.mark.long
def test_soreness_is_a_film_right_beside_left_and_on_the_body(at_work):
    page, _ = opens(at_work, "Callum")
    film = page.get_by_label("Sore places")
    last = film.get_by_text(re.compile("visit 7 of 7"))
    expect(last).to_be_visible()
    film.get_by_role("slider").focus()
    page.keyboard.press("Home")
    expect(film.get_by_text(re.compile("visit 1 of 7"))).to_be_visible()
    expect(film.get_by_role("row").filter(has_text="spine lumbar")).to_contain_text("eases over the visits")
    film.get_by_role("button", name="On the body").click()
    expect(film.get_by_test_id("body")).to_have_attribute("data-ready", "true")
    expect(film.get_by_role("button", name="As a list")).to_be_visible()
