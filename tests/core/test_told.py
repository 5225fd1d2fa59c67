"""A dose told in words: what the application says can be said back to it, and what it does not understand it names."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.compose.knowledge.dose import (
    Breaths,
    Circles,
    Compound,
    Glide,
    Hold,
    Pulse,
    Pumps,
    Rubs,
    Sets,
    Until,
    Walk,
    dose_in_words,
    duration_s,
    slides,
    stretched,
    whole_s,
    within,
)
from acuthesis.core.compose.knowledge.dose_text import read_dose
from acuthesis.core.errors import CoreError

COUNT = st.integers(2, 20)
SECONDS = st.integers(3, 60)
SIMPLE = st.one_of(
    st.builds(Hold, seconds=SECONDS),
    st.builds(Pulse, on_s=SECONDS, off_s=SECONDS, cycles=COUNT),
    st.builds(Circles, each_way=COUNT),
    st.builds(Breaths, count=COUNT, per_minute=st.integers(4, 20)),
    st.builds(Glide, strokes=COUNT, seconds_each=st.integers(1, 9)),
    st.builds(Walk, passes=COUNT),
    st.builds(Sets, sets=COUNT, count=COUNT, seconds_each=st.integers(1, 5), release_s=st.integers(1, 9)),
    st.builds(Pumps, count=COUNT),
    st.builds(Rubs, count=COUNT),
    st.builds(Until, sign=st.sampled_from(["eases", "pulse", "letting_go", "warm"]), cap_s=st.integers(20, 300)),
)


@given(st.lists(SIMPLE, min_size=1, max_size=3), st.integers(1, 3), st.booleans())
def test_what_is_said_of_a_dose_means_that_dose(parts, rounds, together):
    try:
        whole = Compound(parts=tuple(parts), rounds=rounds) if len(parts) > 1 or rounds > 1 else parts[0]
    except ValueError:
        return  # longer than any
    dose = whole.model_copy(update={"together": together})
    assert read_dose(dose_in_words(dose)) == dose


@given(st.lists(SIMPLE, min_size=2, max_size=4), st.integers(30, 300))
def test_a_compound_dose_is_as_long_as_its_parts(parts, most):
    try:
        dose = Compound(parts=tuple(parts))
    except ValueError:
        return
    assert duration_s(dose) == pytest.approx(sum(duration_s(part) for part in parts))
    assert whole_s(dose, "both") == pytest.approx(2 * duration_s(dose))
    assert slides(dose) == any(part.form in ("glide", "walk", "rubs") for part in parts)
    assert duration_s(within(dose, most)) <= most
    long = stretched(dose, most)
    assert abs(duration_s(long) - most) <= duration_s(dose) or long.rounds == 20, "no more rounds than can be said"


@pytest.mark.parametrize(
    ("text", "words", "seconds"),
    [
        ("8 on 2 off for three minutes", "18 times 8 s on, 2 s off", 180),
        (
            "six circles each way, then four pumps, then a sweep",
            "6 circles each way, then 4 pumps, then 1 stroke of 3 s",
            27,
        ),
        ("Hold for a minute and a half.", "hold 90 s", 90),
        ("until it eases, at most two minutes", "until soreness eases, 120 s at most", 120),
        (
            "5 seconds on, 3 seconds off, 6 times, both sides together",
            "6 times 5 s on, 3 s off, both sides together",
            48,
        ),
        ("10 s, then 4 circles, three rounds", "3 rounds of: hold 10 s, then 4 circles each way", 66),
    ],
)
def test_a_practitioners_own_words_are_understood(text, words, seconds):
    dose = read_dose(text)
    assert (dose_in_words(dose), duration_s(dose)) == (words, seconds)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("hug it", "“hug it” was not understood"),
        ("45 s, then hug it", "“hug it” was not understood"),
        ("hold 900 s", "seconds"),
        ("2.5 circles", "a whole number"),
        ("   ", "Enter how to press"),
    ],
)
def test_what_is_not_understood_is_named(text, says):
    with pytest.raises(CoreError, match=says) as refused:
        read_dose(text)
    assert refused.value.where == "text"
