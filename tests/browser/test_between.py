"""Between visits: a plan is given, a diary is opened on a phone of its own, a letter is made."""

import re
from uuid import uuid4

import pytest
from playwright.sync_api import expect

from tests.conftest import today

from .conftest import PATIENCE_MS
from .test_look import assert_nothing_serious

PHONE = {"viewport": {"width": 390, "height": 844}, "is_mobile": True, "has_touch": True, "bypass_csp": True}
THUMB = 56  # px: what a thumb hits without looking


class Phone:
    """A person's own phone, on which nobody is signed in."""

    def __init__(self, chromium, server):
        self.context = chromium.new_context(**PHONE)
        self.page, self.server = self.context.new_page(), server
        self.errors: list[str] = []
        self.page.on("pageerror", lambda error: self.errors.append(str(error)))

    def opens(self, address):
        self.page.goto(address)
        expect(self.page.get_by_text("How is it now?").first).to_be_visible()
        self.page.evaluate("() => navigator.serviceWorker.ready.then(() => true)")

    def is_sent(self):
        expect(self.page.get_by_role("button", name="Undo")).to_have_count(0)
        expect(self.page.get_by_text(re.compile("Sending|Offline"))).to_have_count(0)


@pytest.fixture
def phone(chromium, server):
    made = Phone(chromium, server)
    yield made
    assert made.errors == []
    made.context.close()


def ratings(at_work, person):
    course = at_work.asks(f"/api/people/{person.id}/course")
    return [one["value"] for one in course["complaints"][0]["ratings"]]


@pytest.mark.long
def test_a_plan_and_a_diary_go_home_and_come_back(at_work, phone):
    page, person = at_work.page, at_work.takes_in("Juniper")
    at_work.goes(f"/people/{person.id}/at-home")
    plan = page.get_by_role("region", name="Home plan")
    places = plan.get_by_role("listitem")
    expect(places).to_have_count(5)
    plan.get_by_label("Position when Juniper presses").select_option("Lying face up")
    for name in ("GB20", "LI4"):
        expect(plan.get_by_text(name).first).to_be_visible()
    # A place that takes seconds, and nothing else.
    while places.count() > 1:
        count = places.count()
        places.last.get_by_role("button", name=re.compile("^Leave")).click()
        expect(places).to_have_count(count - 1)
    plan.get_by_label("Add a point").fill("yintang")
    plan.get_by_role("button", name=re.compile("yintang")).first.click()
    expect(places).to_have_count(2)
    places.first.get_by_role("button", name=re.compile("^Leave")).click()
    expect(places).to_have_count(1)
    plan.get_by_role("button", name="Save home plan").click()
    expect(plan.get_by_text(re.compile("Given .* by Ode Marrable"))).to_be_visible()
    sheet = plan.get_by_role("link", name="Large print").get_attribute("href")
    assert page.request.get(f"{at_work.server.url}{sheet}", timeout=PATIENCE_MS).body().startswith(b"%PDF")

    page.get_by_role("button", name="Open a diary").click()
    address = page.locator("code").inner_text()
    expect(page.get_by_role("img", name="QR code of the link")).to_be_visible()
    page.get_by_role("button", name="Done").click()
    phone.opens(address)
    hers = phone.page
    assert "#" not in hers.url, "the code does not stay in the address"
    for number in hers.get_by_role("group").get_by_role("button").all():
        assert min(number.bounding_box()["width"], number.bounding_box()["height"]) >= THUMB
    assert_nothing_serious(hers)
    hers.emulate_media(color_scheme="dark")
    expect(hers.locator("html")).to_have_attribute("data-mantine-color-scheme", "dark")
    assert_nothing_serious(hers)
    assert hers.evaluate("() => document.documentElement.scrollWidth") <= 390
    hers.emulate_media(color_scheme="light")
    at_work.pictures("diary", hers)

    hers.get_by_role("button", name="9", exact=True).click()
    hers.get_by_role("button", name="Undo").click()
    hers.get_by_role("button", name="6", exact=True).click()
    phone.is_sent()
    assert ratings(at_work, person) == [6], "what was undone was never sent"

    # Without a network it opens, keeps, and sends when there is one again.
    phone.context.set_offline(True)
    hers.reload()
    hers.get_by_role("button", name="4", exact=True).click()
    expect(hers.get_by_text("Offline: 1 saved on this phone.")).to_be_visible()
    hers.get_by_role("button", name="Press now").click()
    hers.get_by_role("button", name="Start pressing").click()
    expect(hers.get_by_role("heading", name="Hall of the seal")).to_be_visible()
    expect(hers.locator("img")).to_be_visible()
    hers.get_by_role("button", name="Start").click()
    hers.get_by_role("button", name="Next").click()
    hers.get_by_role("button", name="Save").click()
    assert ratings(at_work, person) == [6]
    phone.context.set_offline(False)
    phone.is_sent()
    assert ratings(at_work, person) == [6, 4]
    course = at_work.asks(f"/api/people/{person.id}/course")
    assert [one["pressed"] for one in course["log"]] == [["yintang"]]

    at_work.goes(f"/people/{person.id}/at-home")
    page.get_by_role("button", name="End now").click()
    expect(page.get_by_text(re.compile("^ended, created"))).to_be_visible()
    hers.reload()
    expect(hers.get_by_role("alert")).to_contain_text("has ended")
    hers.reload()
    expect(hers.get_by_role("alert")).to_contain_text("no diary on this device"), "nothing is left of it"


