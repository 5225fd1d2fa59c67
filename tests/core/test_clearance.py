"""A doctor's word lifts what was answered, for its days; a practitioner's scale and a person's threshold set levels."""

from datetime import UTC, date, datetime, timedelta
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from acuthesis.core.atlas.entries.catalogue import entries, entry
from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.compose.score.score import PRESSED
from acuthesis.core.errors import CoreError, OutOfRange
from acuthesis.core.safety.clearance import Clearance, holding, raised_since
from acuthesis.core.safety.limits import limits_for
from acuthesis.core.safety.pressure import calibrated, force_n, pressure_table
from acuthesis.core.safety.screening import Screening, parse_screening, questions
from acuthesis.core.safety.verdict import verdict
from tests.tiers import examples

NOON = datetime(2026, 3, 2, 12, tzinfo=UTC)
REFERRALS = [question.id for question in questions().values() if question.severity == "refer"]


def at(days: float) -> datetime:
    return NOON + timedelta(days=days)


def word(flag="palpitations_new", recorded=0.0, until=30, granted=True, given=-3) -> Clearance:
    return Clearance(
        flag=flag,
        by="the clinic at the harbour",
        given_on=at(given).date(),
        what_for="seen and harmless",
        until=at(until).date(),
        granted=granted,
        recorded_at=at(recorded),
    )


def flagged(*flags: str) -> Screening:
    return parse_screening({"red_flags": list(flags)})


FLAG = REFERRALS[0]


@pytest.mark.parametrize(
    ("words", "day", "holds"),
    [
        ([word(FLAG)], 0, True),
        ([word(FLAG)], 30, True),
        ([word(FLAG)], 31, False),
        ([word(FLAG, given=2)], 1, False),
        ([word(FLAG), word(FLAG, recorded=2, granted=False)], 3, False),
        ([word(FLAG), word(FLAG, recorded=2, granted=False), word(FLAG, recorded=4)], 5, True),
        # The newest counts, in whatever order they are read.
        ([word(FLAG, recorded=4, until=5), word(FLAG)], 9, False),
        ([word(REFERRALS[1])], 0, False),
    ],
)
def test_a_word_holds_on_its_days_until_it_is_taken_back(words, day, holds):
    since = raised_since([(at(-1), flagged(FLAG))])
    assert (FLAG in holding(words, since, at(day).date())) is holds


def test_a_word_is_about_what_was_answered_then():
    """A fever that was cleared, went and came back is another fever."""
    history = [(at(9), flagged(FLAG)), (at(6), flagged()), (at(0), flagged(FLAG))]
    assert raised_since(history) == {FLAG: at(9)}
    assert raised_since(history[2:]) == {FLAG: at(0)}
    assert holding([word(FLAG, recorded=1)], raised_since(history), at(10).date()) == ()
    assert holding([word(FLAG, recorded=9.5)], raised_since(history), at(10).date()) == (FLAG,)
    steady = [(at(9), flagged(FLAG, REFERRALS[1])), (at(0), flagged(FLAG))]
    assert raised_since(steady) == {FLAG: at(0), REFERRALS[1]: at(9)}


def test_a_word_that_ends_before_it_begins_is_none():
    with pytest.raises(ValidationError, match="would end"):
        word(until=-9)


@pytest.mark.parametrize("flag", REFERRALS)
def test_every_referral_says_under_what_it_is_cleared(flag):
    [reason] = [one for one in verdict(flagged(flag)).reasons if one.rule == flag]
    assert reason.clear == flag
    lifted = flagged(flag).model_copy(update={"cleared": (reason.clear,)})
    assert flag not in {one.clear for one in verdict(lifted).reasons}


def test_rules_that_refer_are_cleared_too_and_emergencies_never():
    child = parse_screening({}, age=12)
    reading = parse_screening({"blood_pressure_now": [190, 100]})
    for screening in (child, reading):
        reasons = verdict(screening).reasons
        assert reasons and all(reason.clear for reason in reasons)
        lifted = screening.model_copy(update={"cleared": tuple(reason.clear for reason in reasons)})
        assert verdict(lifted).decision == "ok"
    assert [reason.clear for reason in verdict(flagged("chest_pain")).reasons] == [""]


