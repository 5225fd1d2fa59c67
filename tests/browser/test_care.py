"""Care at the desk and at the table: places painted and kept free, what is seen recorded by keys, something wrong."""

import pytest
from playwright.sync_api import expect

from .test_asked import KNEE
from .test_seams import at_table, no_events, sees_them_again, waits

__all__ = ["at_table"]  # a fixture


@pytest.mark.long
def test_a_place_is_painted_kept_free_and_said_to_be_over(at_work):
    page = at_work.page
    person = at_work.takes_in("Kneeling")
    at_work.goes(f"/people/{person.id}/story")
    hot = page.locator("label", has_text="A hot, red, swollen joint or place: where?")
    hot.get_by_role("checkbox").check()
    expect(page.get_by_text("Where? Mark the place before you compose.")).to_be_visible()
    page.get_by_role("button", name="Save answers").click()
    expect(page.get_by_role("alert")).to_contain_text(
        "A hot, red, swollen joint or place: where? Name or mark the place first."
    )

    page.get_by_role("button", name="Mark it").click()
    paint = page.get_by_test_id("paint")
    paint.locator("canvas").wait_for()
    expect(paint).to_have_attribute("data-still", "true")
    at_work.settles()
    box = paint.bounding_box()
    at = [box["x"] + box["width"] * KNEE_IN_MODAL[0], box["y"] + box["height"] * KNEE[1]]
    page.mouse.move(*at)
    page.mouse.down()
    page.mouse.move(at[0] + 2, at[1] + 6, steps=3)
    page.mouse.up()
    expect(page.get_by_role("dialog").get_by_role("status")).to_contain_text("knee")
    page.get_by_role("button", name="Save area").click()
    expect(page.get_by_text("Marked: knee")).to_be_visible()
    page.get_by_role("checkbox", name="A doctor has checked the hot, swollen place").check()
    page.get_by_role("button", name="Save answers").click()
    expect(page).to_have_url(f"{at_work.server.url}/people/{person.id}/complaints")

    # The next station knows it, on the figure and in words.
    at_work.goes(f"/people/{person.id}/find?id=ST35&side=left")
    expect(page.get_by_role("list", name="Areas left out")).to_contain_text("Hot, swollen place left out")
    expect(page.get_by_text("Left out: Do not press a hot, red, swollen place")).to_be_visible()
    at_work.sees_the_body()
    kept = at_work.asks(f"/api/people/{person.id}/kept-free")
    assert [one["rule"] for one in kept] == ["inflamed_place"]
    assert 0 < len(kept[0]["at"]) < len(kept[0]["skin"])

    at_work.goes(f"/people/{person.id}/story")
    page.get_by_role("button", name="It is over").click()
    hot.get_by_role("checkbox").uncheck()
    page.get_by_role("button", name="Save answers").click()
    expect(page).to_have_url(f"{at_work.server.url}/people/{person.id}/complaints")
    assert at_work.asks(f"/api/people/{person.id}/kept-free") == []


KNEE_IN_MODAL = (0.54, KNEE[1])  # the picture in the dialog is wider


def test_something_is_wrong_by_keys_with_the_server_away(at_table):
    person = at_table.takes_in("Pale")
    page = person.lies_down()
    no_events(page)
    # Two keys for what is seen; the person's own word is kept as it was said. A key that bounces chooses nothing.
    page.keyboard.press("s")
    page.keyboard.press("s")
    expect(page.get_by_role("alertdialog", name="Reaction")).to_be_visible()
    page.keyboard.press("n")
    expect(page.get_by_text("Stop pressing for a minute")).to_be_visible()
    page.keyboard.press("s")
    page.keyboard.press("o")
    page.get_by_label("In their own words").fill("everything turns")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Recorded in their own words.")).to_be_visible()

    page.keyboard.press("w")
    asked = page.get_by_role("alertdialog", name="Something is wrong")
    expect(asked).to_contain_text("Do they answer when you speak to them?")
    expect(asked).to_contain_text("Emergency services: 999")
    expect(asked).to_contain_text("Your location: The prop van")
    page.keyboard.press("y")
    for question in ("chest", "Face drooping", "breathing", "headache", "New weakness"):
        expect(asked.get_by_role("heading", level=1)).to_contain_text(question)
        page.keyboard.press("n")
    expect(asked.get_by_role("heading", level=1)).to_contain_text("about to faint")
    page.keyboard.press("y")

    now = page.get_by_role("region", name="What to do now")
    expect(now).to_contain_text("Lay them flat and raise their legs.")
    expect(now).to_contain_text("An adult who fainted")
    expect(now.get_by_role("list", name="Timing").get_by_role("listitem")).to_have_count(8)
    expect(page.get_by_text("Note what you observed")).to_be_visible()
    expect(waits(page)).to_contain_text("Offline.")

    sees_them_again(page)
    expect(waits(page)).to_have_count(0)
    session = person.treatment()["session"]
    assert session["status"] == "stopped" and session["wrong"][-1]["to"] == "fainting"
    assert any("everything turns" in record["said"] for record in session["records"].values())
    at_table.goes(f"/visits/{person.visit_id}")
    page.get_by_role("button", name="Close the record").click()
    expect(page.get_by_role("alert")).to_contain_text("Note what you observed")


@pytest.mark.long
def test_what_was_opened_by_mistake_closes_by_one_key_and_a_last_no_opens_nothing(at_table):
    person = at_table.takes_in("Mistaken")
    page = person.lies_down()
    page.keyboard.press("w")
    asked = page.get_by_role("alertdialog", name="Something is wrong")
    expect(asked).to_be_visible()
    page.keyboard.press("Escape")
    expect(asked).to_have_count(0)
    expect(page.get_by_test_id("stop")).to_have_text("GB21")

    page.keyboard.press("4")  # something else in between: the same key again at once would be held back
    expect(page.get_by_test_id("felt").get_by_label("soreness 4")).to_be_visible()
    page.get_by_role("button", name="Something is wrong").click()
    expect(asked).to_contain_text("Do they answer")
    page.keyboard.press("y")
    found = page.get_by_role("alertdialog", name="Outcome")
    for answered in range(2, 12):  # no to every one of them
        expect(asked.get_by_role("list", name="Timing").get_by_role("listitem")).to_have_count(answered + 2)
        page.keyboard.press("n")
    expect(found).to_contain_text("None of these")
    for key in ("n", "y", "m"):  # one more No, as fast as the others
        page.keyboard.press(key)
    expect(page.get_by_role("alertdialog")).to_have_count(1)
    at_table.pictures("treat-what-was-found")
    page.keyboard.press("Space")
    expect(found).to_have_count(0)
    answers = [step["answer"] for step in person.treatment()["session"]["wrong"]]
    assert answers[:3] == ["begun", "closed", "begun"] and answers.count("no") == 10
