"""What hands find, what is near a touch, what is worth measuring, and the ways over the skin."""

from datetime import UTC, datetime

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.locating.assistant import worth_measuring
from acuthesis.core.atlas.locating.finding import FARTHEST_MM, Finding, Offset, finding_in_words, moved, offset_to
from acuthesis.core.atlas.locating.locate import locate, with_way
from acuthesis.core.atlas.locating.nearby import NEAR_CM, nearby
from acuthesis.core.atlas.locating.placed import place_all, place_one
from acuthesis.core.atlas.locating.ways import channel_line, channel_points
from acuthesis.core.body.figure import SIDES
from acuthesis.core.body.fit import fit
from acuthesis.core.body.frames import frame_of
from acuthesis.core.body.person import BodyFacts, Fingers
from acuthesis.core.body.surface_path import way_over_skin
from acuthesis.core.errors import OutOfRange, UnknownId
from tests.tiers import examples

from .conftest import BUILDS, body_of, people

SAMPLE = [*list(catalogue.points())[::23], "foot_kidney", "ear_TF4", "hand_liver", "face_temple"]
WHEN = datetime(2026, 11, 1, tzinfo=UTC)


@examples(40)
@given(
    st.sampled_from([id for id in SAMPLE if id in catalogue.points()]),
    st.sampled_from(SIDES),
    st.floats(-12, 12),
    st.floats(-12, 12),
)
def test_a_found_place_is_said_in_directions_and_found_again(id, side, along, across):
    body = body_of(BUILDS["average"])
    entry = catalogue.entry(id)
    side = side if side in entry.sides else entry.sides[0]
    place = place_one(entry, body)[0].on(side).position
    frame = frame_of(body.figure, catalogue.part_of(entry), side)
    first, second = (list(frame)[rank] for rank in (0, 2))
    found, _ = body.figure.nearest_on_skin(place + along / 10 * frame[first] + across / 10 * frame[second])
    offset = offset_to(found, place, entry, side, body)
    assert offset.length_mm <= np.linalg.norm(found - place) * 10 + 1.5
    again = moved(place, offset, entry, side, body)
    # What is left is whole millimetres.
    assert np.linalg.norm(again - found) < 0.15
    assert all(amount > 0 for amount in offset.mm.values()), "each direction is named by where it leads"


def test_a_finding_stays_beside_its_point_on_another_figure(asset):
    entry = catalogue.points()["SP6"]
    offset = Offset(mm={"distal": 6})
    for height in (155, 190):
        body = fit(asset, BodyFacts(height_cm=height))
        place = body.places.at(entry.methods[0].place, "left")
        found = moved(place, offset, entry, "left", body)
        assert np.linalg.norm(found - place) == pytest.approx(0.6, abs=0.06)
        assert found[1] < place[1]


@pytest.mark.parametrize(
    ("id", "mm", "more", "words"),
    [
        ("foot_kidney", {"proximal": 6}, {"soreness": 5}, "6 mm towards the heel, soreness 5"),
        ("SP6", {"proximal": 4, "medial": 2}, {}, "4 mm towards the knee and 2 mm inwards"),
        ("PC6", {"distal": 3}, {"texture": "cord"}, "3 mm towards the wrist, a cord"),
        ("BL23", {}, {"soreness": 0, "texture": "warm"}, "at the calculated spot, soreness 0, warm"),
    ],
)
def test_findings_in_words(id, mm, more, words):
    entry = catalogue.entry(id)
    finding = Finding(entry=id, side="left", offset=Offset(mm=mm), at=WHEN, **more)
    assert finding_in_words(finding, catalogue.part_of(entry)) == words


def test_what_is_too_far_or_no_number_is_no_finding():
    body = body_of(BUILDS["average"])
    entry = catalogue.points()["SP6"]
    place = body.places.at(entry.methods[0].place, "left")
    with pytest.raises(OutOfRange, match="at most 4 cm away"):
        offset_to(place + np.array([0, FARTHEST_MM / 10 + 0.5, 0]), place, entry, "left", body)
    for wrong in ({"distal": 41}, {"distal": float("nan")}, {"distal": float("inf")}):
        with pytest.raises(ValidationError):
            Offset(mm=wrong)


