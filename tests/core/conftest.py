"""Builds of bodies for the core's tests: drawn by hypothesis, fitted once each."""

from functools import lru_cache

import pytest
from hypothesis import strategies as st

from acuthesis.core.atlas.locating.placed import place_all
from acuthesis.core.body.asset import load_asset
from acuthesis.core.body.fit import FittedBody, fit
from acuthesis.core.body.person import BodyFacts
from acuthesis.core.safety.reach import OnBody
from acuthesis.settings import settings as app_settings
from tests.tiers import some

BUILDS = {
    "average": BodyFacts(),
    "short and stout": BodyFacts(sex="male", age=61, height_cm=158, weight_kg=88, measures_cm={"forearm": 22.5}),
    "tall and thin": BodyFacts(
        sex="female", age=24, height_cm=184, weight_kg=58, measures_cm={"lower_leg_inner": 39.5, "forearm": 27.5}
    ),
    "old and small": BodyFacts(sex="female", age=83, height_cm=149, weight_kg=47),
    "long legs": BodyFacts(
        sex="male", height_cm=176, weight_kg=75, measures_cm={"lower_leg_outer": 47.5, "foot_length": 28}
    ),
}
# Twelve builds on which the standard is held to: those above, and others that its equalities are hard on.
TWELVE = {
    **BUILDS,
    "short legs": BodyFacts(
        sex="female", age=45, height_cm=168, weight_kg=70, measures_cm={"lower_leg_outer": 38, "thigh_front": 34}
    ),
    "pregnant": BodyFacts(sex="female", age=31, height_cm=167, weight_kg=78, measures_cm={"waist_girth": 104}),
    "tall and heavy": BodyFacts(sex="male", age=40, height_cm=192, weight_kg=120),
    "woman": BodyFacts(sex="female", age=38, height_cm=165, weight_kg=64),
    "man": BodyFacts(sex="male", age=38, height_cm=178, weight_kg=80),
    "young and small": BodyFacts(sex="female", age=16, height_cm=150, weight_kg=44),
    "old and stout": BodyFacts(sex="female", age=75, height_cm=156, weight_kg=92),
}


@lru_cache(maxsize=64)
def fitted(facts_json: str) -> FittedBody:
    return fit(load_asset(app_settings().body_asset), BodyFacts.model_validate_json(facts_json))


def body_of(facts: BodyFacts) -> FittedBody:
    return fitted(facts.model_dump_json())


@pytest.fixture(params=some(list(BUILDS)))
def body(request) -> FittedBody:
    """Five fitted builds, one after the other."""
    return body_of(BUILDS[request.param])


@pytest.fixture(params=some(list(TWELVE)))
def build(request) -> FittedBody:
    """Twelve fitted builds, one after the other."""
    return body_of(TWELVE[request.param])


@st.composite
def people(draw) -> BodyFacts:
    """Adults of believable proportions, with some of their lengths measured."""
    height = draw(st.integers(148, 196))
    shares = {"forearm": (0.138, 0.158), "lower_leg_inner": (0.198, 0.216), "thigh_front": (0.215, 0.245)}
    measured = {
        name: round(height * draw(st.floats(low, high)), 1)
        for name, (low, high) in shares.items()
        if draw(st.booleans())
    }
    weight = draw(st.none() | st.floats(19, 32).map(lambda bmi: round(bmi * (height / 100) ** 2)))
    return BodyFacts(
        sex=draw(st.sampled_from(["female", "male", "unspecified"])),
        age=draw(st.integers(18, 88)),
        height_cm=height,
        weight_kg=weight,
        measures_cm=measured,
    )


@lru_cache(maxsize=16)
def _on_body(facts_json: str) -> OnBody:
    body = fitted(facts_json)
    return OnBody(body, place_all(body))


def on_body_of(facts: BodyFacts) -> OnBody:
    """What rules that see the body ask, on a build."""
    return _on_body(facts.model_dump_json())
