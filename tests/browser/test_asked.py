"""What troubles them, as two minutes of talk: painted on the figure, asked in full, episodes as they are told."""

import re

import pytest
from playwright.sync_api import expect

KNEE = (0.56, 0.67)  # shares of the picture at which a knee of the whole figure is


@pytest.mark.long
def test_a_complaint_is_painted_asked_and_told(at_work):
    page = at_work.page
    person = at_work.takes_in("Painted")
    at_work.goes(f"/people/{person.id}/complaints")
    page.get_by_role("button", name="Show on the figure").click()
    page.get_by_test_id("paint").locator("canvas").wait_for()
    expect(page.get_by_test_id("paint")).to_have_attribute("data-still", "true")
    at_work.settles()
    box = page.get_by_test_id("paint").bounding_box()
    at = [box["x"] + box["width"] * KNEE[0], box["y"] + box["height"] * KNEE[1]]
    page.mouse.move(*at)
    page.mouse.down()
    page.mouse.move(at[0] + 2, at[1] + 6, steps=3)
    page.mouse.up()
    expect(page.get_by_role("status").filter(has_text="left")).to_contain_text("knee")
    page.get_by_label("What they say").fill("stairs down")
    hit = page.get_by_role("button", name=re.compile("^Knee pain"))
    expect(hit).to_contain_text("points at the knee")
    hit.click()

    form = page.get_by_role("form", name="Knee pain")
    expect(form.get_by_role("radio", name="left")).to_be_checked()
    form.get_by_role("combobox", name="Activity affected").fill("stairs down")
    page.keyboard.press("Enter")
    form.get_by_text("sharp", exact=True).click()
    form.get_by_text("in episodes", exact=True).click()
    form.get_by_role("button", name="Add complaint").click()
    card = page.get_by_role("region", name="Knee pain", exact=True)
    expect(card).to_contain_text("Shown on the figure: knee")
    expect(card).to_contain_text("sharp · in episodes")

    # Many at once, as they are told; looked at before they are kept.
    card.get_by_role("button", name="Episodes").click()
    card.get_by_label("Episodes, in their own words").fill("three last week, the worst on Thursday, 8 of 10")
    card.get_by_role("button", name="Read").click()
    expect(card.get_by_text("or about then")).to_have_count(2)
    card.get_by_role("button", name="Save these 3").click()
    expect(card.get_by_role("listitem").filter(has_text="8 of 10")).to_have_count(1)

    # The next time only what changed needs a word.
    card.get_by_role("button", name="Ask again").click()
    again = page.get_by_role("form", name="Ask again: Knee pain")
    again.get_by_label("What eases it").fill("warmth")
    again.get_by_role("button", name="Save answers").click()
    expect(card).to_contain_text("Changed eases: not specified → warmth")


@pytest.mark.long
def test_an_emergency_in_everyday_words_is_asked_about_before_any_complaint(at_work):
    page = at_work.page
    person = at_work.takes_in("Heard")
    at_work.goes(f"/people/{person.id}/complaints")
    said = page.get_by_label("What they say")
    said.fill("leg is swolen after a flight")
    first = page.get_by_role("group", name="Ask first")
    expect(first).to_contain_text("A hot, swollen, painful calf?")
    page.keyboard.press("Enter")  # takes no complaint while the question is open
    expect(page.get_by_role("button", name=re.compile("^Calf cramps"))).to_have_count(0)
    at_work.pictures("complaints-ask-first")
    first.get_by_role("button", name=re.compile("^No: A hot")).click()
    expect(first).to_have_count(0)
    expect(page.get_by_role("button", name=re.compile("^Calf cramps"))).to_be_visible()
    said.fill("and a crushing pain in the chest")
    first.get_by_role("button", name=re.compile("^Yes: Chest pain")).click()
    expect(page.get_by_role("list", name="Limits").or_(page.get_by_role("alert")).first).to_be_visible()
    known = at_work.asks(f"/api/people/{person.id}")
    assert known["verdict"]["decision"] == "emergency"
    at_work.goes(f"/people/{person.id}/story")
    added = page.get_by_role("listitem").filter(has_text="individual answers added")
    expect(added).to_contain_text("no session")


@pytest.mark.long
def test_a_complaint_that_waits_for_an_answer_says_which_and_takes_no_for_one(at_work):
    person = at_work.takes_in("Waits")
    complaint = at_work.does("POST", f"/people/{person.id}/complaints", {"kind": "menstrual_cramps", "side": "both"})
    visit = at_work.does("GET", f"/people/{person.id}/today")["visit_id"]
    version = at_work.does("GET", f"/visits/{visit}")["version"]
    wish = {"complaint_ids": [complaint["id"]], "minutes": 20, "version": version}
    assert at_work.does("POST", f"/visits/{visit}/compose", wish)["score"]["decision"] == "ask"
    page = at_work.page
    at_work.goes(f"/people/{person.id}/story")
    might = page.get_by_role("radiogroup", name="Might be pregnant")
    expect(might.get_by_role("radio", name="not asked")).to_be_checked()
    might.get_by_text("no", exact=True).click()
    at_work.pictures("story-explicit")
    page.get_by_role("button", name="Save answers").click()
    expect(page).to_have_url(re.compile("/complaints$"))
    version = at_work.does("GET", f"/visits/{visit}")["version"]
    composed = at_work.does("POST", f"/visits/{visit}/compose", {**wish, "version": version})
    assert composed["score"]["decision"] == "ok"
