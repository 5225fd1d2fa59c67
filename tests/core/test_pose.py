"""Poses carry every place along: it stays on the skin, keeps its distances within a limb, and can be led back."""

import numpy as np
import pytest

from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.locating.locate import in_pose, locate
from acuthesis.core.atlas.locating.placed import place_all, place_one
from acuthesis.core.body.frames import frame_of
from acuthesis.core.body.pose import pose_for, posed, poses
from acuthesis.core.body.rays import NearestSkin
from acuthesis.core.errors import UnknownId
from tests.tiers import some

from .conftest import BUILDS, TWELVE, body_of


@pytest.mark.parametrize("pose", some(list(poses())))
def test_places_stay_on_the_skin_and_mirrored_and_lead_back(pose):
    for build in ("short and stout", "tall and thin"):
        body = body_of(BUILDS[build])
        stance = posed(body.figure, pose)
        assert stance.skin[:, 1].min() == pytest.approx(0), "it stands or lies on the floor"
        placed = place_all(body)
        before = np.array([one.position for one in placed])
        after = stance.places(before)
        skin = NearestSkin(stance.skin, body.figure.asset.triangles)
        off = np.linalg.norm(skin.nearest(after)[0] - after, axis=1)
        assert off.max() < 0.25, f"{placed[int(off.argmax())].entry.id} is {off.max():.2f} cm off the skin"
        for i in range(0, len(placed), 97):
            assert np.linalg.norm(stance.back(after[i]) - before[i]) < 0.3, placed[i].entry.id
        if stance.pose.lie is None and pose != "head_turned":
            at = {(one.entry.id, one.side): place for one, place in zip(placed, after, strict=True)}
            for id in ("ST36", "PC6", "LI11", "foot_kidney", "SP10"):
                assert np.allclose(at[id, "left"] * [-1, 1, 1], at[id, "right"], atol=0.1), id


def test_a_turned_limb_keeps_its_measures(body):
    found = in_pose(locate(catalogue.points()["PC6"], "left", body), posed(body.figure, "palm_up"))
    for id, pose, least in (("TE8", "elbow_bent", 10), ("SP6", "seated", 20)):
        plain = locate(catalogue.points()[id], "left", body)
        turned = in_pose(plain, posed(body.figure, pose))
        assert np.linalg.norm(np.array(turned.position_cm) - plain.position_cm) > least, "it has moved"
        # Down to wrist or ankle nothing bends; at the fold of a bent elbow the skin itself is shorter.
        away = [np.linalg.norm(np.array(one.position_cm) - one.segment.path_cm[-1]) for one in (plain, turned)]
        assert away[1] == pytest.approx(away[0], rel=0.03)
        assert turned.level_cun == plain.level_cun
        assert turned.uncertainty_cm == plain.uncertainty_cm
    assert found.normal[1] + found.normal[2] > 0.6, "the inner forearm faces up and forward"


def test_poses_do_what_they_are_called(body):
    palm = body.places.landmark("metacarpal_3_head", "left")
    palmar = frame_of(body.figure, "hand", "left")["palmar"]
    assert posed(body.figure, "palm_up").directions(palm[None], palmar[None])[0][1] > 0.5
    belly = body.places.landmark("umbilicus_center", "left")
    forward = np.array([[0.0, 0.0, 1.0]])
    for pose, up in (("supine", 1), ("prone", -1)):
        assert posed(body.figure, pose).directions(belly[None], forward)[0][1] * up > 0.9, pose
    sole = body.places.landmark("heel_sole_center", "left")
    faces = posed(body.figure, "foot_up").directions(sole[None], np.array([[0.0, -1.0, 0.0]]))[0]
    assert faces[2] > 0.9, "the sole faces who sits before it"
    knee, hip = (body.figure.joint(name, "left") for name in ("knee", "upper-leg"))
    seated = posed(body.figure, "seated").places(np.array([knee, hip]))
    assert abs(seated[0][1] - seated[1][1]) < 0.2 * np.linalg.norm(knee - hip), "the thigh lies level"


@pytest.mark.parametrize(
    ("id", "pose", "way"),
    [
        ("CV23", "chin_up", [0, 0, 1]),  # under the chin, from before
        ("HT1", "arm_up", [1, 0, 0.6]),  # the armpit, from the side
        ("GB22", "arm_up", [1, 0, 0.3]),
        ("LR9", "leg_out", [0.2, 0, 1]),  # the inner thigh, from before
        ("LR11", "leg_out", [0, 0, 1]),
        ("foot_kidney", "foot_up", [0, 0, 1]),  # the sole, from before
    ],
)
@pytest.mark.parametrize("name", some(["average", "tall and thin", "old and small", "pregnant", "man"]))
def test_a_folded_figure_shows_what_is_asked_for(name, id, pose, way):
    """From where one would look, nothing of the body stands before the place, and the skin there faces the eye.

    On stout builds the base mesh folds arm and chest into one another, so that an armpit cannot be opened.
    """
    entry = catalogue.entry(id)
    assert pose_for(entry.site) == pose
    body, eye = body_of(TWELVE[name]), np.array(way) / np.linalg.norm(way)
    stance = posed(body.figure, pose)
    (left, *_) = place_one(entry, body)
    at = stance.places(left.position[None])[0]
    facing = stance.directions(left.position[None], left.normal[None])[0]
    assert facing @ eye > 0.15, f"{id} faces away"
    start = at + 0.6 * facing + 0.4 * eye
    corners = stance.skin[body.figure.asset.triangles]
    assert not _meets(start, eye, corners), f"something stands before {id}"


def _meets(start, way, corners):
    """Whether a ray meets any of triangles (t, 3, 3) (Möller and Trumbore)."""
    first, second = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    across = np.cross(way, second)
    inverse = 1 / np.where(np.abs((first * across).sum(axis=1)) < 1e-12, np.inf, (first * across).sum(axis=1))
    away = start - corners[:, 0]
    u = (away * across).sum(axis=1) * inverse
    other = np.cross(away, first)
    v = (way * other).sum(axis=1) * inverse
    return bool(((u >= 0) & (v >= 0) & (u + v <= 1) & ((second * other).sum(axis=1) * inverse > 1e-6)).any())


def test_every_place_has_a_pose_to_be_shown_in():
    sites = set(catalogue.sites())
    for pose in poses().values():
        assert set(pose.sites) <= sites, pose.id
    assert pose_for("sole") == "foot_up"
    assert pose_for("chest") == "standing"
    with pytest.raises(UnknownId, match="no pose 'handstand'"):
        posed(body_of(BUILDS["average"]).figure, "handstand")
