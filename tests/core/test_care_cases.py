"""The named cases of care in docs/guide/care-cases.yaml: what must and what must not follow, one by one."""

from itertools import pairwise

import pytest
from benchmarks.care_table import GUIDE, case_screening, written

from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.compose.score.score import PRESSED
from acuthesis.core.data_file import read
from acuthesis.core.errors import NotAllowed
from acuthesis.core.safety.screening import parse_screening
from acuthesis.core.safety.standing import awake, rules
from acuthesis.settings import ROOT

from .conftest import BUILDS, on_body_of

CASES = read(ROOT / "docs" / "guide" / "care-cases.yaml")
WHO = {"name", "who", "for", "minutes", "school", "setting", "at", "side"}
FOLLOWS = {"decision", "because", "out", "in", "never", "level", "level_at", "points", "total_min", "turns"}
FOLLOWS |= {"notes", "asks", "refused", "never_asked"}


def test_the_table_of_rules_is_the_one_that_is_written():
    assert written(GUIDE.read_text()) == GUIDE.read_text(), "python -m benchmarks.care_table writes it"


def test_a_rule_that_stops_or_asks_has_a_named_case():
    """What ends a session, or holds it up, is shown by somebody whom it happens to."""
    stops = {rule.id for rule in rules() if rule.severity in ("emergency", "refer", "ask")}
    shown = {rule.id for case in CASES for rule in rules() if awake(rule, case_screening(case))}
    assert not stops - shown


def test_there_are_sixty_cases_each_with_a_name_of_its_own_and_something_to_keep():
    assert len(CASES) >= 60
    assert len({case["name"] for case in CASES}) == len(CASES)
    for case in CASES:
        assert set(case) <= WHO | FOLLOWS and set(case) & FOLLOWS, case["name"]


@pytest.mark.parametrize("case", CASES, ids=lambda case: case["name"])
def test_case(case):
    who = dict(case["who"])
    answers = {key: value for key, value in who.items() if key not in ("age", "sex", "has")}
    screening = parse_screening(
        answers, who.get("age"), sex=who.get("sex", "unspecified"), complaints=who.get("has", {})
    )
    screening = on_body_of(BUILDS["average"]).with_reaches(screening)
    side = {"side": case["side"]} if "side" in case else {}
    request = ComposeRequest(
        complaints=[ComplaintNow(id=id, rating=6, **side) for id in case["for"]],
        minutes=case.get("minutes", 40),
        **{key: case[key] for key in ("school", "setting") if key in case},
    )
    if "refused" in case:
        with pytest.raises(NotAllowed, match=case["refused"]):
            compose(request, screening)
        return
    score = compose(request, screening)
    assert score.decision == case.get("decision", "ok"), score.reasons
    if score.decision != "ok":
        assert case["because"] in [reason.rule for reason in score.reasons] and not score.stops
        return
    sides = {"left", "right", "midline", "both"} - ({"left", "right"} - {case.get("at")} if "at" in case else set())
    there = {stop.id for stop in score.stops if stop.side in sides}
    assert not there & set(case.get("out", ())), "what must not be in is in"
    assert set(case.get("in", ())) <= {stop.id for stop in score.stops}
    assert not {stop.position for stop in score.stops} & set(case.get("never", ()))
    for stop in score.stops:
        assert stop.level <= case.get("level", 5) or ("at" in case and stop.side not in sides), stop.id
        if stop.side in sides:
            assert stop.level <= case.get("level_at", {}).get(stop.id, 5), stop.id
    assert len({stop.id for stop in score.stops if stop.kind in PRESSED}) <= case.get("points", 99)
    assert score.total_s <= case.get("total_min", 180) * 60
    assert sum(a.position != b.position for a, b in pairwise(score.stops)) <= case.get("turns", 99)
    assert not (case.get("never_asked") and (score.asks or any(stop.consent for stop in score.stops)))
    for heading, said in (("notes", score.notes), ("asks", score.asks)):
        for words in case.get(heading, ()):
            assert any(words in line for line in said), (words, said)
