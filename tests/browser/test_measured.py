"""A doctor's word, a measured threshold, a hand on the scale, a complaint of one's own: entered, and they decide."""

import re

import pytest
from playwright.sync_api import expect


@pytest.fixture
def person(at_work):
    """A person for this test alone, with heavy legs and a numbness that nobody has looked at."""
    page = at_work.page
    at_work.goes("/")
    page.get_by_role("button", name="New person").click()
    page.get_by_label("First name").fill("Linden")
    page.get_by_label("Date of birth").fill("1979-05-02")
    page.get_by_role("button", name="Add person").click()
    page.get_by_role("checkbox", name="New numbness or weakness").check()
    page.get_by_role("button", name="Save answers").click()
    expect(page.get_by_role("alert")).to_contain_text("New numbness")
    return page.url.split("/")[-2]


@pytest.mark.long
def test_a_doctors_word_is_recorded_lifts_and_is_taken_back(at_work, person):
    page = at_work.page
    cleared = page.get_by_role("region", name="Cleared by a doctor")
    cleared.get_by_role("button", name="Record medical clearance").click()
    cleared.get_by_label("Doctor or clinic").fill("The clinic at the harbour")
    cleared.get_by_label("Cleared for").fill("A pinched nerve, harmless")
    cleared.get_by_label("Given on").fill("2199-01-01")
    cleared.get_by_role("button", name="Record it").click()
    expect(cleared.get_by_role("alert")).to_contain_text("it cannot have been cleared yet")
    expect(cleared.get_by_label("Cleared for")).to_have_value("A pinched nerve, harmless")
    cleared.get_by_label("Given on").fill("2026-01-05")
    cleared.get_by_role("button", name="Record it").click()
    expect(cleared).to_contain_text("The clinic at the harbour, 5 Jan 2026, until")
    expect(page.get_by_role("alert")).to_have_count(0)
    page.get_by_role("link", name="Complaints").click()
    page.get_by_label("What they say").fill("heavy legs by evening")
    page.get_by_role("button", name=re.compile("^Tired legs")).click()
    page.get_by_role("button", name="Add complaint").click()
    expect(page.get_by_role("radiogroup", name="Tired legs, 0 to 10")).to_be_visible()
    page.get_by_role("link", name="Compose").click()
    expect(page.get_by_role("toolbar")).to_be_visible()

    page.get_by_role("link", name="History").click()
    cleared.get_by_role("button", name="Withdraw clearance").click()
    expect(page.get_by_role("alert")).to_contain_text("New numbness")
    expect(cleared).to_contain_text("Withdrawn: A pinched nerve, harmless")
    page.get_by_role("link", name="Compose").click()
    page.get_by_role("button", name=re.compile("^Compose")).click()
    expect(page.get_by_text("New numbness").first).to_be_visible()
    assert at_work.asks(f"/api/people/{person}/clearances")[0]["granted"] is False


@pytest.mark.long
def test_thresholds_breaths_and_the_scale_decide_what_is_pressed(at_work):
    page = at_work.page
    callum = at_work.visits()["Callum"]["person_id"]
    at_work.goes(f"/people/{callum}/measures")
    page.get_by_label("Breaths per minute").fill("9")
    page.get_by_role("button", name="Save measurements").click()
    expect(page.get_by_text("Measurements saved")).to_be_visible()
    page.get_by_label("Part of the body").select_option("foot")
    page.get_by_label("Pressure", exact=True).fill("90")
    page.get_by_role("button", name="Save threshold").click()
    expect(page.get_by_text("foot: 90 N/cm² is not between")).to_be_visible()
    page.get_by_label("Pressure", exact=True).fill("1.6")
    page.get_by_role("button", name="Save threshold").click()
    expect(page.get_by_text("1.6 N/cm²")).to_be_visible()
    kept = at_work.asks(f"/api/people/{callum}")
    assert (kept["breaths_per_minute"], kept["thresholds"]["foot"]["n_per_cm2"]) == (9, 1.6)
    at_work.goes(f"/people/{callum}/find?id=KI1")
    expect(page.get_by_role("complementary")).to_contain_text("At most level 2")
    at_work.goes(f"/people/{callum}/measures")
    page.get_by_label("2, settle").fill("900")
    page.get_by_role("button", name="Save levels").click()
    expect(page.get_by_text("Levels saved")).to_be_visible()
    at_work.goes(f"/people/{callum}/find?id=KI1")
    expect(page.get_by_role("complementary")).to_contain_text("At most level 1")
    at_work.goes("/safety")
    expect(page.get_by_text("Your own levels, as measured with a kitchen scale")).to_be_visible()
    at_work.goes(f"/people/{callum}/measures")
    page.get_by_role("button", name="Withdraw: foot").click()
    expect(page.get_by_role("button", name="Withdraw: foot")).to_have_count(0)
    page.get_by_label("2, settle").fill("")
    page.get_by_role("button", name="Save levels").click()
    expect(page.get_by_label("2, settle")).to_have_value("")
    at_work.goes("/safety")
    expect(page.get_by_text("Training defaults.")).to_be_visible()


@pytest.mark.long
def test_a_complaint_of_ones_own_is_made_filled_and_removed(at_work):
    page = at_work.page
    at_work.goes("/catalogue")
    page.get_by_role("button", name="New complaint").click()
    form = page.get_by_role("form", name="New practice complaint")
    form.get_by_label("Name").fill("Grip after carving")
    form.get_by_label("Activities affected, one per line").fill("holding the gouge\nopening jars")
    form.get_by_role("button", name="Save complaint").click()
    sheet = page.get_by_role("article").filter(has_text="Grip after carving")
    expect(sheet).to_contain_text("holding the gouge, opening jars")
    for id, role in (("LI10", "main"), ("LI4", "far"), ("HT7", "calm")):
        sheet.get_by_label("Role").select_option(role)
        sheet.get_by_label("Add a point or area").fill(id)
        sheet.get_by_label("Add a point or area").press("Enter")
        expect(sheet.get_by_role("row", name=re.compile(f"^{id}"))).to_be_visible()
    kinds = {kind["id"]: kind for kind in at_work.asks("/api/complaint-kinds")}
    assert [(use["id"], use["role"]) for use in kinds["own_grip_after_carving"]["uses"]] == [
        ("LI10", "main"),
        ("LI4", "far"),
        ("HT7", "calm"),
    ]
    sheet.get_by_role("row", name=re.compile("^LI4")).get_by_role("button", name="Remove here").click()
    expect(sheet.get_by_role("row", name=re.compile("^LI4"))).to_have_count(0)
    at_work.goes(f"/people/{at_work.visits()['Fenn']['person_id']}/complaints")
    page.get_by_label("What they say").fill("grip after carving")
    expect(page.get_by_role("button", name=re.compile("^Grip after carving"))).to_be_visible()
    at_work.goes("/catalogue")
    page.get_by_role("button", name="Grip after carving").click()
    page.get_by_role("button", name="Remove this complaint").click()
    expect(page.get_by_role("button", name="Grip after carving")).to_have_count(0)
    assert "own_grip_after_carving" not in {kind["id"] for kind in at_work.asks("/api/complaint-kinds")}
