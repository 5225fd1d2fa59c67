"""Ideas of a file each that others stand on: practice at home, how somebody is laid, a dose fitted to a person."""

from datetime import date, timedelta
from typing import get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.atlas.entries.model import Position
from acuthesis.core.compose.choose.one_stop import stop_for
from acuthesis.core.compose.knowledge.dose import Hold, dose_defaults, duration_s, slides
from acuthesis.core.compose.knowledge.school import schools
from acuthesis.core.compose.knowledge.technique import techniques
from acuthesis.core.compose.score.adapting import AS_LIGHT, HELD, adapted
from acuthesis.core.compose.score.settling import LOOK_AT_SKIN, settled, turning
from acuthesis.core.errors import CoreError, NotAllowed
from acuthesis.core.follow.home_practice import LATELY_WEEKS, WEEK, Practised, home_practice
from acuthesis.core.safety.limits import Limits
from acuthesis.core.safety.screening import parse_screening
from tests.saying import said

TODAY = date(2026, 11, 27)
PLAIN = parse_screening({})
SCHOOL = schools()["channel_acupressure"]


@given(st.lists(st.tuples(st.integers(0, 60), st.none() | st.floats(0, 90)), max_size=40))
def test_practice_at_home_counts_days_once_and_nothing_older_than_four_weeks(told):
    entries = [Practised(on=TODAY - timedelta(days=back), minutes=minutes) for back, minutes in told]
    found = home_practice(entries, TODAY)
    weeks = len(found.days_a_week)
    assert 1 <= weeks <= LATELY_WEEKS and len(found.minutes_a_week) == weeks
    lately = [one for one in entries if TODAY - timedelta(days=weeks * WEEK) < one.on <= TODAY]
    assert sum(found.days_a_week) == len({one.on for one in lately})
    assert sum(found.minutes_a_week) == pytest.approx(sum(one.minutes or 0 for one in lately), abs=0.3)
    assert all(days <= WEEK for days in found.days_a_week) and found.entries == len(entries)
    assert ("No home pressing recorded" in said(found.sentence)) == (entries == [])


def test_home_practice_begins_when_it_was_agreed():
    agreed = TODAY - timedelta(days=16)
    found = home_practice([Practised(on=TODAY, minutes=5)], TODAY, first=agreed)
    assert found.days_a_week == [0, 0, 1] and "1 of the last 21 days" in said(found.sentence)


@pytest.mark.parametrize("position", get_args(Position))
def test_every_position_says_how_somebody_comes_to_lie_in_it(position):
    assert settled(position, {"foot"}, alone=False).endswith(".")
    ways = {before: turning(before, position) for before in get_args(Position) if before != position}
    assert all(turning(before, position, numb=True) == f"{words} {LOOK_AT_SKIN}" for before, words in ways.items())
    for before, words in ways.items():
        from_seat, to_seat = before in ("seated", "leaning"), position in ("seated", "leaning")
        assert (
            ("onto their" in words or "face down" in words or "backrest" in words or from_seat) if not to_seat else True
        ), words
        assert "sit up" not in words or not from_seat, "nobody sits up who sits"
        assert ("dizzy" in words) == ((to_seat and position != "leaning") or (to_seat and not from_seat)), words
        assert ("Lower the backrest" in words) == (before == "half_reclined" and not to_seat), words


def test_who_is_seated_sits_for_what_is_worked_on():
    assert "edge of the couch" in settled("seated", {"lower_leg"}, alone=False)
    assert "back free" in settled("seated", {"trunk"}, alone=False)
    assert "chair" in settled("seated", {"foot"}, alone=True)


def limits(**more):
    return Limits(**{"ceiling_reasons": (), "cautions": (), **more})


@pytest.mark.parametrize("name", sorted(dose_defaults()))
def test_no_usual_dose_is_fitted_above_a_ceiling_or_slides_where_nothing_may(name):
    default = dose_defaults()[name]
    for ceiling in range(1, 6):
        free = adapted(default, "both", limits(ceiling=ceiling))
        assert 1 <= free.level <= ceiling
        careful = adapted(default, "left", limits(ceiling=ceiling, no_glide=True))
        assert careful.level <= ceiling and not careful.dose.together
        assert not slides(careful.dose) or careful.level == 1
        if careful.why == (HELD,):
            assert isinstance(careful.dose, Hold)
            assert duration_s(careful.dose) == pytest.approx(duration_s(default.dose), rel=0.02)
        moved = adapted(default, "left", limits(ceiling=ceiling, no_glide=True), moves=True)
        assert type(moved.dose) is type(default.dose), "a stroke cannot become a hold"
        assert moved.why in ((), (AS_LIGHT,))


def test_one_stop_by_hand_keeps_the_position_of_the_score_and_finds_a_key_of_its_own():
    first = stop_for("SP6", "left", PLAIN, SCHOOL, ["seated"], [])
    again = stop_for("SP6", "left", PLAIN, SCHOOL, ["seated"], [first.key])
    assert (first.position, first.side, first.key, again.key) == ("seated", "left", "SP6-1", "SP6-2")
    assert stop_for("GV20", "left", PLAIN, SCHOOL, [], []).side == "midline"
    stroke = next(one for one in techniques().values() if one.side == "both")
    assert stop_for(stroke.id, None, PLAIN, SCHOOL, [], []).kind == stroke.kind


def test_one_stop_by_hand_is_refused_with_its_reason():
    expecting = parse_screening({"pregnancy_weeks": 20})
    with pytest.raises(NotAllowed, match=r"SP6: .*pregnancy"):
        stop_for("SP6", "left", expecting, SCHOOL, [], [])
    with pytest.raises(CoreError, match="SP99"):
        stop_for("SP99", "left", PLAIN, SCHOOL, [], [])