@pytest.mark.long
def test_a_red_flag_is_answered_at_once_and_marks_the_day(at_work, phone):
    page, person = at_work.page, at_work.takes_in("Sorrel")
    complaint = at_work.asks(f"/api/people/{person.id}/complaints")[0]["id"]
    asks = {"complaints": [complaint]}
    body = {"id": str(uuid4()), "until": str(today()), "asks": asks}
    address = at_work.does("POST", f"/people/{person.id}/diaries", body)["address"]
    phone.opens(address)
    hers = phone.page
    phone.context.set_offline(True)
    hers.get_by_role("button", name="Something is wrong").click()
    assert_nothing_serious(hers)
    hers.get_by_role("button", name="A sudden headache, the worst ever").click()
    told = hers.get_by_role("alert")
    expect(told).to_contain_text("This needs an ambulance now.")
    expect(told.get_by_role("link", name="Call 999")).to_have_attribute("href", "tel:999")
    expect(told).to_contain_text("This diary is not monitored")
    assert_nothing_serious(hers)
    phone.context.set_offline(False)
    phone.is_sent()

    at_work.goes("/")
    flag = page.get_by_label("Reported from home").get_by_role("listitem").filter(has_text="Sorrel")
    expect(flag).to_contain_text("A sudden headache, the worst ever")
    assert_nothing_serious(page)
    at_work.goes(f"/people/{person.id}/at-home")
    expect(page.get_by_role("alert").filter(has_text="No home pressing for now.")).to_be_visible()
    at_work.goes("/")
    flag.get_by_label("What came of it").fill("Called her; an ambulance is there.")
    flag.get_by_role("button", name="Mark as dealt with").click()
    expect(flag).to_have_count(0)


@pytest.mark.long
def test_a_letter_is_made_read_and_edited(at_work):
    page = at_work.page
    soren = at_work.visits()["Soren"]["person_id"]
    at_work.goes(f"/people/{soren}/take-away")
    letters = page.get_by_role("region", name="Letters and summaries")
    read = letters.get_by_role("button", name="Read")
    letters.get_by_label("To", exact=True).fill("Dr. Lamplight")
    at_work.settles()
    before = read.count()
    letters.get_by_label("Your request to the reader").fill("Would you look at the heel?")
    letters.get_by_role("button", name="Create letter", exact=True).click()
    expect(read).to_have_count(before + 1)
    read.first.click()
    text = letters.get_by_label("Letter text")
    expect(text).to_have_value(re.compile("Would you look at the heel"))
    text.fill(text.input_value().replace("With kind regards", "Yours sincerely"))
    letters.get_by_role("button", name="Create from edited text").click()
    expect(read).to_have_count(before + 2)
    pdf = letters.get_by_role("link", name="PDF").first.get_attribute("href")
    assert page.request.get(f"{at_work.server.url}{pdf}", timeout=PATIENCE_MS).body().startswith(b"%PDF")
    read.first.click()
    expect(letters.get_by_label("Letter text")).to_have_value(re.compile("Yours sincerely"))
    letters.get_by_role("button", name="Mark as sent today").click()
    at_work.goes(f"/people/{soren}/file")
    expect(page.get_by_text("To Dr. Lamplight")).to_be_visible()
    # Without consent none is made, and the way to it is shown.
    tamsin = at_work.visits()["Tamsin"]["person_id"]
    at_work.goes(f"/people/{tamsin}/take-away")
    expect(letters.get_by_text("has not agreed to letters")).to_be_visible()
    letters.get_by_label("To", exact=True).fill("Dr. Lamplight")
    expect(letters.get_by_role("button", name="Create letter", exact=True)).to_be_disabled()


@pytest.mark.long
def test_words_of_letters_are_tried_before_they_are_kept(at_work):
    page = at_work.page
    at_work.goes("/catalogue?shelf=letters")
    summary = page.get_by_role("region", name="Summary for the person")
    words = summary.get_by_label("Text: Summary for the person")
    whole = words.input_value()
    words.fill("# For {{ given_nam }}")
    summary.get_by_role("button", name="Preview").click()
    expect(summary.get_by_role("alert")).to_contain_text("There is no field “given_nam”.")
    words.fill(f"{whole}\nUntil soon.")
    summary.get_by_role("button", name="Preview").click()
    expect(summary.locator("pre")).to_contain_text("Until soon.")
    assert_nothing_serious(page)
    summary.get_by_role("button", name="Save").click()
    expect(summary.get_by_text("ours", exact=True)).to_be_visible()
    summary.get_by_role("button", name="Restore default").click()
    expect(words).to_have_value(whole)
