"""Composing for two complaints, changing it by keys and by hand, and handing it on to somebody who is pregnant."""

import re

import pytest
from playwright.sync_api import expect

from .conftest import PATIENCE_MS, Practitioner


class Score:
    """The score on the screen, as somebody reads and edits it."""

    def __init__(self, at_work: Practitioner):
        self.practitioner, self.page = at_work, at_work.page

    def blocks(self):
        return [
            block.get_attribute("data-key") for block in self.page.get_by_role("toolbar").locator("[data-key]").all()
        ]

    def block(self, key):
        return self.page.locator(f"[data-key='{key}']")

    def points(self):
        found = self.page.get_by_role("toolbar").locator("[data-kind='point']").all()
        return [block.get_attribute("data-key") for block in found]

    def says(self, key):
        return self.block(key).get_attribute("aria-label")

    def press(self, key, *keys):
        """Choose a block and press keys, each once the score is laid out again."""
        self.block(key).focus()
        for one in keys:
            self.page.keyboard.press(one)
            self.settles()

    def settles(self):
        self.practitioner.settles()

    def drag(self, key, *, by=(0, 0), grip="body"):
        """Drag a block from its middle, its right edge or its top."""
        shapes = {"body": "rect >> nth=0", "edge": "rect >> nth=-1", "top": "rect >> nth=1"}
        box = self.block(key).locator(shapes[grip]).bounding_box()
        x, y = box["x"] + box["width"] / 2, box["y"] + (box["height"] - 4 if grip == "body" else box["height"] / 2)
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + by[0] / 2, y + by[1] / 2, steps=3)
        self.page.mouse.move(x + by[0], y + by[1], steps=4)
        return lambda: (self.page.mouse.up(), self.settles())


@pytest.fixture
def score(at_work):
    return Score(at_work)


def opens(at_work, name):
    person = at_work.visits()[name]["person_id"]
    at_work.goes(f"/people/{person}/compose")
    return person


