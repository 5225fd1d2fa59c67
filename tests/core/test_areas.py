"""Areas of ear, foot, hand, face and scalp: they tile, keep to their part and to their neighbours, on every build.

Source of neighbours and orders: the standardised divisions of the ear, general reflex teaching, surface anatomy.
"""

import dataclasses
from collections import defaultdict
from itertools import combinations

import igl
import numpy as np
import pytest
import shapely

from acuthesis.core.atlas.areas.baked import drawing
from acuthesis.core.atlas.areas.chart import draw
from acuthesis.core.atlas.areas.grid import ground
from acuthesis.core.atlas.areas.on_body import areas_on_body, filled
from acuthesis.core.atlas.areas.walk import walk
from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.entries.model import Area
from acuthesis.core.atlas.locating.placed import place_all
from acuthesis.core.body.asset import load_asset
from acuthesis.core.body.features import feature_lines
from acuthesis.core.body.person import BodyFacts
from acuthesis.core.errors import CoreError
from acuthesis.settings import settings

from .conftest import body_of

AREAS = catalogue.areas()


def asset():
    return load_asset(settings().body_asset)


EAR_EDGE = ["rim_edge", "lobe_back", "lobe_edge", "lobe_front", "flap_front"]
# Areas that lie against one another in the standard's divisions, ridge by ridge and hollow by hollow.
NEIGHBOURS = """
HX2 HX3, HX3 HX4, HX4 HX5, HX5 HX6, HX6 HX7, HX7 HX8, HX8 HX9, HX9 HX10, HX10 HX11, HX11 HX12, HX1 HX2, HX1 CO1, HX1
CO3, HX1 CO5, HX1 CO7, SF1 SF2, SF2 SF3, SF3 SF45, SF45 SF6, SF1 HX8, SF6 HX12, AH1 AH2, AH1 AH3, AH2 AH3, AH3 AH4,
AH4 AH5, AH5 AH9, AH6a AH6, AH6 AH7, AH7 AH9, AH8 AH9, AH8 AH10, AH9 AH11, AH10 AH11, AH10 AH12, AH11 AH13, AH12 AH13,
AH4 SF2, TF1 TF2, TF1 TF3, TF2 TF3, TF3 TF4, TF3 TF5, TF4 TF5, TF4 AH5, TF5 AH7, TF1 HX5, TG1 TG2, TG1 TG3, TG2 TG4,
TG3 TG4, AT1 AT2, AT2 AT3, AT1 AT4, AT2 AT4, AT3 AT4, AT3 AH13, AT4 AH12, CO1 CO2, CO2 CO3, CO3 CO4, CO4 CO5, CO5 CO6,
CO6 CO7, CO7 CO8, CO8 CO9, CO9 CO10, CO10 CO11, CO11 CO12, CO12 CO13, CO13 CO14, CO14 CO15, CO15 CO16, CO16 CO17, CO17
CO18, CO9 AH6, CO10 AH7, CO11 AH8, CO14 AT4, CO18 AT4, LO1 LO2, LO2 LO3, LO4 LO5, LO5 LO6, LO7 LO8, LO8 LO9, LO1 LO4,
LO4 LO7, LO2 LO5, LO5 LO8, LO3 LO6, LO6 LO9, LO1 TG2, LO2 AT1, LO3 HX12
"""
# From toes or finger tips (or chin) on: each of a row lies nearer the heel (wrist, hairline) than the one before it.
ORDERS = """
foot_brain foot_head foot_neck foot_thyroid foot_diaphragm foot_stomach foot_pancreas foot_duodenum foot_bladder
foot_sciatic foot_pelvis;
foot_sinus_3 foot_eye foot_lung foot_solar_plexus foot_kidney foot_ureter foot_bladder;
foot_ear foot_shoulder foot_liver foot_colon_across foot_colon_up foot_appendix foot_sciatic;
foot_spine_neck foot_spine_thoracic foot_spine_lumbar foot_sacrum foot_coccyx;
foot_upper_arm foot_elbow foot_hip_knee foot_ovary_testis;
foot_teeth foot_face foot_upper_lymph foot_breast foot_ribs foot_groin_lymph;
foot2_forehead foot2_head foot2_temple foot2_thyroid foot2_stomach foot2_pancreas foot2_duodenum foot2_rectum
foot2_sleep foot2_gonads_heel;
foot2_trapezius foot2_lung foot2_heart foot2_spleen foot2_colon_across foot2_colon_down foot2_rectum;
foot2_spine_neck foot2_spine_thoracic foot2_spine_lumbar foot2_sacrum foot2_coccyx;
foot2_shoulder_joint foot2_arm foot2_elbow foot2_knee foot2_coccyx_outer;
hand_sinus_3 hand_eye hand_lung hand_stomach hand_pancreas hand_kidney hand_colon_across
hand_small_intestine hand_pelvis;
"""
UPWARD = """
face_chin_middle face_lip_groove_lower face_upper_lip_middle face_nose_tip face_nose_bridge face_nose_root
face_between_brows face_forehead_middle face_hairline_middle;
face_chin_side face_lower_lip_side face_upper_lip_side face_nose_wing face_cheek_inner face_eye_rim_lower
face_eye_rim_upper face_brow_outer face_forehead_side;
face_jaw_edge_back face_jaw_muscle face_cheek_arch face_temple;
"""


