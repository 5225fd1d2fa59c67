"""Each main view: axe finds nothing serious, nothing runs over, and a picture is taken."""

import re

import pytest
from playwright.sync_api import expect

from acuthesis.settings import ROOT
from tests.tiers import LONG

AXE = ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js"

# View → (whose, address, what tells that it is there, whether the body is drawn in it).
VIEWS = {
    "day": (None, "/", "The prop van", False),
    "people": (None, "/people", "Import a record", False),
    "week": (None, "/week", "Week of", False),
    "practice": (None, "/practice", "Responsible for", False),
    "account": (None, "/account", "Signed-in devices", False),
    "hands-free": (None, "/hands-free", "Learn a pedal", False),
    "person": ("Callum", "", "Book a visit", False),
    "file": ("Soren", "/file", "Record consent", False),
    "audit": (None, "/audit", "Verify entries", False),
    "safety": (None, "/safety", "Pressure levels", False),
    "catalogue": (None, "/catalogue", "Stop and refer", False),
    "story": ("Wren", "/story", "Right now", False),
    "complaints": ("Wren", "/complaints", "How strong is it now?", False),
    "measures": ("Tamsin", "/measures", "Measure next", True),
    "find": ("Tamsin", "/find?id=SP6", "Locating methods", True),
    "compose": ("Bram", "/compose", "Left out", True),
    "follow": ("Noor", "/follow", "Sore places", False),
    "follow-up": (None, "/follow-up", "Outcomes by complaint", False),
    "at-home": ("Noor", "/at-home", "Save home plan", False),
    "letter-words": (None, "/catalogue?shelf=letters", "Letter to a midwife", False),
    "take-away": ("Tamsin", "/take-away", "The record", False),
}


def opens(at_work, view):
    whose, address, sign, body = VIEWS[view]
    person = f"/people/{at_work.visits()[whose]['person_id']}" if whose else ""
    if view == "day":
        at_work.does("POST", "/me/notices/dismiss")  # the tests sign in on many devices
    at_work.goes(f"{person}{address}")
    expect(at_work.page.get_by_text(sign).first).to_be_visible()
    if body:
        at_work.sees_the_body()


def serious(page, rules=None):
    """What axe finds by all its rules, or by these."""
    page.add_script_tag(path=AXE)
    how = {"resultTypes": ["violations"]} | ({"runOnly": rules} if rules else {})
    found = page.evaluate("how => axe.run(document, how).then(result => result.violations)", how)
    return [
        f"{one['id']}: {node['html'][:140]} {node.get('failureSummary', '')[:200]}"
        for one in found
        if one["impact"] in ("serious", "critical")
        for node in one["nodes"]
    ]


def assert_nothing_serious(page, rules=None):
    found = serious(page, rules)
    assert not found, "\n".join(found)


# Of the views those that an hour at the table passes through; in a long run every one.
ON_THE_WAY = ("day", "person", "story", "complaints", "find", "compose", "follow", "practice")
EACH_VIEW = [pytest.param(view, marks=() if view in ON_THE_WAY else pytest.mark.long) for view in VIEWS]


@pytest.mark.parametrize("view", EACH_VIEW)
def test_view_is_accessible_and_fits(at_work, view):
    """Nothing serious, in the second theme by contrast; no scrolling at the desk; upright nothing runs over."""
    page = at_work.page
    opens(at_work, view)
    at_work.pictures(view)
    assert_nothing_serious(page)
    if view in ("find", "compose"):
        over = page.evaluate(
            "() => Math.max(...[document.documentElement, document.querySelector('main')]"
            ".map(e => e.scrollHeight - e.clientHeight))"
        )
        assert over <= 1, f"{view} has to be scrolled at the desk"
    page.get_by_role("button", name="Dim room").click()
    expect(page.locator("html")).to_have_attribute("data-mantine-color-scheme", "dark")
    at_work.settles()
    assert_nothing_serious(page, None if LONG else ["color-contrast"])  # the rest is the same page
    page.set_viewport_size({"width": 820, "height": 1180})
    at_work.settles()
    over = page.evaluate("() => document.documentElement.scrollWidth - document.documentElement.clientWidth")
    assert over <= 0, f"{view} runs {over} px over the side"


@pytest.mark.long
def test_dim_comes_by_itself_for_who_cannot_bear_light(at_work):
    page = at_work.page
    idris = at_work.visits()["Idris"]["person_id"]
    at_work.goes(f"/people/{idris}/find?id=ear_TF4")
    expect(page.locator("html")).to_have_attribute("data-mantine-color-scheme", "dark")
    at_work.sees_the_body()
    at_work.pictures("find-dim")
    page.keyboard.press("d")
    expect(page.locator("html")).to_have_attribute("data-mantine-color-scheme", "light")
    at_work.goes("/")
    expect(page.locator("html")).to_have_attribute("data-mantine-color-scheme", "light")


