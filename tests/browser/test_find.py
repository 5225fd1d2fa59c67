"""Find as a practitioner uses it: walk a channel, follow the way, ask what is here, record, make own points."""

import json
import re

import pytest
from playwright.sync_api import expect


def find(at_work, whose, query):
    at_work.goes(f"/people/{at_work.visits()[whose]['person_id']}/find?{query}")
    at_work.sees_the_body()
    return at_work.page


def test_a_point_is_found_step_by_step_and_what_was_felt_is_remembered(at_work):
    page = find(at_work, "Bram", "id=SP6")
    sheet = page.get_by_role("complementary")
    # The way, one step at a time: the first turns the body to the landmark and names it there.
    expect(sheet.get_by_text("cm along the skin")).to_be_visible()
    page.keyboard.press("n")
    way = sheet.get_by_role("list", name="How to find it")
    expect(way.locator("[aria-current=step]")).to_contain_text("Find the bump of the inner ankle bone")
    way.get_by_role("button").first.hover()
    picture = page.get_by_role("img", name="bump of the inner ankle bone")
    expect(picture).to_be_visible()
    assert picture.evaluate("image => image.decode().then(() => image.naturalWidth)") > 0
    page.mouse.move(700, 20)
    expect(page.get_by_test_id("body").get_by_text("bump of the inner ankle bone")).to_be_visible()
    page.keyboard.press("n")
    expect(way.locator("[aria-current=step]")).to_contain_text("The inner lower leg is 13 cun")
    # Which way to trust, and how exact it is.
    expect(sheet.get_by_text("drawn here")).to_be_visible()
    expect(sheet.get_by_text(re.compile(r"^±\d\.\d cm$")).first).to_be_visible()
    # Bones fade in and are named under the pointer.
    page.keyboard.press("g")
    box = page.get_by_test_id("body").bounding_box()
    named = page.get_by_test_id("body").get_by_role("status")
    expect(named).to_be_visible()
    expect(named).to_have_text("Point to a bone to see its name")
    at_work.sees_the_body()  # the bones are loaded with it
    for share in (0.46, 0.49, 0.52, 0.55, 0.58, 0.61):
        page.mouse.move(box["x"] + box["width"] * share, box["y"] + box["height"] * 0.55)
        at_work.settles()
        if "bone, left" in named.text_content():
            break
    assert "bone, left" in named.text_content()
    at_work.pictures("find-bones")
    page.keyboard.press("g")
    # The hand finds it a little beside the rule's place: kept, said in words, and there again after a reload.
    page.keyboard.press("v")
    page.keyboard.press("n")
    page.keyboard.press("Escape")
    sheet.get_by_role("button", name="Mark a different spot").click()
    dot = page.get_by_role("list", name="Points on the body").get_by_role("button", name="SP6", exact=False)
    expect(dot.first).to_be_attached()
    at = page.evaluate(
        "() => { const box = document.querySelector('[id=\"target-SP6-left\"]').getBoundingClientRect();"
        " return [box.x, box.y]; }"
    )
    page.mouse.click(at[0] + 26, at[1] + 4)
    expect(sheet.get_by_text("mm from the calculated spot")).to_be_visible()
    sheet.get_by_role("radiogroup", name="Soreness, 0 to 10").get_by_role("radio", name="5", exact=True).click()
    sheet.get_by_label("How it feels").select_option("knot")
    sheet.get_by_role("button", name="Save finding").click()
    expect(sheet.get_by_text("Last time")).to_be_visible()
    page.reload()
    expect(sheet.get_by_text("Last time")).to_be_visible()
    expect(sheet.locator("p", has_text="Last time")).to_contain_text("soreness 5, a knot")


def test_where_teachings_differ_both_places_are_shown_and_one_is_preferred(at_work):
    page = find(at_work, "Bram", "id=GB39")
    sheet = page.get_by_role("complementary")
    expect(sheet.get_by_role("img", name=re.compile("^From the skin inwards: skin;.*fibularis"))).to_be_visible()
    expect(sheet.get_by_text("behind the fibula, 3 cun above")).to_be_visible()
    sheet.get_by_role("button", name="Show both on the body").click()
    at_work.sees_the_body()
    at_work.pictures("find-elsewhere")
    sheet.get_by_role("button", name="Use this location in this practice").click()
    expect(sheet.get_by_text("the international standard")).to_be_visible()
    expect(sheet.get_by_text("behind the fibula, 3 cun above")).to_have_count(0)
    sheet.get_by_role("button", name="Use this location in this practice").click()
    expect(sheet.get_by_text("behind the fibula, 3 cun above")).to_be_visible()
    at_work.goes(f"/people/{at_work.visits()['Bram']['person_id']}/find?id=PC6")
    expect(sheet.get_by_text("Between two tendons: palmaris longus and flexor carpi radialis.")).to_be_visible()


@pytest.mark.long
def test_bare_skin_tells_what_is_here_and_a_channel_is_walked(at_work):
    page = find(at_work, "Bram", "group=CV")
    box = page.get_by_test_id("body").bounding_box()
    page.mouse.click(box["x"] + box["width"] * 0.45, box["y"] + box["height"] * 0.36)
    here = page.get_by_role("region", name="Nearby")
    expect(here).to_be_visible()
    expect(here.get_by_role("listitem").first).to_contain_text("cm")
    here.get_by_role("listitem").first.get_by_role("button").click()
    sheet = page.get_by_role("complementary")
    expect(sheet.get_by_role("heading", level=2)).to_be_visible()
    expect(here).to_have_count(0)
    page.get_by_label("Group").select_option("KI")
    page.keyboard.press("Escape")
    page.locator("body").click(position={"x": 820, "y": 20})
    page.keyboard.press("ArrowDown")
    expect(page).to_have_url(re.compile("id=KI1"))
    page.keyboard.press("ArrowDown")
    # The touch was on the person's right, and the walk stays there until the side is changed.
    expect(page).to_have_url(re.compile("id=KI2&side=right"))
    page.keyboard.press("ArrowRight")
    expect(page).to_have_url(re.compile("id=KI2&group=KI"))