def rows(text):
    return [line.split() for line in text.split(";") if line.strip()]


def shape_of(id):
    return drawing(asset(), AREAS[id]).shape


def tiles(surface):
    return [area for area in AREAS.values() if (area.surface, area.map) == (surface, "standard") and not area.over]


@pytest.mark.parametrize("surface", ["ear", "ear_back"])
def test_the_ear_is_tiled_exactly(surface):
    shapes = [drawing(asset(), area).shape for area in tiles(surface)]
    whole = shapely.union_all(shapes)
    assert whole.geom_type == "Polygon", "in one piece"
    assert sum(shape.area for shape in shapes) - whole.area < 1e-5 * whole.area, "no two overlap"
    assert sum(shapely.Polygon(ring).area for ring in whole.interiors) < 1e-5 * whole.area, "and there is no gap"
    if surface == "ear":
        lines = ground(asset(), "ear").lines
        for name in EAR_EDGE:
            apart = [whole.exterior.distance(shapely.Point(place)) for place in lines[name].places]
            assert max(apart) < 0.05, f"{name} is the edge of the outermost areas"


def test_neighbours_of_the_ear_touch_one_another():
    for pair in NEIGHBOURS.replace("\n", " ").split(","):
        one, other = (shape_of(f"ear_{name}") for name in pair.split())
        shared = one.boundary.intersection(other.boundary.buffer(1e-4)).length
        assert shared > 0.03, f"{pair} have no border in common"


def test_small_areas_lie_on_those_they_are_laid_over():
    for area in AREAS.values():
        if area.over:
            under = shapely.union_all([shape_of(name) for name in area.over])
            shape = shape_of(area.id)
            assert under.intersection(shape).area > 0.5 * shape.area, f"{area.id} slips off {', '.join(area.over)}"


def test_areas_of_one_map_do_not_overlap():
    maps = defaultdict(list)
    for area in AREAS.values():
        if not area.over and (area.surface, area.map) != ("ear", "second"):  # which lays points into areas
            maps[area.surface, area.map].append(area)
    for members in maps.values():
        for one, other in combinations(members, 2):
            on_its_way = other.id in one.crosses or one.id in other.crosses
            if {one.only, other.only} != {"left", "right"} and not on_its_way:
                shared = shape_of(one.id).intersection(shape_of(other.id)).area
                assert shared < 1e-3, f"{one.id} and {other.id} share {shared:.4f}"


def test_areas_follow_one_another_as_they_are_taught(build):
    places = {one.entry.id: one.position for one in place_all(build) if one.side in (one.entry.only, "left")}
    figure = build.figure
    foot = figure.joint("ankle", "left") - figure.joint("toe-2-1", "left")
    hand = figure.joint("hand", "left") - figure.joint("finger-3-1", "left")
    for table, way in ((ORDERS, None), (UPWARD, np.array([0, 1.0, 0]))):
        for row in rows(table):
            axis = way if way is not None else hand if row[0].startswith("hand") else foot * [1, 0, 1]
            mirrored = [places[id] * ([-1, 1, 1] if AREAS[id].only == "right" else 1) for id in row]
            gone = [place @ axis / np.linalg.norm(axis) for place in mirrored]
            for first, second, near, far in zip(row, row[1:], gone, gone[1:], strict=False):
                assert far - near > 0.15, f"{second} comes after {first}"


def test_areas_keep_to_their_part_on_every_build(build):
    figure = build.figure
    everything = {
        one.entry.id: one
        for one in place_all(build)
        if one.side in (one.entry.only, "left") and one.outline is not None
    }
    assert set(everything) == set(AREAS)
    for id, one in everything.items():
        area = AREAS[id]
        mirror = [-1, 1, 1] if one.side == "right" else [1, 1, 1]
        outline = one.outline * mirror
        part = catalogue.surfaces()[area.surface].part
        reach = np.linalg.norm(outline - one.position * mirror, axis=1).max()
        assert reach < (3.2 if area.surface.startswith("ear") else 11), f"{id} jumps to another part"
        if part == "foot":
            assert outline[:, 1].max() < figure.joint("ankle", "left")[1] + 5, f"{id} leaves the foot"
            assert outline[:, 0].min() > 0, id
        if part == "hand":
            assert outline[:, 0].min() > figure.joint("pelvis", "left")[0] + 8, f"{id} leaves the hand"
        if area.surface.startswith("ear"):
            middle = (build.places.landmark("ear_apex", "left") + build.places.landmark("earlobe_base", "left")) / 2
            assert np.linalg.norm(outline - middle, axis=1).max() < 0.75 * figure.height_cm / 24, f"{id} leaves the ear"
        nearest, _ = figure.nearest_on_skin(one.position)
        assert np.linalg.norm(nearest - one.position) < 0.02, f"{id} is off the skin"