@pytest.mark.long
def test_compose_edit_compare_keep_and_hand_on(at_work, score):
    page = at_work.page
    opens(at_work, "Priya")
    expect(page.get_by_role("checkbox", name="Ringing in the ears (tinnitus), left")).to_be_checked()
    expect(page.get_by_role("checkbox", name="Tight jaw, left")).to_be_checked()
    expect(page.get_by_text(re.compile("[Pp]roven best|of the best"))).to_be_visible()  # composed on arrival
    for complaint, first in (("Ringing ears", "TE17"), ("Tight jaw", "ST6")):
        gets = re.compile(f"{complaint}: core points [^.]*{first}[^.]*[.] Covered: local, distal")
        expect(page.get_by_role("region", name="Left out")).to_contain_text(gets)
    expect(page.get_by_role("region", name="Left out")).to_contain_text("do not turn, stretch or stroke it")
    if page.get_by_role("button", name="Show all").count():
        page.get_by_role("button", name="Show all").click()
    composed = score.blocks()

    # By keys: order, pressure, time, side, mute, copy, take out; undo brings each back.
    key, second = score.points()[:2]
    score.press(key, "Shift+ArrowRight")
    assert score.points()[:2] == [second, key]
    score.press(key, "ArrowDown")
    assert "level 1" in score.says(key)
    score.press(key, "ArrowUp", "ArrowUp", "ArrowUp", "ArrowUp", "ArrowUp")
    assert "level 2" in score.says(key), "it stops at the ceiling"
    was = score.says(key)
    score.press(key, "+")
    assert score.says(key) != was
    score.press(key, "s")
    assert "both sides" in score.says(key)
    score.press(key, "c")
    assert len(score.blocks()) == len(composed) + 1
    score.press(key, "m")
    assert score.block(key).count() == 0
    page.get_by_role("button", name=re.compile("Unmute")).click()
    expect(score.block(key)).to_have_count(1)
    score.press(key, "Delete")
    assert score.block(key).count() == 0
    while page.get_by_role("button", name="Undo").is_enabled():
        page.keyboard.press("Control+z")
        score.settles()
    assert score.blocks() == composed
    page.get_by_role("button", name="Redo").click()
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    page.get_by_role("button", name="Undo").click()
    score.settles()

    # Kept as a draft, to compare with.
    page.get_by_role("button", name="More").click()
    page.get_by_role("menuitem", name="Drafts: save, compare").click()
    page.get_by_label("Label of the draft").fill("as it came")
    page.get_by_role("button", name="Save this score").click()
    expect(page.get_by_text("as it came")).to_be_visible()
    page.keyboard.press("Escape")

    # By hand: a ghost shows what moves; the right edge is time, the top is pressure, another lane the other side.
    points = score.points()
    let_go = score.drag(points[0], by=(260, 0))
    expect(page.locator("[class*=ghost]")).to_have_count(1)
    let_go()
    assert score.points().index(points[0]) > 0
    was = score.says(points[2])
    score.drag(points[2], by=(60, 0), grip="edge")()
    assert score.says(points[2]) != was
    let_go = score.drag(points[0], by=(0, -44), grip="top")
    expect(page.get_by_text(re.compile("^At most 2: "))).to_be_visible()
    let_go()
    lane = page.get_by_role("toolbar").bounding_box()["height"] / 4
    assert ", left," in score.says(points[0])
    score.drag(points[0], by=(0, -2.4 * lane))()
    assert ", right," in score.says(points[0])
    page.get_by_label("Add a stop").fill("KI1")
    page.get_by_label("Add a stop").press("Enter")
    expect(page.locator("[data-key^='KI1-']")).to_have_count(1)
    at_work.sees_the_body()
    canvas = page.locator("canvas").first
    size = canvas.bounding_box()
    canvas.click(position={"x": size["width"] / 2 - 8, "y": size["height"] / 2 + 28})  # beside the mark, on the sole
    here = page.get_by_role("region", name="Nearby")
    expect(here.get_by_role("listitem").first).to_contain_text(re.compile(r"cm|inside"))
    here.get_by_role("button", name="Close").click()

    page.get_by_role("button", name="More").click()
    page.get_by_role("menuitem", name="Drafts: save, compare").click()
    page.get_by_role("button", name="Compare").click()
    comparison = page.get_by_role("region", name="Comparison")
    expect(comparison.get_by_role("toolbar")).to_have_count(2)
    expect(comparison).to_contain_text("added")
    expect(comparison).to_contain_text("KI1")
    at_work.pictures("compare")
    page.keyboard.press("Escape")

    # Kept as a protocol, and applied to somebody who is pregnant.
    if page.locator("[data-key^='LI4-']").count() == 0:
        page.get_by_label("Add a stop").fill("LI4")
        page.get_by_label("Add a stop").press("Enter")
        expect(page.locator("[data-key^='LI4-']")).to_have_count(1)
    page.get_by_role("button", name="More").click()
    page.get_by_role("menuitem", name="Protocols: save, share, apply").click()
    page.get_by_label("Name of the protocol").fill("After mixing")
    page.get_by_role("button", name="Save this score").click()
    expect(page.get_by_text("After mixing")).to_be_visible()
    with page.expect_download() as shared:
        page.get_by_role("link", name="File of After mixing").click()
    assert "after-mixing" in shared.value.suggested_filename

    wren = opens(at_work, "Wren")
    page.get_by_role("button", name="More").click()
    page.get_by_role("menuitem", name="Protocols: save, share, apply").click()
    page.get_by_role("button", name="Apply After mixing here").click()
    left_out = page.get_by_role("region", name="Left out")
    expect(left_out).to_contain_text("LI4")
    expect(left_out).to_contain_text("Traditionally not pressed in pregnancy.")
    assert not [key for key in score.blocks() if key.startswith("LI4")]
    visit = at_work.asks(f"/api/people/{wren}/today")
    stops = at_work.asks(f"/api/visits/{visit['visit_id']}")["score"]["stops"]
    assert {stop["position"] for stop in stops} <= {"seated", "half_reclined", "left_side", "right_side"}


