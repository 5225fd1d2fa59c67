"""Rows that come from outside: whatever is in them, they are placed on the skin or refused with a reason."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.locating.locate import locate
from acuthesis.core.atlas.locating.own import MOST_PARTS, OFF_SKIN_CM, TRIED_ON, own_entry, try_on
from acuthesis.core.atlas.locating.placed import Placed, place_one
from acuthesis.core.body import catalogue as body_catalogue
from acuthesis.core.errors import CoreError
from acuthesis.core.safety.near import SAME_PLACE_CM, apart_cm, refused_near
from acuthesis.core.safety.screening import parse_screening
from tests.tiers import examples

from .conftest import BUILDS, body_of

ROW = {"id": "own_spot", "names": {"english": "Spot"}, "site": "leg_outer", "feel": "A hollow."}
AREA = {
    "id": "own_patch",
    "names": {"english": "Patch"},
    "site": "sole",
    "surface": "sole",
    "polygon": [[0.4, 0.3], [0.5, 0.3], [0.5, 0.6], [0.4, 0.6]],
    "where": "middle of the sole",
}


def with_rule(place, **more):
    return {**ROW, "methods": [{"name": "a rule", "place": place}], **more}


LANDMARKS = st.sampled_from([*list(body_catalogue.landmarks())[::7], "joint.knee", "joint.elbow", "SP6", "GV20"])
SEGMENTS = st.sampled_from(list(body_catalogue.segments()))
LINES = st.sampled_from(list(body_catalogue.lines())[::3])
PARTS = st.sampled_from(["trunk", "head", "hand", "forearm", "upper_arm", "thigh", "lower_leg", "foot", "tail"])
DIRECTIONS = st.dictionaries(
    st.sampled_from(["lateral", "medial", "anterior", "posterior", "superior", "distal", "proximal", "radial", "up"]),
    st.floats(-3, 3),
    min_size=1,
    max_size=2,
)
CUN = st.floats(-4, 20)
PLACES = st.recursive(
    LANDMARKS,
    lambda inner: st.one_of(
        st.fixed_dictionaries({"between": st.tuples(inner, inner).map(list), "at": st.floats(-1.5, 2.5)}),
        st.fixed_dictionaries({"move": inner, "by": DIRECTIONS, "cun": SEGMENTS, "in": PARTS}),
        st.fixed_dictionaries({"move": inner, "by": DIRECTIONS, "width": st.just("thumb_width"), "in": PARTS}),
        st.fixed_dictionaries({"skin": inner, "toward": DIRECTIONS, "in": PARTS}),
        st.fixed_dictionaries({"drop": inner}),
        st.fixed_dictionaries({"line": LINES, "segment": SEGMENTS, "from": LANDMARKS, "cun": CUN}),
        st.fixed_dictionaries({"arc": SEGMENTS, "cun": CUN}),
        st.fixed_dictionaries(
            {"beside": inner, "cun": CUN, "of": SEGMENTS, "face": st.sampled_from(["front", "back", "top"])}
        ),
        st.fixed_dictionaries({"around": inner, "from": inner, "cun": CUN, "of": SEGMENTS}),
    ),
    max_leaves=4,
)


@examples(150)
@given(PLACES)
def test_any_rule_is_placed_on_the_skin_or_refused_with_a_reason(place):
    body = body_of(BUILDS["average"])
    try:
        entry = own_entry(with_rule(place), "row")
        try_on(entry, [body], "row")
    except CoreError as refused:
        assert refused.message
        assert refused.where
        return
    found = locate(entry, "right", body)
    off = np.linalg.norm(body.figure.nearest_on_skin(np.array(found.position_cm))[0] - found.position_cm)
    assert off < OFF_SKIN_CM + 0.05
    assert found.steps
    assert found.uncertainty_cm > 0


KEYS = ["id", "names", "site", "feel", "methods", "polygon", "surface", "paired", "press", "reach", "answers"]
JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False) | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=8), inner, max_size=4),
    max_leaves=12,
)


@examples(80)
@given(
    st.dictionaries(st.sampled_from(["id", "names", "site", "feel", "methods", "polygon", "surface", "paired"]), JSON)
)
def test_any_row_is_read_or_refused(row):
    for candidate in (row, {**ROW, **row}, {**AREA, **row}):
        try:
            own_entry({**candidate, "id": "own_spot"}, "entries.3")
        except CoreError as refused:
            assert refused.where.startswith("entries.3")


@pytest.mark.parametrize("id", ["SP6", "own", "own_", "own_Ü", "own_Spot", "x_own_spot", "own_" + "a" * 41, 5, None])
def test_ids_that_could_be_taken_for_another_are_refused(id):
    with pytest.raises(CoreError, match="begins with own_"):
        own_entry({**with_rule("glabella"), "id": id})


def test_an_own_area_is_drawn_on_its_surface_on_every_build():
    entry = own_entry(AREA)
    try_on(entry, [body_of(facts) for facts in TRIED_ON])
    body = body_of(BUILDS["tall and thin"])
    left, right = place_one(entry, body)
    assert np.allclose(left.position * [-1, 1, 1], right.position)
    found = locate(entry, "left", body)
    assert 0.5 < found.area_cm2 < 12
    assert found.position_cm[1] < 3
    assert abs(found.position_cm[2] - body.places.landmark("metatarsal_5_base", "left")[2]) < 4, (
        "the middle of the sole"
    )
    newer = own_entry({**AREA, "grid": "sole", "polygon": [[0.52, 0.3], [0.6, 0.3], [0.6, 0.6], [0.52, 0.6]]})
    (as_newer, _) = place_one(newer, body)
    assert np.linalg.norm(as_newer.position - left.position) < 2, "written before there were grids it lay there too"
    toe = own_entry({**AREA, "id": "own_toe", "polygon": [[0.9, 0.05], [0.9, 0.24], [0.98, 0.24]]})
    (on_toe, _) = place_one(toe, body)
    assert np.linalg.norm(on_toe.position - body.figure.joint("toe-1-3", "left")) < 3
    with pytest.raises(CoreError, match="u and v run from 0 to 1"):
        own_entry({**AREA, "polygon": [[0, 0], [5, 0], [5, 5]]})
    with pytest.raises(CoreError, match="surface 'moon', which does not exist"):
        own_entry({**AREA, "surface": "moon"})


def test_a_row_grown_beyond_reason_is_refused_before_it_is_read():
    flat = {**with_rule("glabella"), "traditional": ["x"] * (MOST_PARTS + 1)}
    with pytest.raises(CoreError, match="too deep or too long"):
        own_entry(flat)


@pytest.mark.parametrize("level", [0, 16])
def test_the_ends_of_a_segment_are_levels_too(level):
    place = {"line": "shin_crest_outer", "segment": "lower_leg_outer", "from": "popliteal_crease", "cun": level}
    assert own_entry(with_rule(place)).methods[0].place.cun == level
    with pytest.raises(CoreError, match="which is 16 cun long"):
        own_entry(with_rule({**place, "cun": level + (0.1 if level else -0.1)}))


def at(placed, place):
    return replace(placed, position=np.asarray(place), outline=None)


def test_a_refusal_reaches_a_thumb_and_no_farther(body):
    pregnant, nothing = parse_screening({"pregnancy_weeks": 10}), parse_screening({})
    placed = [one for id in ("SP6", "SP7", "ST36") for one in place_one(catalogue.entry(id), body)]
    for away, reached in ((0.0, True), (SAME_PLACE_CM - 0.3, True), (SAME_PLACE_CM + 0.3, False)):
        spot = at(placed[0], placed[0].position + np.array([0.0, away, 0.0]))
        assert (refused_near(spot, placed, pregnant) is not None) == reached
        assert refused_near(spot, placed, nothing) is None
    assert "SP6" in refused_near(placed[0], placed, pregnant).text


def test_a_refusal_of_an_area_reaches_what_lies_in_it_or_at_its_edge(body):
    """Both ways: an own point in a refused area, and an own area over a refused point."""
    pregnant = parse_screening({"pregnancy_weeks": 10})
    womb = place_one(catalogue.entry("foot_womb_prostate"), body)[0]
    edge = womb.outline[0]
    outward = (edge - womb.position) / np.linalg.norm(edge - womb.position)
    assert refused_near(at(womb, womb.position), [womb], pregnant).text.startswith("On foot_womb_prostate.")
    assert "0.8 cm from foot_womb" in refused_near(at(womb, edge + 0.8 * outward), [womb], pregnant).text
    assert refused_near(at(womb, edge + 2.2 * outward), [womb], pregnant) is None
    assert refused_near(replace(at(womb, womb.position), normal=-womb.normal), [womb], pregnant) is not None, "near it"
    inner = replace(womb, outline=womb.position + 0.3 * (womb.outline - womb.position))
    assert refused_near(inner, [womb], pregnant) is not None
    sp6 = place_one(catalogue.entry("SP6"), body)[0]
    around = sp6.position + 3 * np.array([[1, 1, 0], [1, -1, 0], [-1, -1, 0], [-1, 1, 0]]) @ _upright(sp6.normal)
    assert refused_near(replace(sp6, outline=around), [sp6], pregnant).text.startswith("On SP6.")


def _upright(normal):
    """Axes (3, 3) with the last along a normal."""
    across = np.cross(normal, [0.0, 1.0, 0.0])
    across /= np.linalg.norm(across)
    return np.stack([across, np.cross(normal, across), normal])


def square(x, width=2.0, entry="GB21"):
    """A flat area of so many cm from x on, facing up; as a point where it has no width."""
    corners = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]]) * width + [x, 0, 0]
    outline = corners if width else None
    return Placed(catalogue.points()[entry], "left", corners.mean(axis=0), np.array([0.0, 0.0, 1.0]), outline)


@pytest.mark.parametrize(
    ("one", "other", "apart"),
    [
        (square(0), square(2.5), 0.5),  # from edge to edge, and not from middle to middle
        (square(0), square(1.5), 0.0),
        (square(0), square(1.0, width=0), 0.0),
        (square(0), square(3.0, width=0), 1.0),
        (square(0, width=0), square(1.2, width=0), 1.2),
        (square(0), square(9.0), np.inf),
    ],
)
def test_areas_are_as_far_apart_as_their_nearest_edges(one, other, apart):
    assert apart_cm(one, other) == pytest.approx(apart) == apart_cm(other, one)
