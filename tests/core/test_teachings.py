"""Where teachings differ, what lies under a place, and areas that answer the other side."""

import numpy as np
import pytest

from acuthesis.core.atlas.entries.catalogue import areas, points
from acuthesis.core.atlas.entries.cross_section import cross_section
from acuthesis.core.atlas.entries.preferred import preferred_points, preferring
from acuthesis.core.atlas.locating.locate import locate
from acuthesis.core.body.pose import posture
from acuthesis.core.compose.choose.brief import read_brief
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.compose.choose.wishes import wishes_of
from acuthesis.core.compose.knowledge.layer import Layer, layered, shipped
from acuthesis.core.errors import UnknownId
from acuthesis.core.safety.screening import parse_screening

from .conftest import TWELVE, body_of
from .test_ruler import edge_of

DIFFER = [point for point in points().values() if point.alternatives]


def test_teachers_differ_on_the_points_on_which_editions_are_known_to_differ():
    assert {"GV26", "LI19", "LI20", "PC8", "PC9", "GB30", "LU1", "LU2", "GB39"} <= {point.id for point in DIFFER}


@pytest.mark.parametrize("point", DIFFER, ids=lambda point: point.id)
def test_another_teaching_is_another_place_and_can_be_preferred(build, point):
    found = locate(point, "right", build)
    for place in found.alternatives:
        nearest, _ = build.figure.nearest_on_skin(np.array(place.position_cm))
        assert np.linalg.norm(nearest - place.position_cm) < 0.05, place.id
        assert 0.1 < place.off_cm < 16 and place.school, place.id
        preferred = locate(preferring(point, place.id), "right", build)
        assert preferred.position_cm == place.position_cm
        (standard,) = (one for one in preferred.alternatives if one.id == "standard")
        assert standard.position_cm == found.position_cm, "the standard's stays in sight"


def test_a_preferred_place_has_its_own_ring():
    """What was worked out for the standard's place is not taken for that of the one which a practice prefers."""
    build = body_of(TWELVE["man"])
    other = preferring(points()["GB30"], "toward_hip_bone")
    build.places.memory.clear()
    alone = locate(other, "left", build).uncertainty_cm
    build.places.memory.clear()
    locate(points()["GB30"], "left", build)
    assert locate(other, "left", build).uncertainty_cm == alone


def test_older_editions_have_gb39_behind_the_thin_bone():
    build = body_of(TWELVE["woman"])
    older = preferring(points()["GB39"], "behind")
    behind, _ = edge_of(build, "fibula", np.array(locate(older, "left", build).position_cm))
    _, before = edge_of(build, "fibula", np.array(locate(points()["GB39"], "left", build).position_cm))
    assert behind > 0 and before > 0


def test_a_practice_prefers_a_place_everywhere():
    known = layered(Layer(preferred={"PC8": "third_and_fourth"}))
    assert known.find("pc8").methods[0].name.startswith("between the third and fourth")
    assert known.find("PC7") is points()["PC7"]
    for wrong in ({"PC8": "elsewhere"}, {"PC99": "standard"}, {"SP6": "upper_third"}):
        with pytest.raises(UnknownId):
            layered(Layer(preferred=wrong))
    assert preferred_points({}) == {}


def test_what_lies_under_a_point_agrees_with_its_cautions_and_its_tissue():
    """Sites name their dangers, and the tissue that is pressed; the cross-sections were written apart from both."""
    for point in points().values():
        section = cross_section(point)
        assert section is not None and section.layers[0].kind == "skin", point.id
        kinds = {layer.kind for layer in section.layers} | {one.kind for one in section.beside}
        for word, kind in (("artery", "vessel"), ("vein", "vessel"), ("nerve", "nerve"), ("lung", "organ")):
            if any(word in danger for danger in point.dangers):
                assert kind in kinds, f"{point.id}: {word} is a danger, and no {kind} is drawn"
        if point.tissue == "bony":
            assert kinds & {"bone", "joint", "cartilage", "fascia"}, point.id
        if point.tissue == "muscle":
            assert "muscle" in kinds or point.id in ("LR5", "LR6"), point.id


def test_the_posture_of_the_standard_is_said():
    assert posture("LI11") == "elbow at a right angle" and posture("GV15") == "head bent forward"
    assert locate(points()["TE14"], "left", body_of(TWELVE["man"])).posture == "arm raised"


@pytest.mark.parametrize(("side", "foot"), [("left", "right"), ("right", "left")])
def test_the_head_on_the_second_foot_map_is_worked_on_the_other_foot(side, foot):
    assert not any(area.crossed for area in areas().values() if area.map != "second")
    step = locate(areas()["foot2_ear_4"], foot, body_of(TWELVE["woman"])).steps[0]
    assert f"the {side} side of the head" in step
    for chart, ear, wanted in (("second", "foot2_ear_4", foot), ("standard", "foot_ear", side)):
        request = ComposeRequest(
            complaints=[ComplaintNow(id="tinnitus", rating=6, side=side)],
            minutes=40,
            school="foot_hand_reflex",
            foot_chart=chart,
        )
        wish = wishes_of(read_brief(request, parse_screening({}), shipped())).by_id[ear]
        assert wish.sides == {wanted} and wish.affected == {wanted}