def test_fills_end_at_their_outlines_and_sizes_are_theirs(build):
    some = [AREAS[id] for id in ("ear_CO15", "ear_AH9", "foot_liver", "foot_diaphragm", "hand_lung", "face_temple")]
    for area, drawn in zip(some, areas_on_body(some, build.places), strict=True):
        fill = filled(area, build.places)
        sizes = np.linalg.norm(np.cross(fill[:, 1] - fill[:, 0], fill[:, 2] - fill[:, 0]), axis=1) / 2
        assert sizes.sum() == pytest.approx(drawn.size_cm2, rel=0.01)
        corners = fill.reshape(-1, 3)
        for place in drawn.outline[::7]:
            assert np.linalg.norm(corners - place, axis=1).min() < 0.45, area.id


@pytest.mark.parametrize("facts", [BodyFacts(), BodyFacts(sex="male", age=70, height_cm=190, weight_kg=110)])
def test_a_pass_goes_along_an_area_from_end_to_end_over_its_skin(facts):
    body = body_of(facts)
    for area in AREAS.values():
        fill = filled(area, body.places)
        way, corners = walk(fill, body.figure), fill.reshape(-1, 3)
        skin = np.concatenate([corners, fill.mean(axis=1)])
        length = float(np.linalg.norm(way[-1] - way[0]))
        away = max(float(np.linalg.norm(skin - place, axis=1).min()) for place in way)
        extent = float(np.linalg.norm(np.ptp(corners, axis=0)))
        assert away < 0.6 + 0.1 * extent, f"{area.id}: {away:.1f} cm beside the area"
        forward = np.diff((way - way[0]) @ (way[-1] - way[0])) / max(length, 1e-6)
        assert forward.min() > -0.15 * length, f"{area.id}: it turns back"
        assert length > 0.5 * extent, f"{area.id}: {length:.1f} cm of {extent:.1f}"
        rise = way[-1, 1] - way[0, 1]
        assert rise > -1.0, f"{area.id} goes down"


@pytest.mark.parametrize("facts", [BodyFacts(), BodyFacts(sex="male", age=70, height_cm=190, weight_kg=110)])
def test_feature_lines_run_where_the_curvature_says(facts):
    body = body_of(facts)
    _, _, first, second, _ = igl.principal_curvature(body.figure.skin, asset().triangles.astype(np.int64), radius=3)
    most, least = np.maximum(first, second), np.minimum(first, second)
    for line in feature_lines().values():
        on = ground(asset(), line.surface)
        marked = on.flat.mark(on.lines[line.id].places)
        bent_out, bent_in = ((values[marked.corners] * marked.weights).sum(axis=1) for values in (most, least))
        if line.kind == "crest":
            assert np.median(bent_out) > 1.4 and np.mean(bent_out + bent_in > 0) > 0.7, line.id
        if line.kind == "valley":
            assert np.median(bent_in) < -1 and np.mean(bent_out + bent_in < 0) > 0.7, line.id


def test_areas_of_the_face_keep_off_eye_and_lips():
    lines = ground(asset(), "face").lines
    eye, lips = (
        shapely.Polygon([*lines[upper].places, *lines[lower].places[::-1]])
        for upper, lower in (("upper_lid", "lower_lid"), ("upper_lip", "lower_lip"))
    )
    for area in AREAS.values():
        if area.surface == "face":
            assert shape_of(area.id).intersection(eye).area < 0.02, f"{area.id} lies on the eye"
            if area.id != "face_mouth_corner":
                assert shape_of(area.id).intersection(lips).area < 0.1, f"{area.id} lies on the lips"
    wing = shapely.LineString(lines["nose_wing"].places)
    assert shape_of("face_nose_wing").distance(wing) < 0.5, "beside the groove around the wing"


def test_an_area_that_leaves_its_surface_is_refused_by_name():
    plain = AREAS["foot_lung"].model_dump(by_alias=True)
    off = Area.model_validate({**plain, "id": "own_off", "polygon": [(1.1, 3.0), (1.1, 3.5), (1.2, 3.5)]})
    with pytest.raises(CoreError, match="own_off: the outline leaves the surface"):
        drawing(asset(), off)
    lost = Area.model_validate({**plain, "id": "own_lost", "grid": "moon"})
    with pytest.raises(CoreError, match="own_lost: the sole has no grid 'moon'"):
        drawing(asset(), lost)


def test_an_area_is_the_same_stored_with_the_asset_and_drawn_now(asset):
    for area in list(AREAS.values())[::11]:
        stored, drawn = drawing(asset, area), draw(asset, area)
        assert stored is not drawn
        assert shapely.equals(stored.shape, drawn.shape)
        for one, other in ((stored.outline, drawn.outline), (stored.middle, drawn.middle), (stored.fill, drawn.fill)):
            assert np.array_equal(one.corners, other.corners) and np.array_equal(one.weights, other.weights)
        assert all(map(np.array_equal, stored.covers, drawn.covers))


def test_areas_stored_for_other_data_are_not_believed(asset):
    older = dataclasses.replace(asset, charts={**asset.charts, "key": np.array("of other data")})
    area = next(iter(AREAS.values()))
    assert drawing(older, area) is draw(older, area)
