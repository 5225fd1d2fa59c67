"""The figure meets what was measured, is symmetric, closed and the same every time."""

import numpy as np
import pytest
from hypothesis import given
from pydantic import ValidationError

from acuthesis.core.body.figure import Figure
from acuthesis.core.body.fit import DENSITY_KG_PER_L, fit, measured_length
from acuthesis.core.body.person import BodyFacts, Fingers, body_measures, facts_from, unusual_measures
from acuthesis.core.body.subdivide import loop_subdivision, triangulate
from acuthesis.core.errors import CoreError, UnknownId
from tests.tiers import examples, some

from .conftest import BUILDS, body_of, people

WITHIN_CM = 0.2


@examples(12)
@given(people())
def test_fit_meets_height_and_every_measure_within_two_millimetres(facts):
    body = body_of(facts)
    assert body.figure.height_cm == pytest.approx(facts.height_cm, abs=0.1)
    for name, wanted in facts.measures_cm.items():
        assert abs(body.residuals_cm[name]) < WITHIN_CM
        # The residual is not only reported: the landmarks really are that far apart.
        assert body.places.segment(name, "left").length_cm == pytest.approx(wanted, abs=WITHIN_CM)
    if facts.weight_kg:
        mass = body.figure.volume_l * DENSITY_KG_PER_L
        assert mass == pytest.approx(facts.weight_kg, abs=3) or any("Weight" in note for note in body.notes)


def test_fit_is_deterministic(asset):
    facts = BUILDS["tall and thin"]
    first, second = fit(asset, facts), fit(asset, facts)
    assert np.array_equal(first.figure.skin, second.figure.skin)


def test_a_longer_forearm_lengthens_the_forearm_and_leaves_the_height(asset):
    short, long = (fit(asset, BodyFacts(height_cm=170, measures_cm={"forearm": cm})) for cm in (23.5, 26.5))
    grown = long.places.segment("forearm", "right").length_cm - short.places.segment("forearm", "right").length_cm
    assert grown == pytest.approx(3.0, abs=0.2)
    assert long.figure.height_cm == pytest.approx(short.figure.height_cm, abs=0.1)


@pytest.mark.parametrize("girth", some([id for id, row in body_measures().items() if row.ring is not None]))
def test_a_measured_girth_is_met_where_the_body_allows_it(asset, girth):
    usual = measured_length(fit(asset, BodyFacts(height_cm=170)).places, body_measures()[girth])
    for share in (0.95, 1.08):
        wanted = round(usual * share, 1)
        body = fit(asset, BodyFacts(height_cm=170, measures_cm={girth: wanted, "forearm": 25.0}))
        assert measured_length(body.places, body_measures()[girth]) == pytest.approx(
            wanted + body.residuals_cm[girth], abs=0.05
        )
        assert abs(body.residuals_cm[girth]) < 0.3 or any(body_measures()[girth].name in n for n in body.notes)
        assert abs(body.residuals_cm["forearm"]) < WITHIN_CM, "a girth does not spoil a length"


def test_contradicting_measures_are_said(asset):
    body = fit(asset, BodyFacts(height_cm=166, measures_cm={"lower_leg_inner": 32, "lower_leg_outer": 50}))
    assert abs(body.residuals_cm["lower_leg_inner"]) > 1
    assert any("Lower leg, inside" in note and "too long" in note for note in body.notes)
    assert any("Lower leg, outside" in note and "too short" in note for note in body.notes)


def test_figure_stands_on_the_floor_and_is_symmetric(body):
    skin = body.figure.skin
    assert skin[:, 1].min() == pytest.approx(0, abs=1e-9)
    control = body.figure.control
    # The shape targets themselves differ between the sides by up to a quarter of a millimetre.
    assert np.allclose(control[body.figure.asset.mirror] * [-1, 1, 1], control, atol=0.03)
    for joint in ("knee", "elbow", "finger-2-1", "toe-1-1"):
        left, right = (body.figure.joint(joint, side) for side in ("left", "right"))
        assert np.allclose(left * [-1, 1, 1], right, atol=0.03)


