"""What goes on paper says what the score and the plate say."""

import random
import re
import uuid
from datetime import UTC, date, datetime, timedelta
from io import BytesIO
from itertools import pairwise

import pytest
import vobject
from pypdf import PdfReader
from weasyprint import HTML
from weasyprint.urls import FatalURLFetchingError

from acuthesis.core.atlas.drawing.plate import plate, plate_at_home
from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.locating.locate import locate
from acuthesis.core.body.asset import load_asset
from acuthesis.core.body.fit import fit
from acuthesis.core.body.person import BodyFacts, Fingers
from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.compose.home.plan import HomeWish, home_plan
from acuthesis.core.compose.knowledge.dose import Hold
from acuthesis.core.compose.score.score import PRESSED, position_changes
from acuthesis.core.safety.screening import Screening, parse_screening
from acuthesis.core.treat.fold import fold
from acuthesis.core.words import short_id
from acuthesis.exchange.drawn import DrawnPlace
from acuthesis.exchange.home_calendar import home_calendar
from acuthesis.exchange.home_paper import HomePaper, home_pdf
from acuthesis.exchange.pdf import score_pdf
from acuthesis.exchange.render import SHIPPED, _fetcher, shipped
from acuthesis.exchange.score_svg import score_svgs
from acuthesis.settings import settings
from acuthesis.stand_ins.hands import play
from acuthesis.words.reader import english
from tests.tiers import some

SCORE = compose(
    ComposeRequest(
        complaints=[ComplaintNow(id="low_back_ache", rating=7), ComplaintNow(id="poor_sleep", rating=5)], minutes=35
    ),
    Screening(),
)
BEGAN = datetime(2026, 11, 25, 9, tzinfo=UTC)


def drawn_score(score, records=None):
    return "".join(score_svgs(score, english(), records))


@pytest.fixture(scope="module")
def body():
    facts = BodyFacts(height_cm=170, measures_cm={"lower_leg_inner": 36}, fingers=Fingers(four_fingers=7.0))
    return fit(load_asset(settings().body_asset), facts)


def test_the_printed_score_has_a_block_a_side_and_a_bar_a_turn():
    svg = drawn_score(SCORE)
    blocks = sum(2 if stop.side == "both" else 1 for stop in SCORE.stops)
    assert svg.count('fill="#e2e3e0"') == blocks
    turns = sum(before.position != after.position for before, after in pairwise(SCORE.stops))
    assert svg.count('class="turn"') == turns >= position_changes(SCORE.stops) >= 1
    for stop in SCORE.stops:
        assert stop.kind not in PRESSED or short_id(stop.id) in svg


def test_a_muted_stop_is_not_printed():
    muted = SCORE.stops[1].model_copy(update={"muted": True})
    rest = SCORE.model_copy(update={"stops": (SCORE.stops[0], muted, *SCORE.stops[2:])})
    assert drawn_score(SCORE).count("<path transform") - drawn_score(rest).count("<path transform") == (
        2 if muted.side == "both" else 1
    )


def test_higher_levels_are_taller():
    stop = SCORE.stops[1]
    heights = []
    for level in (1, 2, 3):
        one = SCORE.model_copy(update={"stops": (stop.model_copy(update={"level": level, "dose": Hold(seconds=45)}),)})
        heights.append(float(re.search(r"M0 0V-([\d.]+)H", drawn_score(one)).group(1)))
    assert heights == sorted(set(heights))


def test_what_was_felt_stands_under_its_block():
    sore = SCORE.stops[2].id
    treatment = fold(play(SCORE, BEGAN, {sore: 7}, random.Random(3)))
    record = treatment.records[f"{sore}-1"]
    assert f"7→{record.soreness[-1].value}" in drawn_score(SCORE, treatment.records)
    assert "→" not in drawn_score(SCORE)


def test_a_plate_carries_a_tick_for_every_cun_and_bars_to_scale(body):
    found = locate(catalogue.points()["SP6"], "left", body, practitioner={"four_fingers": 8.2})
    svg = plate(found, "lower_leg", body)
    ticks = max(
        re.findall(r'd="((?:M[\d. ]+L[\d. ]+)+)"', svg),
        key=lambda path: path.count("M") if path.count("L") == path.count("M") else 0,
    )
    assert ticks.count("M") == 13 + 1
    for length in (7.0, 8.2, found.fingers[0].wanted_cm):
        assert f"h{length:.2f}" in svg, "bars are drawn in the picture's own centimetres"
    assert "bump of the inner ankle bone" in svg