@pytest.mark.long
@pytest.mark.parametrize(
    ("picture", "place"), [("find-ear", "ear_TF4"), ("find-sole", "foot_solar_plexus"), ("find-face", "LI20")]
)
def test_close_views_draw_the_body(at_work, picture, place):
    page = at_work.page
    at_work.goes(f"/people/{at_work.visits()['Tamsin']['person_id']}/find?id={place}")
    expect(page.get_by_role("heading", name=re.compile(place.split("_", 1)[-1].replace("_", " ")))).to_be_visible()
    at_work.sees_the_body()
    at_work.pictures(picture)
    shades = page.evaluate(
        """() => { const canvas = document.querySelector('canvas'); const copy = document.createElement('canvas');
        copy.width = copy.height = 64; const pen = copy.getContext('2d'); pen.drawImage(canvas, 0, 0, 64, 64);
        const data = pen.getImageData(0, 0, 64, 64).data; const seen = new Set();
        for (let i = 0; i < data.length; i += 4) seen.add(data[i] >> 3); return seen.size; }"""
    )
    assert shades > 6, "the canvas shows a shaded figure, not an empty ground"


def fits(panel):
    """Waits until nothing of a panel has to be scrolled to."""
    panel.page.wait_for_function("e => e.scrollHeight - e.clientHeight <= 1", arg=panel.element_handle())


@pytest.mark.long
def test_treating_fits_the_screen_with_large_targets(at_work):
    page = at_work.page
    visit = at_work.visits()["Bram"]
    at_work.goes_on_by_hand()
    at_work.goes(f"/treat/{visit['visit_id']}")
    page.get_by_role("button", name="Start session").click()
    page.get_by_role("button", name=re.compile("^Start")).click()
    expect(page.get_by_test_id("stop")).to_have_text("Talk and rate")
    panel = page.get_by_role("region", name="Stop")
    for _ in range(30):
        fits(panel)  # every stop, whatever its name
        if page.get_by_test_id("stop").text_content() == "SP10":
            break
        here = page.get_by_test_id("stop").text_content()
        at_work.moves_on()
        expect(page.get_by_test_id("stop")).not_to_have_text(here)
    page.keyboard.press("7")
    expect(page.get_by_test_id("felt").get_by_label("soreness 7")).to_be_visible()
    at_work.sees_the_body()
    at_work.pictures("treat")
    for button in panel.get_by_role("button").all():
        assert button.bounding_box()["height"] >= 56
    fits(panel)
    at_work.holds_the_clock()
    page.clock.fast_forward(40_000)  # the round at the sore spot is over, and asks
    expect(page.get_by_role("region", name="At the sore spot")).to_contain_text("how is it now?")
    fits(panel)
    assert page.get_by_test_id("left").evaluate("e => parseFloat(getComputedStyle(e).fontSize)") >= 48


@pytest.mark.long
def test_keys_are_listed_and_the_score_is_walked_by_keys(at_work):
    page = at_work.page
    at_work.goes("/")
    expect(page.get_by_text("The prop van")).to_be_visible()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("come back to this stop")
    page.keyboard.press("Escape")
    at_work.goes(f"/people/{at_work.visits()['Tamsin']['person_id']}/find?id=SP6")
    expect(page.get_by_text("Locating methods")).to_be_visible()
    expect(page.get_by_role("button", name="SP7 Leaking valley")).to_be_visible()
    page.keyboard.press("ArrowDown")
    expect(page).not_to_have_url(re.compile("id=SP6"))
    page.keyboard.press("ArrowUp")
    expect(page).to_have_url(re.compile("id=SP6"))


def test_without_webgl_the_flat_drawing_is_shown(at_work):
    page = at_work.page
    page.add_init_script(
        "const own = HTMLCanvasElement.prototype.getContext;"
        "HTMLCanvasElement.prototype.getContext = function (kind, ...rest)"
        "{ return kind.startsWith('webgl') ? null : own.call(this, kind, ...rest) };"
    )
    at_work.goes(f"/people/{at_work.visits()['Tamsin']['person_id']}/find?id=PC6")
    drawing = page.get_by_role("img", name="PC6, Inner pass, left")
    expect(drawing).to_be_visible()
    page.wait_for_function("() => document.querySelector('img[alt^=PC6]').naturalWidth > 0")


def test_the_first_screen_is_light(server):
    """Compressed script that the sign-in page asks for: under 350 kB, the body view not among it."""
    import gzip

    dist = ROOT / "web" / "dist"
    scripts = re.findall(r'(?:src|href)="(/assets/[^"]+\.js)"', (dist / "index.html").read_text())
    assert scripts
    size = sum(len(gzip.compress((dist / script.lstrip("/")).read_bytes())) for script in scripts)
    assert size < 350_000
    assert not any("BodyView" in script for script in scripts)
