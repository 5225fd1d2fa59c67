"""The paper of a visit, read back as a PDF: what stands on which page, in which type, and that nothing is torn."""

import random
import re
from collections.abc import Iterator
from datetime import UTC, date, datetime
from io import BytesIO
from typing import Any

import pytest
from pdfminer.high_level import extract_pages
from pdfminer.layout import LAParams, LTChar, LTContainer
from pypdf import PdfReader, PdfWriter

from acuthesis.core.atlas.drawing.plate import LetteredPlate, plate_on_paper
from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.locating.locate import locate
from acuthesis.core.body.asset import load_asset
from acuthesis.core.body.fit import fit
from acuthesis.core.body.person import BodyFacts
from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.compose.score.score import PRESSED
from acuthesis.core.safety.screening import Screening
from acuthesis.core.treat.account import account, write_up
from acuthesis.core.treat.fold import fold
from acuthesis.exchange.drawn import DrawnPlace
from acuthesis.exchange.pdf import VisitPaper, visit_pdf
from acuthesis.settings import settings
from acuthesis.stand_ins.hands import play

BEGAN = datetime(2026, 11, 25, 9, tzinfo=UTC)
LEAST_POINTS = 6.5  # smaller type is not read at arm's length
SCORE = compose(
    ComposeRequest(complaints=[ComplaintNow(id="neck_shoulder_ache", rating=7, side="right")], minutes=45),
    Screening(),
)
PRESSED_IDS = list(dict.fromkeys(stop.id for stop in SCORE.stops if stop.kind in PRESSED))


@pytest.fixture(scope="module")
def plates() -> dict[str, LetteredPlate]:
    body = fit(load_asset(settings().body_asset), BodyFacts(height_cm=171))
    drawn = {}
    for id in PRESSED_IDS:
        entry = catalogue.entry(id)
        drawn[id] = plate_on_paper(locate(entry, "right", body), catalogue.part_of(entry), body)
    return drawn


@pytest.fixture(scope="module")
def paper(plates) -> PdfReader:
    body = fit(load_asset(settings().body_asset), BodyFacts(height_cm=171))
    treatment = fold(play(SCORE, BEGAN, {PRESSED_IDS[0]: 7}, random.Random(3)))
    stops = account(treatment, SCORE)
    drawn = [
        DrawnPlace(locate(catalogue.entry(id), "right", body), plate.svg, plate.landmarks, "right")
        for id, plate in plates.items()
    ]
    printed = visit_pdf(
        VisitPaper(
            person="Tamsin Orrell",
            born=date(1992, 8, 24),
            age=34,
            practice="The prop van",
            practitioner="Ode Marrable",
            starts_at=BEGAN,
            limits=["Blood-thinning medicine: level 2 at most, no pressing stick"],
            score=SCORE,
            treatment=treatment,
            stops=stops,
            rated=[],
            record=write_up([], stops, treatment),
            closed_at=BEGAN,
            closed_by="Ode Marrable",
            addenda=[],
            asides=[],
            back_on=date(2026, 12, 9),
        ),
        drawn,
    )
    return PdfReader(BytesIO(printed))


def letters(paper: PdfReader) -> Iterator[tuple[str, float]]:
    """Every letter of a PDF with the height of its type in points, by pdfminer."""
    whole = BytesIO()
    PdfWriter(clone_from=paper).write(whole)

    def within(item: Any) -> Iterator[tuple[str, float]]:
        if isinstance(item, LTChar):
            yield item.get_text(), item.size
        elif isinstance(item, LTContainer):
            for part in item:
                yield from within(part)

    for page in extract_pages(whole, laparams=LAParams(all_texts=True)):
        yield from within(page)


def test_page_one_is_what_a_colleague_needs(paper):
    first = " ".join(paper.pages[0].extract_text().split())
    for wanted in ("Tamsin Orrell", "24 August 1992", "level 2 at most", "stops in", "Wednesday 9 December", "Session"):
        assert wanted in first, wanted
    assert "closed by Ode Marrable on 25 November 2026" in first
    named = [stop.id for stop in SCORE.stops if stop.kind == "point" and stop.start_s < 20 * 60]
    assert named and all(id in first for id in named), "the score is drawn on page one"


def test_papers_are_set_in_the_typeface_of_the_screens_at_a_size_to_read(paper):
    drawn_in = [font.get_object() for page in paper.pages for font in page["/Resources"]["/Font"].values()]
    fonts = {font["/BaseFont"] for font in drawn_in}
    assert {name.split("+")[1] for name in fonts} <= {
        "Atkinson-Hyperlegible-Next",
        "Atkinson-Hyperlegible-Next-Bold",
        "DejaVu-Sans",  # an arrow, which the others do not have
    }
    sizes = [size for letter, size in letters(paper) if letter.strip()]
    assert len(sizes) > 3000 and min(sizes) >= LEAST_POINTS - 0.05


def test_every_stop_is_one_row_that_does_not_break(paper):
    told = " ".join(" ".join(page.extract_text() for page in paper.pages).split())
    for stop in SCORE.stops:
        if not stop.muted and stop.kind not in PRESSED:
            assert stop.name in told, stop.name
    for page in list(paper.pages)[1:]:
        text = page.extract_text()
        if "Technique" in text:  # the heads of the columns come again where the table goes on
            assert re.search(r"At\s+Stop\s+Side\s+Technique\s+Level", text)


def test_landmarks_have_letters_in_the_drawing_and_names_beside_it(paper, plates):
    told = " ".join(" ".join(page.extract_text() for page in paper.pages).split())
    for id, plate in plates.items():
        letters = re.findall(r">([a-z])</text>", plate.svg)
        assert letters == [chr(ord("a") + rank) for rank in range(len(plate.landmarks))], id
        assert plate.svg.count("M") > len(letters) and "<text" in plate.svg
        for letter, name in zip(letters, plate.landmarks, strict=True):
            assert f"{letter} {name}" in told, (id, name)
    assert sum(len(plate.landmarks) for plate in plates.values()) > 10


def test_letters_cover_neither_the_point_nor_each_other(plates):
    for id, plate in plates.items():
        width = float(re.search(r'viewBox="0 0 ([\d.]+)', plate.svg).group(1))
        size = width / 19
        at = re.findall(r'<text x="([\d.]+)" y="([\d.]+)"[^>]*text-anchor="middle"[^>]*>[a-z]</text>', plate.svg)
        places = [(float(x), float(y)) for x, y in at]
        for rank, (x, y) in enumerate(places):
            assert 0 < x < width and 0 < y < width, id
            for u, v in places[:rank]:
                assert max(abs(x - u) / 0.55, abs(y - v)) > 0.8 * size, (id, rank)