def test_an_area_is_outlined_and_has_no_ring(body):
    svg = plate(locate(catalogue.areas()["foot_kidney"], "right", body), "foot", body)
    assert "<polygon" in svg
    assert "<circle" in svg
    assert "stroke-dasharray" not in svg


@pytest.mark.parametrize(
    ("kinds", "answers", "wish"),
    some(
        [
            (["shoulder_pain", "tension_headache"], {}, {"times_a_day": 4}),
            (["finger_stiffness", "poor_sleep"], {"blood_thinner": True}, {}),
            (
                ["low_back_ache", "tired_legs"],
                {"pregnancy_weeks": 30},
                {"position": "left_side", "reaches_feet": False},
            ),
            (["tension_headache", "neck_shoulder_ache", "rib_breathing_tightness"], {"platelets": 90}, {}),
            (["poor_sleep"], {"red_flags": ["chest_pain"]}, {}),
        ]
    ),
)
def test_a_home_sheet_is_one_page_and_two_in_large_print_with_every_emergency(body, kinds, answers, wish):
    plan = home_plan(kinds, parse_screening(answers), HomeWish(**wish))
    assert bool(plan.places) is ("red_flags" not in answers)
    drawn = {}
    for place in plan.places:
        entry = catalogue.entry(place.id)
        found = locate(entry, "left", body)
        drawn[place.id] = DrawnPlace(found, plate_at_home(found, catalogue.part_of(entry), body))
    day = date(2026, 11, 25)
    paper = HomePaper("Wren", "The prop van", day, day, plan, ["08:00"], "Emergency services: 999.", day)
    usual, large = home_pdf(paper, drawn), home_pdf(paper, drawn, large=True)
    assert pages(usual) == 1 and pages(large) <= 2
    for printed in (usual, large):
        told = " ".join(text_of(printed).split())
        assert not re.search(r"\bcun\b", told), "whoever presses at home has a ruler and their fingers"
        for sign in plan.see_doctor if plan.places else ():
            assert sign in told, sign


def test_sets_take_turns_across_the_ends_of_months():
    plan = home_plan(["shoulder_pain", "tension_headache"], Screening(), HomeWish())
    first = date(2026, 12, 30)
    turns = [plan.set_on(first + timedelta(days=day), first).name for day in range(4)]
    assert turns == ["A", "B", "A", "B"]
    calendar = vobject.readOne(
        home_calendar(
            uuid.uuid4(),
            "Van",
            plan,
            ["08:00", "20:00"],
            first,
            first + timedelta(days=9),
            datetime(2026, 12, 29, tzinfo=UTC),
        ).decode()
    )
    days: dict[str, set] = {event.summary.value: set() for event in calendar.vevent_list}
    for event in calendar.vevent_list:
        days[event.summary.value] |= {one.date() for one in event.getrruleset()}
    assert days["Press set A"] == {first + timedelta(days=day) for day in range(0, 10, 2)}
    assert days["Press set B"] == {first + timedelta(days=day) for day in range(1, 10, 2)}


def pages(pdf: bytes) -> int:
    """How many pages a PDF has."""
    return len(PdfReader(BytesIO(pdf)).pages)


def text_of(pdf: bytes) -> str:
    """What a PDF says, page after page."""
    return " ".join(page.extract_text() for page in PdfReader(BytesIO(pdf)).pages)


def test_a_score_of_any_school_is_one_page_for_the_table():
    for school, minutes in (("channel_acupressure", 45), ("foot_hand_reflex", 45), ("quiet_holding", 90)):
        complaints = [ComplaintNow(id="neck_shoulder_ache", rating=7, side="right")]
        score = compose(ComposeRequest(complaints=complaints, minutes=minutes, school=school), Screening())
        where = {stop.id: "3 of 13 cun above the inner ankle bone" for stop in score.stops}
        pdf = score_pdf(
            "Tamsin",
            "The prop van",
            BEGAN,
            score,
            where,
            ["Blood-thinning medicine: level 2 at most, no pressing stick"],
        )
        assert pages(pdf) == 1, school


@pytest.mark.parametrize(
    "url",
    [
        "file:///etc/passwd",
        "https://elsewhere.example/x.css",
        "file:///shipped/../render.py",
        "file:///shipped/visit.html",
        "x.css",
    ],
)
def test_papers_load_what_is_shipped_and_nothing_else(url):
    assert b"@page" in shipped(f"{SHIPPED}print.css")
    with pytest.raises(ValueError, match="papers do not load"):
        shipped(url)
    with pytest.raises(FatalURLFetchingError):
        HTML(
            string=f'<link rel="stylesheet" href="{url}"><p>x', base_url="file:///", url_fetcher=_fetcher({})
        ).write_pdf()