def test_clearing_lifts_the_referral_and_no_limit():
    """A doctor's word lets the session take place; what must not be pressed stays so."""
    answers = {"red_flags": [FLAG], "pregnancy_weeks": 22, "blood_thinner": True}
    before = parse_screening(answers)
    after = before.model_copy(update={"cleared": (FLAG,)})
    assert (verdict(before).decision, verdict(after).decision) == ("refer", "ok")
    for target in entries():
        assert limits_for(target, target.whole, after) == limits_for(target, target.whole, before)


def test_a_scale_sets_the_levels_and_the_forces():
    own = calibrated({3: 1200})
    usual = pressure_table()
    assert own.levels[2].n_per_cm2 == pytest.approx(1.2 * 9.80665 / usual.contact_cm2["thumb"], abs=0.01)
    ratios = [mine.n_per_cm2 / theirs.n_per_cm2 for mine, theirs in zip(own.levels, usual.levels, strict=True)]
    assert max(ratios) == pytest.approx(min(ratios), rel=0.01), "what was not read keeps its ratio"
    assert force_n(3, "thumb", own) == pytest.approx(1.2 * 9.80665, abs=0.1)
    assert calibrated({}) is usual
    read = calibrated({1: 100, 4: 2000})
    assert [level.level for level in sorted(read.levels, key=lambda level: level.n_per_cm2)] == [1, 2, 3, 4, 5]


@pytest.mark.parametrize(
    ("readings", "error", "says"),
    [
        ({3: 5}, OutOfRange, "level 3: 5 g is not between"),
        ({3: 9000}, OutOfRange, "9000 g"),
        ({6: 500}, CoreError, "no level 6"),
        ({2: 900, 3: 800}, CoreError, "level 3 is no firmer than level 2"),
    ],
)
def test_readings_that_cannot_be_say_which(readings, error, says):
    with pytest.raises(error, match=says) as caught:
        calibrated(readings)
    assert caught.value.where.startswith("scale_g.")


readings = st.lists(st.floats(30, 7900), min_size=5, max_size=5, unique=True).map(sorted)


@examples(60)
@given(grams=readings, threshold=st.floats(0.5, 12), id=st.sampled_from(["ST36", "LI10", "GB34", "SP9", "PC6"]))
def test_a_threshold_is_kept_whoever_presses(grams, threshold, id):
    """However strong a hand is, what it gives stays a fifth below where pain was measured to begin."""
    gaps = [b - a for a, b in pairwise(grams)]
    if min(gaps) < 20:  # levels that a scale cannot tell apart
        return
    table = calibrated(dict(zip(range(1, 6), grams, strict=True)))
    target = entry(id)
    part = target.part
    person = parse_screening({}, thresholds={part: threshold}, pressure=table)
    limits = limits_for(target, "left", person)
    pressed = table.levels[limits.ceiling - 1].n_per_cm2
    assert pressed <= threshold * table.threshold_share or limits.ceiling == 1
    free = limits_for(target, "left", parse_screening({}, pressure=table))
    assert limits.ceiling <= free.ceiling
    if limits.ceiling < free.ceiling:
        assert f"{threshold:g} N/cm²" in limits.ceiling_reasons[0]


def test_a_strong_hand_is_held_back_in_the_whole_score():
    wish = ComposeRequest(complaints=[ComplaintNow(id="tired_legs", rating=6)], minutes=40)
    sore = {"lower_leg": 3.4, "foot": 3.4, "thigh": 3.4}
    levels = {}
    for name, table in (("usual", pressure_table()), ("strong", calibrated({3: 1500}))):
        score = compose(wish, parse_screening({}, thresholds=sore, pressure=table))
        pressed = [stop for stop in score.stops if stop.kind in PRESSED]
        legs = [stop for stop in pressed if entry(stop.id).kind == "point" and entry(stop.id).part in sore]
        assert legs and all(
            table.levels[stop.level - 1].n_per_cm2 <= 3.4 * table.threshold_share or stop.level == 1 for stop in legs
        )
        assert all(stop.force_n == force_n(stop.level, stop.contact, table) for stop in pressed)
        levels[name] = max(stop.level for stop in legs)
    assert levels["strong"] < levels["usual"]


def test_a_days_date_is_enough():
    assert word().model_dump(mode="json")["until"] == str(date(2026, 4, 1))
