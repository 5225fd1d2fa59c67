"""The reference cases in docs/guide/panel.yaml: written so that they can be held against what is composed."""

import pytest
from benchmarks.panel import Agreement, cases, judged

from acuthesis.core.atlas.entries.catalogue import entry
from acuthesis.core.compose.knowledge.complaints import complaint_kinds
from acuthesis.core.compose.knowledge.school import schools
from acuthesis.core.compose.knowledge.technique import techniques
from acuthesis.core.safety.screening import parse_screening
from acuthesis.core.safety.verdict import verdict

PANEL = cases()


def test_the_panel_names_what_there_is_and_keeps_half_of_itself_back():
    assert len(PANEL) >= 80
    assert len({case["name"] for case in PANEL}) == len(PANEL)
    assert 0.4 < sum("held" in case for case in PANEL) / len(PANEL) < 0.6
    for case in PANEL:
        assert set(case["for"]) <= set(complaint_kinds()), case["name"]
        assert case.get("school", "self_care") in schools()
        for wanted in (*case.get("must", ()), *case.get("should", ()), *case.get("may", ()), *case.get("not", ())):
            for id in wanted.split("|"):
                assert id in techniques() or entry(id).id == id, case["name"]
        who = dict(case.get("who", {}))
        assert verdict(parse_screening({k: v for k, v in who.items() if k != "age"}, who.get("age"))).decision == "ok"


@pytest.fixture(scope="module")
def agreed() -> list[tuple[dict, Agreement]]:
    """Every case with how the composition agrees with it."""
    return [(case, judged(case)[0]) for case in PANEL]


@pytest.mark.parametrize("held", [False, True], ids=["fitted", "held back"])
def test_what_is_composed_is_what_would_have_been_signed(agreed, held):
    found = Agreement()
    broken = []
    for case, mine in agreed:
        if ("held" in case) == held:
            found += mine
            broken += [f"{case['name']}: {line}" for line in mine.wrong if line.startswith(("must", "not"))]
    assert not broken
    assert found.share("should") >= 0.8 and found.share("shape") >= 0.8