def test_here_is_sorted_near_and_on_the_same_side_of_the_limb(body):
    placed = place_all(body)
    for one in placed[::61]:
        found = nearby(one.position, body, placed)
        points = [row for row in found if row.kind != "landmark"]
        assert (one.entry.id, one.side) in [(row.id, row.side) for row in points], one.entry.id
        distances = [row.distance_cm for row in points]
        assert distances == sorted(distances)
        assert all(row.distance_cm <= NEAR_CM for row in found)
    # Touching the back of the wrist does not bring up what lies on its front.
    back = body.places.at(catalogue.points()["TE5"].methods[0].place, "left")
    assert "PC6" not in [row.id for row in nearby(back, body, placed)]


@examples(6)
@given(people())
def test_measuring_narrows_rings_and_is_not_asked_for_twice(facts):
    body = body_of(facts)
    wanted = [catalogue.points()[id] for id in ("SP6", "ST36", "PC6", "TE5", "CV12", "GB31")]
    asked = worth_measuring(wanted, body)
    assert [row.gain_cm for row in asked] == sorted((row.gain_cm for row in asked), reverse=True)
    assert not {row.id for row in asked} & set(facts.measures_cm)
    for row in asked:
        assert row.ring_then_cm < row.ring_cm
        assert row.points
    if asked and asked[0].id in ("lower_leg_inner", "forearm", "upper_abdomen"):
        length = body.places.segment(asked[0].id, "left").length_cm
        known = body_of(facts.model_copy(update={"measures_cm": {**facts.measures_cm, asked[0].id: round(length, 1)}}))
        before, after = (locate(catalogue.points()[asked[0].points[0]], "left", one) for one in (body, known))
        assert after.uncertainty_cm <= before.uncertainty_cm
        assert asked[0].id not in [row.id for row in worth_measuring(wanted, known)]


def test_all_rings_are_a_practitioners_size(body):
    for id, point in catalogue.points().items():
        found = locate(point, "left", body)
        assert 0.2 < found.uncertainty_cm < 3.2, f"the ring of {id} is {found.uncertainty_cm} cm"
        assert [method.trusted for method in found.methods] == [True] + [False] * (len(found.methods) - 1)
        assert found.methods[0].position_cm == found.position_cm, "what is drawn is what is trusted"
        assert all(method.why for method in found.methods)


def test_own_fingers_are_trusted_more_once_they_are_measured(asset):
    point = catalogue.points()["SP6"]
    by_hand = [
        locate(point, "left", fit(asset, BodyFacts(height_cm=170, fingers=fingers))).methods[-1].error_cm
        for fingers in (Fingers(), Fingers(four_fingers=7.1))
    ]
    assert by_hand[1] < by_hand[0]


def test_ways_over_the_skin_are_a_little_longer_than_straight(body):
    for point in list(catalogue.points().values())[::29]:
        found = with_way(locate(point, "right" if point.paired else "left", body), point, body)
        if found.way is None:
            continue
        assert found.way.skin_cm >= found.way.straight_cm - 0.05, point.id
        assert found.way.skin_cm < found.way.straight_cm * 1.7 + 1.0, point.id
        assert np.allclose(found.way.path_cm[-1], found.position_cm, atol=0.01), point.id
        assert found.way.from_ in found.landmarks or found.way.from_name


def test_the_shortest_way_is_the_same_in_both_directions():
    body = body_of(BUILDS["average"])
    a, b = (body.places.at(catalogue.points()[id].methods[0].place, "left") for id in ("SP6", "SP9"))
    there, back = way_over_skin(body.figure, a, b), way_over_skin(body.figure, b, a)
    assert there.length_cm == pytest.approx(back.length_cm, rel=0.01)
    off = [np.linalg.norm(body.figure.nearest_on_skin(place)[0] - place) for place in there.path]
    assert max(off) < 0.1
    same = way_over_skin(body.figure, a, a)
    assert same.length_cm == 0


@pytest.mark.parametrize("channel", ["LU", "SP", "GV"])
def test_a_channels_line_runs_through_all_its_points(channel):
    body = body_of(BUILDS["tall and thin"])
    line = np.concatenate(channel_line(channel, "left", body))
    for id in (id for branch in channel_points(channel) for id in branch):
        place = body.places.at(catalogue.points()[id].methods[0].place, "left")
        assert np.linalg.norm(line - place, axis=1).min() < 0.05, id
    right = np.concatenate(channel_line(channel, "right", body))
    assert np.allclose(right, line if channel == "GV" else line * [-1, 1, 1])


def test_a_channel_that_does_not_exist():
    with pytest.raises(UnknownId, match="no channel 'XX'"):
        channel_points("XX")