@pytest.mark.long
def test_two_traditions_lie_side_by_side(at_work):
    page = at_work.page
    at_work.goes(f"/people/{at_work.visits()['Tamsin']['person_id']}/find?group=foot&view=sheets")
    first = page.get_by_role("figure", name="Sole, left, first map")
    second = page.get_by_role("figure", name="Sole, left, second map")
    expect(first).to_be_visible()
    expect(second).to_be_visible()
    heart = second.get_by_role("button", name="Heart (foot, second map)")
    heart.click()
    expect(second.get_by_role("status")).to_contain_text("on the other map")
    expect(page.get_by_role("complementary").get_by_role("heading", level=2)).to_have_text("heart")
    expect(second.get_by_role("button", name="Heart (foot, second map)")).to_have_attribute("aria-pressed", "true")
    at_work.pictures("find-sheets")
    page.get_by_label("Group").select_option("ear")
    expect(page.get_by_role("figure", name="Ear, left, first map")).to_be_visible()


@pytest.mark.long
def test_a_point_of_ones_own_is_seen_before_it_is_kept(at_work, tmp_path):
    page = find(at_work, "Bram", "group=own")
    page.get_by_role("button", name="Add your own point").click()
    sheet = page.get_by_role("complementary")
    sheet.get_by_label("Name").fill("Shin hollow")
    expect(sheet.get_by_text(re.compile("(4 cun)"))).to_be_visible()
    parts = sheet.get_by_label("Cun (of 16)")
    parts.fill("30")
    expect(sheet.get_by_role("alert")).to_contain_text("level 30 is not on the outer lower leg, which is 16 cun long")
    expect(sheet.get_by_role("button", name="Save point")).to_be_disabled()
    parts.fill("6")
    expect(sheet.get_by_text(re.compile("(6 cun)"))).to_be_visible()
    at_work.pictures("find-own")
    sheet.get_by_role("button", name="Save point").click()
    expect(sheet.get_by_role("heading", name="shin hollow")).to_be_visible()
    sheet.get_by_role("button", name="What is near").click()
    expect(page.get_by_role("region", name="Nearby")).to_contain_text("shin hollow")
    # Out as a file, and in again; a broken one is refused with its place.
    page.get_by_label("Group").select_option("own")
    with page.expect_download() as saved:
        page.get_by_role("link", name="Export to a file").click()
    pack = json.loads(saved.value.path().read_text())
    assert [row["id"] for row in pack["entries"]] == ["own_shin_hollow"]
    first = json.loads(json.dumps(pack["entries"][0]["methods"][0]))
    assert first["place"]["cun"] == 6
    pack["entries"][0]["methods"][0]["place"]["cun"] = 99
    broken = tmp_path / "broken.json"
    broken.write_text(json.dumps(pack))
    page.locator("input[type=file]").set_input_files(broken)
    expect(page.get_by_role("alert")).to_contain_text("level 99 is not on the outer lower leg")
    # What a file says and the fields do not show stays, whatever is changed in them.
    pack["entries"][0]["methods"] = [
        {"name": "a span of fingers", "place": {**first["place"], "cun": None, "span": ["four_fingers"]}},
        first,
    ]
    pack["entries"][0]["traditional"] = ["tired legs"]
    richer = tmp_path / "richer.json"
    richer.write_text(json.dumps(pack))
    page.locator("input[type=file]").set_input_files(richer)
    expect(page.get_by_text("0 added, 1 changed.")).to_be_visible()
    page.get_by_role("button", name="shin hollow").first.click()
    sheet.get_by_role("button", name="Edit its rule").click()
    expect(sheet.get_by_label("Rule")).to_have_value("as it is")
    sheet.get_by_label("What you feel there").fill("A dip.")
    sheet.get_by_role("button", name="Save point").click()
    expect(sheet.get_by_role("button", name="Edit its rule")).to_be_visible()
    kept = at_work.asks("/api/atlas/own")[0]["row"]
    assert kept == {**pack["entries"][0], "feel": "A dip."}
    sheet.get_by_role("button", name="Edit its rule").click()
    sheet.get_by_role("button", name="Remove").click()
    expect(page.get_by_role("button", name="shin hollow")).to_have_count(0)


@pytest.mark.long
def test_a_measure_makes_the_place_surer_at_once(at_work):
    page = find(at_work, "Priya", "id=ST37")
    sheet = page.get_by_role("complementary")
    ring = sheet.get_by_text(re.compile("^±")).first.text_content()
    field = sheet.get_by_label("Measure: lower leg, outside")
    field.fill("39")
    sheet.get_by_role("button", name="Save measurement").click()
    expect(field).to_have_count(0)
    expect(sheet.get_by_text("1 cun, measured")).to_be_visible()
    assert float(sheet.get_by_text(re.compile("^±")).first.text_content()[1:4]) <= float(ring[1:4])
