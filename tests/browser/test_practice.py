"""A practice of one's own from the first address on: set up, a first person, a helper, a record that is closed."""

import re
import uuid
from datetime import timedelta

import pyotp
import pytest
from playwright.sync_api import expect

from acuthesis.services.request.clock import now
from acuthesis.store import links
from acuthesis.store.database import transaction
from tests.conftest import today

from .conftest import Practitioner

PASSWORD = "low-tide-lantern"


@pytest.fixture
def set_up(server):
    """The address that the launcher prints."""
    practice_id = uuid.uuid4()
    with transaction() as db:
        token, _ = links.make(db, practice_id, "set_up", now())
    return f"/set-up#{token}"


def drag(page, what, onto):
    """Drag and drop by its own events: a real pointer's can stop answering where the machine is busy."""
    carried = {"dataTransfer": page.evaluate_handle("() => new DataTransfer()")}
    box = onto.bounding_box()
    at = {**carried, "clientX": box["x"] + box["width"] / 2, "clientY": box["y"] + box["height"] / 2}
    what.dispatch_event("dragstart", carried)
    onto.dispatch_event("dragover", at)
    onto.dispatch_event("drop", at)
    what.dispatch_event("dragend", carried)


def not_today(page):
    """An hour of a day in the week that is shown which is not the practice's today: there they are still to come."""
    days = page.locator(".mantine-WeekView-weekViewDay")
    expect(days.nth(4)).to_be_visible()
    rank = (today().weekday() + 1) % days.count()
    return days.nth(rank).locator(".mantine-WeekView-weekViewDaySlot").nth(2)


@pytest.mark.long
def test_from_the_first_address_to_the_second_visit(practitioner, chromium, set_up):
    page = practitioner.page
    email = f"first-{uuid.uuid4().hex[:6]}@harbour.example"
    practitioner.goes(set_up)

    # First run: practice, person, hand (skipped), way of working. A poor password leads back to its page.
    page.get_by_label("Name of the practice").fill("Harbour room")
    page.get_by_label("Emergency contact").fill("Harbour first aid, through the gate")
    practitioner.pictures("set-up")
    page.get_by_role("button", name="Continue").click()
    page.get_by_label("Your name").fill("Marit")
    page.get_by_label("Email").fill(email)
    page.get_by_label("Password", exact=True).fill("aaaaaaaaaaaa")
    page.get_by_role("button", name="Continue").click()
    page.get_by_role("button", name="Skip for now").click()
    page.get_by_label("Usual visit length in minutes").fill("50")
    page.get_by_role("button", name="Open the practice").click()
    expect(page.get_by_text("repeats the same few characters")).to_be_visible()
    page.get_by_label("Password", exact=True).fill(PASSWORD)
    page.get_by_role("button", name="Continue").click()
    page.get_by_role("button", name="Skip for now").click()
    page.get_by_role("button", name="Open the practice").click()

    # An empty day says what to do.
    expect(page.get_by_text("No appointments today.")).to_be_visible()
    expect(page.get_by_text("Harbour room, today")).to_be_visible()

    # A first person, who will come: booked into a free gap, then moved in the week by keys.
    page.get_by_role("button", name="New person").first.click()
    page.get_by_label("First name").fill("Juna")
    page.get_by_label("Date of birth").fill("1988-03-14")
    page.get_by_role("switch", name="Here now").uncheck()
    page.get_by_role("button", name="Add person").click()
    expect(page.get_by_role("heading", name="Juna")).to_be_visible()
    page.get_by_role("button", name="Book a visit").click()
    gaps = page.get_by_role("group", name="Free times for 50 minutes").get_by_role("button")
    gaps.nth(2).click()
    page.get_by_label("Purpose").fill("first look")
    page.get_by_role("button", name="Book", exact=True).click()
    expect(page.get_by_text("to come")).to_be_visible()

    page.get_by_role("link", name="Week").click()
    page.get_by_role("button", name="Next week").wait_for()
    practitioner.settles()
    if page.locator("[data-appointment]").count() == 0:
        page.get_by_role("button", name="Next week").click()
    appointment = page.locator("[data-appointment]")
    before = appointment.inner_text()[:5]
    appointment.focus()
    with page.expect_response(re.compile("/api/appointments/")) as moved:
        page.keyboard.press("ArrowUp" if before >= "16:00" else "ArrowDown")
    assert moved.value.status == 200
    expect(appointment).not_to_contain_text(before)
    with page.expect_response(re.compile("/api/appointments/")) as dragged:
        drag(page, appointment, not_today(page))
    assert dragged.value.status == 200

    # They are here without an appointment today: treated at once, by Ctrl K from anywhere.
    page.keyboard.press("Control+k")
    page.get_by_placeholder("A person, a place, a page").fill("juna")
    page.get_by_text("Juna", exact=True).first.click()
    expect(page.get_by_role("heading", name="Juna")).to_be_visible()
    page.get_by_role("button", name="Start a visit now").click()
    expect(page.get_by_role("button", name="Next: Screen")).to_be_visible()

    # A place, and a helper who books and sees no health.
    page.get_by_role("link", name="Practice").click()
    page.get_by_label("New place").fill("Quay")
    page.get_by_role("button", name="Add place").click()
    expect(page.get_by_role("cell", name="Quay")).to_be_visible()
    page.get_by_placeholder("Name").fill("Hanne")
    page.get_by_role("form", name="Invite").get_by_label("Email").fill(f"helper-{email}")
    page.get_by_label("As", exact=True).select_option("helper")
    page.get_by_role("button", name="Make a link").click()
    address = page.get_by_role("status").locator("code").inner_text()
    helper = chromium.new_context(viewport={"width": 1280, "height": 800}).new_page()
    helper.goto(address)
    helper.get_by_label("Password", exact=True).fill(PASSWORD)
    helper.get_by_role("button", name="Join").click()
    expect(helper.get_by_role("button", name="Juna")).to_be_visible()
    expect(helper.get_by_role("link", name="Catalogue")).to_have_count(0)
    helper.get_by_role("button", name="Juna").click()
    helper.get_by_label("Where").select_option(label="Quay")
    helper.get_by_role("button", name="Save").click()
    expect(helper.get_by_text("Marit, Quay")).to_be_visible()
    helper.context.close()


