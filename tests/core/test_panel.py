"""The reference cases in docs/guide/panel.yaml: written so that they can be held against what is composed."""

from acuthesis.core.atlas.catalogue import entry
from acuthesis.core.compose.knowledge import complaint_kinds
from acuthesis.core.compose.school import schools
from acuthesis.core.compose.technique import techniques
from acuthesis.core.data_file import read
from acuthesis.core.safety.screening import parse_screening
from acuthesis.core.safety.verdict import verdict
from acuthesis.settings import ROOT

PANEL = read(ROOT / "docs" / "guide" / "panel.yaml")


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
