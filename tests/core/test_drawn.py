"""Plates and sheets: everything that is asked for is drawn, once, where it lies, with names that can be read."""

import re
from collections import Counter
from itertools import combinations

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.atlas.drawing.naming import spread, width_of
from acuthesis.core.atlas.drawing.plate import plate
from acuthesis.core.atlas.drawing.plates import plates
from acuthesis.core.atlas.drawing.sheet import sheet_on, sheets, traditions
from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.entries.groups import GROUPS, group_of
from acuthesis.core.atlas.locating.locate import locate
from acuthesis.core.atlas.locating.placed import place_one
from acuthesis.core.errors import UnknownId
from tests.tiers import some

from .conftest import BUILDS, body_of


@given(st.lists(st.floats(0, 30), min_size=1, max_size=20).map(sorted))
def test_names_at_the_edge_are_pushed_apart_and_keep_their_order(heights):
    placed = spread(np.array(heights), 1.2, 0.0, 30.0)
    assert (np.diff(placed) >= 1.2 - 1e-9).all()
    assert placed[0] >= 0 and placed[-1] <= 30.0 + 1e-9
    assert len(placed) == len(heights)
    # Alone, or with room around it, a name stays level with what it names.
    if len(heights) == 1:
        assert placed[0] == pytest.approx(heights[0])


@pytest.mark.parametrize("group", some(["HT", "KI", "foot2", "hand"]))
def test_every_point_of_a_group_is_on_one_plate(group):
    body = body_of(BUILDS["short and stout"])
    chosen = [entry for entry in catalogue.entries() if group_of(entry) == group]
    drawn = plates([place_one(entry, body)[0] for entry in chosen], body)
    assert Counter(id for one in drawn for id in one.ids) == Counter(entry.id for entry in chosen)
    for one in drawn:
        assert one.svg.count("<circle") == len(one.ids)
        width = float(re.search(r'viewBox="0 0 ([\d.]+)', one.svg).group(1))
        for x, y in re.findall(r'<circle cx="([-\d.]+)" cy="([-\d.]+)"', one.svg):
            assert 0 <= float(x) <= width
            assert 0 <= float(y) <= width
        assert one.title.split(",")[0] in (
            "Head",
            "Trunk",
            "Upper arm",
            "Forearm",
            "Hand",
            "Thigh",
            "Lower leg",
            "Foot",
        )


def test_every_entry_belongs_to_a_group_that_is_offered():
    used = Counter(group_of(entry) for entry in catalogue.entries())
    assert set(used) == set(GROUPS) - {"own"}
    assert used["BL"] == 67
    assert used["ribs"] == 17
    assert used["ear2"] >= 20


def test_the_arrow_of_pressure_is_drawn_where_it_shows():
    body = body_of(BUILDS["average"])
    sideways = locate(catalogue.points()["SP9"], "left", body)
    straight = locate(catalogue.points()["BL23"], "left", body)
    assert 'class="press"' in plate(sideways, "lower_leg", body)
    assert 'class="press"' not in plate(straight, "trunk", body)


@pytest.mark.parametrize("id", some(["ear", "sole", "palm", "face", "scalp_top"]))
def test_a_sheet_shows_its_areas_on_both_sides_alike(id):
    body = body_of(BUILDS["old and small"])
    left, right = (sheet_on(id, "first", side, body) for side in ("left", "right"))
    assert left.width_cm == pytest.approx(right.width_cm, abs=0.15)
    shared = {area.id: area for area in left.areas}
    sums = []
    for area in right.areas:
        twin = shared.get(area.id)
        if twin is None:
            assert catalogue.areas()[area.id].only == "right"
            continue
        assert area.size_cm2 == pytest.approx(twin.size_cm2, rel=0.01)
        if catalogue.areas()[area.id].paired:
            sums.append(area.middle[0] + twin.middle[0])
        assert area.middle[1] == pytest.approx(twin.middle[1], abs=0.4)
    assert np.ptp(sums) < 0.4, "mirrored about one line"
    assert left.body.count("<path") >= 3


@pytest.mark.parametrize("build", some(["short and stout", "tall and thin"]))
@pytest.mark.parametrize("id", some(list(sheets())))
def test_names_on_sheets_do_not_cover_one_another(id, build):
    for tradition in traditions(sheets()[id]):
        sheet = sheet_on(id, tradition, "left", body_of(BUILDS[build]))
        letter, boxes = sheet.letter_cm, {}
        for area in sheet.areas:
            wide = width_of(area.label, letter)
            x = area.label_at[0] - {"start": 0, "middle": wide / 2, "end": wide}[area.anchor]
            boxes[area.id] = shapely.box(
                x, area.label_at[1] - 0.84 * letter, x + wide, area.label_at[1] + 0.16 * letter
            )
            assert sheet.left_cm <= x and x + wide <= sheet.left_cm + sheet.width_cm, f"{area.label} is in the picture"
            assert (area.leader is None) == (area.anchor == "middle")
            if area.anchor == "middle":
                inside = shapely.Polygon(area.outline).buffer(0).intersection(boxes[area.id]).area
                assert inside > 0.95 * boxes[area.id].area, f"{area.id}: its name is within it"
            else:
                assert area.leader[1] == area.middle, "a line leads to what is named"
        for (one, box), (other, another) in combinations(boxes.items(), 2):
            assert box.intersection(another).area < 1e-3 * letter**2, f"{one} and {other}"
        order = sorted((area for area in sheet.areas if area.anchor == "start"), key=lambda area: area.label_at[1])
        gone = [area.middle[1] for area in order]
        assert gone == sorted(gone), "names stand in the order of what they name"


def test_every_area_is_on_a_sheet_and_differences_go_both_ways():
    body = body_of(BUILDS["average"])
    shown: dict = {}
    for id, sheet in sheets().items():
        for tradition in traditions(sheet):
            # Only feet and hands have areas on one side alone, such as the liver's.
            for side in ("left", "right") if id in ("sole", "palm") else ("left",):
                shown |= {area.id: area for area in sheet_on(id, tradition, side, body).areas}
    assert set(shown) == set(catalogue.areas())
    for id, area in catalogue.areas().items():
        if area.answers is None:
            continue
        other = shown[area.answers]
        if (
            shown[id].elsewhere is not None
            and len([a for a in catalogue.areas().values() if a.answers == other.id]) == 1
        ):
            assert other.elsewhere is not None, f"{id} lies elsewhere than {other.id}, and so the other way round"
        assert not other.alone
    with pytest.raises(UnknownId, match="no sheet 'moon'"):
        sheet_on("moon", "first", "left", body)