def test_a_record_is_written_closed_and_added_to(practitioner):
    page = practitioner.page
    practitioner.signs_in()
    practitioner.goes(f"/people/{practitioner.visits()['Tamsin']['person_id']}")
    page.get_by_role("listitem").filter(has_text="took place").first.get_by_role("button").first.click()
    expect(page.get_by_label("Ratings before")).to_have_value(re.compile("Neck and shoulder pain"))
    page.get_by_label("Observed").fill("Breath went down into the belly.")
    practitioner.pictures("visit")
    page.get_by_role("button", name="Close the record").click()
    expect(page.get_by_text(re.compile("^Closed .* by Ode Marrable"))).to_be_visible()
    expect(page.get_by_label("Observed")).to_have_count(0)
    page.get_by_label("Addendum").fill("Slept through for the first time.")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("heading", name=re.compile("Addendum, .*Ode Marrable"))).to_be_visible()


@pytest.mark.long
def test_days_go_back_and_forth_and_what_is_due_can_be_booked(practitioner):
    page = practitioner.page
    practitioner.signs_in()
    page.keyboard.press("ArrowRight")
    expect(page).to_have_url(re.compile(f"on={today() + timedelta(days=1)}"))
    page.keyboard.press("t")
    expect(page.get_by_label("Day", exact=True)).to_have_value(f"{today():%-d %b %Y}")
    due = page.get_by_role("region", name="Due")
    expect(due.get_by_text("No reply yet from their doctor")).to_be_visible()
    row = due.get_by_role("listitem").filter(has_text="Idris")
    row.get_by_role("button", name="Book").click()
    page.get_by_role("group", name=re.compile("Free times for")).get_by_role("button").last.click()
    page.get_by_role("button", name="Book", exact=True).last.click()
    expect(due.get_by_role("listitem").filter(has_text="Idris")).to_have_count(0)


@pytest.mark.long
def test_a_second_factor_is_set_up_and_asked_for(practitioner, chromium, server, set_up):
    page = practitioner.page
    email = f"careful-{uuid.uuid4().hex[:6]}@harbour.example"
    token = set_up.partition("#")[2]
    made = page.request.post(
        f"{server.url}/api/links/set-up",
        data={
            "token": token,
            "practice": {"name": "Careful", "time_zone": "Europe/London"},
            "practitioner": {"name": "Careful", "email": email, "password": PASSWORD},
        },
    )
    assert made.status == 201, made.text()
    practitioner.goes("/account")
    factor = page.locator("section").filter(has=page.get_by_role("heading", name="Two-step verification"))
    factor.get_by_label("Your password").fill(PASSWORD)
    page.get_by_role("button", name="Set up").click()
    secret = page.get_by_test_id("secret").inner_text()
    page.get_by_label("Code").fill(pyotp.TOTP(secret).now())
    page.get_by_role("button", name="Confirm").click()
    shown = page.get_by_role("list", name="Recovery codes").locator("code")
    expect(shown).to_have_count(8)
    codes = shown.all_inner_texts()
    page.get_by_role("button", name="I have written them down").click()
    expect(page.get_by_text("On. Each sign-in asks for a code")).to_be_visible()
    other = Practitioner(chromium.new_context().new_page(), server)
    other.goes("/sign-in")
    other.page.get_by_label("Email").fill(email)
    other.page.get_by_label("Password", exact=True).fill(PASSWORD)
    other.page.get_by_role("button", name="Sign in").click()
    other.page.get_by_label("Code").fill(codes[0])
    other.page.get_by_role("button", name="Sign in").click()
    expect(other.page.get_by_text("No appointments today.")).to_be_visible()
    other.page.context.close()