def test_what_if_is_asked_and_taken(at_work, score):
    page = at_work.page
    opens(at_work, "Idris")
    expect(page.get_by_role("toolbar")).to_be_visible()
    before = score.blocks()
    minutes = page.get_by_label("Minutes of the session")
    usual = minutes.input_value()
    minutes.fill("15")
    change = page.get_by_role("region", name="What would change")
    expect(change.get_by_text("removed")).to_be_visible()
    assert score.blocks() == before, "a change is shown before it is taken"
    change.get_by_role("button", name="Discard").click()
    expect(change).to_have_count(0)
    expect(minutes).to_have_value(usual)
    page.get_by_role("button", name="What if").click()
    page.get_by_role("button", name="10 minutes less").click()
    answer = page.get_by_role("region", name="What if")
    expect(answer).to_contain_text("stops, value")
    fewer = int(re.findall(r"\d+", answer.locator("strong").first.text_content())[0])
    assert fewer <= int(re.findall(r"\d+", usual)[0]) - 10, "the answer is as short as was asked"
    assert score.blocks() == before, "asking changes nothing"
    page.get_by_role("button", name="Foot and hand reflexes").click()
    expect(answer.get_by_text("added")).to_be_visible()
    page.get_by_role("button", name="Apply").click()
    expect(page.get_by_label("School")).to_have_value("foot_hand_reflex")
    expect(page.get_by_role("toolbar").locator("[data-kind='area']").first).to_be_visible()
    score.settles()  # what is taken is saved
    printed = f"{page.url.split('/people')[0]}/api/visits/{visit_of(at_work, 'Idris')}/score.pdf"
    sheet = page.request.get(printed, timeout=PATIENCE_MS)
    assert sheet.body().startswith(b"%PDF")
    page.get_by_role("button", name="Wishes").click()
    leaning = "seated, leaning forward on cushions"
    for position in (
        "face up",
        "half reclined",
        "face down",
        "on the left side",
        "on the right side",
        "seated",
        leaning,
    ):
        page.get_by_role("checkbox", name=position, exact=True).check()
    page.keyboard.press("Escape")
    expect(change).to_contain_text("No point can be pressed")
    expect(change).to_contain_text("Allow one more position")
    expect(change.get_by_role("button", name="Apply")).to_be_disabled()
    expect(page.get_by_role("toolbar")).to_be_visible()  # what was there before is still there


def visit_of(at_work, name):
    return at_work.visits()[name]["visit_id"]


@pytest.mark.long
def test_the_catalogue_is_read_and_changed_for_the_practice(at_work):
    page = at_work.page
    at_work.goes("/catalogue")
    page.get_by_label("Filter").fill("knee")
    page.get_by_role("button", name="Knee pain").click()
    sheet = page.get_by_role("article")
    expect(sheet).to_contain_text("the muscle above the inner knee")
    sheet.get_by_role("row", name=re.compile("^SP10")).get_by_role("button", name="Remove here").click()
    expect(sheet.get_by_text("ours", exact=True).first).to_be_visible()
    expect(sheet.get_by_role("button", name="SP10: restore")).to_be_visible()
    sheet.get_by_role("button", name="Restore default").click()
    expect(sheet.get_by_role("row", name=re.compile("^SP10"))).to_be_visible()
    page.get_by_role("link", name="Schools").click()
    page.get_by_label("Filter").fill("")
    expect(page.get_by_role("article")).to_have_count(7)
    at_work.goes("/safety")
    page.get_by_role("checkbox", name="face down").check()
    page.get_by_label("In a few words").fill("No face hole")
    page.get_by_label("Why").fill("The bench has no face hole.")
    page.get_by_role("button", name="Add the rule").click()
    expect(page.get_by_role("listitem").filter(has_text="No face hole")).to_be_visible()
    at_work.goes("/safety")
    expect(page.get_by_text("The bench has no face hole.")).to_be_visible()
    page.get_by_role("button", name="Remove").click()
    expect(page.get_by_text("No practice rules yet.")).to_be_visible()


def test_minutes_to_spare_shorten_the_visit_or_bring_in_another_school(at_work, score):
    page, visit = at_work.page, visit_of(at_work, "Idris")
    opens(at_work, "Idris")
    expect(page.get_by_role("toolbar")).to_be_visible()
    page.get_by_label("School").select_option("ear_points")
    page.get_by_role("button", name="Compose again").click()
    spare = page.get_by_role("note")
    expect(spare).to_contain_text("minutes to spare")
    booked = at_work.asks(f"/api/appointments/{visit}")["minutes"]
    page.get_by_role("button", name="Add channel acupressure").click()
    expect(page.get_by_role("button", name="Add channel acupressure")).to_have_count(0)
    score.settles()
    mixed = at_work.asks(f"/api/visits/{visit}")["score"]
    assert {stop["kind"] for stop in mixed["stops"]} >= {"area", "point"}, "points of the body beside the ear"
    opens(at_work, "Idris")
    page.get_by_label("School").select_option("ear_points")
    page.get_by_role("button", name="Compose again").click()
    page.get_by_role("button", name=re.compile("^Shorten the visit to")).click()
    expect(page.get_by_role("button", name=re.compile("^Shorten the visit to"))).to_have_count(0)
    now = at_work.asks(f"/api/appointments/{visit}")
    assert now["minutes"] < booked and now["minutes"] % 5 == 0
    at_work.does("PATCH", f"/appointments/{visit}", {"version": now["version"], "minutes": booked})