def test_skin_is_closed_and_its_weights_are_averages(asset):
    pairs = np.concatenate([asset.triangles[:, [0, 1]], asset.triangles[:, [1, 2]], asset.triangles[:, [2, 0]]])
    _, uses = np.unique(np.sort(pairs, axis=1), axis=0, return_counts=True)
    assert set(uses) == {2}
    assert np.allclose(np.asarray(asset.subdivision.sum(axis=1)).ravel(), 1, atol=1e-9)
    assert len(asset.triangles) * 3 * 2 + asset.subdivision.shape[0] * 3 * 2 < 1_200_000  # bytes on the wire, unzipped


def test_subdivision_of_an_open_sheet_keeps_its_border_straight():
    quads = np.array([[0, 1, 4, 3], [1, 2, 5, 4]])
    corners = np.array([[x, y, 0.0] for y in (0, 1) for x in (0, 1, 2)])
    fine = loop_subdivision(triangulate(quads), 6)
    smooth = fine.matrix @ corners
    assert len(fine.triangles) == 16
    on_border = smooth[np.isclose(smooth[:, 1], 0)]
    assert len(on_border) >= 3
    assert np.allclose(smooth[:, 2], 0)


def test_heavier_people_are_wider_but_no_taller(asset):
    light, heavy = (fit(asset, BodyFacts(height_cm=172, weight_kg=kg)) for kg in (55, 95))
    assert heavy.figure.volume_l > light.figure.volume_l * 1.4
    assert heavy.figure.height_cm == pytest.approx(light.figure.height_cm, abs=0.1)
    waist = [np.ptp(b.figure.skin[np.abs(b.figure.skin[:, 1] - 105) < 2][:, 2]) for b in (light, heavy)]
    assert waist[1] > waist[0] + 3


@pytest.mark.parametrize(
    ("data", "says"),
    [
        ({"height_cm": 40}, "height_cm is 40 cm; it can be 120 to 220 cm"),
        ({"weight_kg": 500}, "weight_kg is 500 kg; it can be 30 to 220 kg"),
        ({"age": 3}, "There is no figure for age 3: figures are available from 12 to 105"),
        ({"measures_cm": {"forearm": 80}}, "forearm is 80 cm; it can be 16 to 36 cm"),
        ({"measures_cm": {"tail": 20}}, "there is no measure 'tail'"),
        ({"measures_cm": {"thumb_width": 9}}, "thumb_width is 9 cm; it can be 1.4 to 3.2 cm"),
        ({"measures_cm": {"thumb_width": 3, "two_fingers": 2.5}}, "must grow from thumb to four fingers"),
        ({"height_cm": float("nan")}, "height_cm is NaN"),
    ],
)
def test_impossible_bodies_are_refused_with_the_range(data, says):
    with pytest.raises(ValidationError) as refused:
        facts_from(data)
    assert says in str(refused.value)


def test_possible_but_rare_measures_are_pointed_out():
    facts = BodyFacts(height_cm=160, measures_cm={"forearm": 30})
    assert "unusual at 160 cm" in unusual_measures(facts)["forearm"]
    assert unusual_measures(BodyFacts(height_cm=160, measures_cm={"forearm": 23.5})) == {}


def test_unmeasured_fingers_follow_the_measured_ones():
    wide = Fingers(thumb_width=2.6).complete(170)
    usual = Fingers().complete(170)
    assert wide["thumb_width"] == 2.6
    assert wide["four_fingers"] / usual["four_fingers"] == pytest.approx(2.6 / usual["thumb_width"])


def test_a_ray_that_starts_outside_is_an_error_with_a_reason(asset):
    figure = Figure.from_weights(asset, np.zeros(len(asset.key_names)), 1.0)
    with pytest.raises(CoreError, match="does not reach the skin"):
        figure.exit_point(np.array([0.0, 500.0, 0.0]), np.array([0.0, 1.0, 0.0]))
    with pytest.raises(UnknownId, match="no joint 'tail'"):
        figure.joint("tail", "left")
