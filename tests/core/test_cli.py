"""The core from the shell: the documented output, and one line with exit code 2 for whatever cannot be."""

import json
import random
from datetime import UTC, datetime

import numpy as np
import pytest
from typer.testing import CliRunner

from acuthesis.cli import app
from acuthesis.core.atlas.entries.catalogue import entries
from acuthesis.core.body.features import feature_lines
from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.request import ComplaintNow, ComposeRequest
from acuthesis.core.safety.screening import Screening
from acuthesis.core.treat.events import EVENT
from acuthesis.stand_ins.hands import play

RUN = CliRunner()
PERSON = {
    "sex": "female",
    "age": 34,
    "height_cm": 168,
    "measures_cm": {"lower_leg_inner": 36.0, "four_fingers": 6.8},
    "practitioner": {"four_fingers": 7.4},
    "screening": {"blood_thinner": True},
}


@pytest.fixture
def person(tmp_path):
    path = tmp_path / "person.json"
    path.write_text(json.dumps(PERSON))
    return str(path)


def run(*arguments, stdin=None):
    return RUN.invoke(app, list(arguments), input=stdin)


def test_locate_prints_the_contract(person):
    done = run("locate", "SP6", "--side", "left", "--person", person, "--json")
    assert done.exit_code == 0, done.output
    found = json.loads(done.stdout)
    assert found["point"] == "SP6"
    segment = found["segment"]
    assert (segment["id"], segment["from"], segment["to"]) == (
        "lower_leg_inner",
        "medial_condyle_lower_border",
        "medial_malleolus_prominence",
    )
    assert segment["cun"] == 13
    assert segment["measured"] is True
    assert segment["length_cm"] == pytest.approx(36, abs=0.2)
    assert segment["cun_cm"] == pytest.approx(segment["length_cm"] / 13, abs=0.001)
    # Recomputed from nothing but the printed places: three of thirteen above the inner ankle bone.
    start, end = (np.array(found["landmarks"][segment[key]]) for key in ("from", "to"))
    axis = (end - start) / np.linalg.norm(end - start)
    level = (np.array(found["position_cm"]) - start) @ axis / segment["cun_cm"]
    assert level == pytest.approx(10, abs=0.1), "the tape is tilted a little against the limb"
    assert found["level_cun"] == pytest.approx(10, abs=0.001)
    assert np.linalg.norm(found["press"]["vector"]) == pytest.approx(1, abs=0.001)
    assert found["press"]["max_level"] == 2
    assert {"own_cm", "practitioner_cm", "error_cm"} <= set(found["fingers"][0])
    assert all({"name", "position_cm", "off_cm", "agrees"} <= set(method) for method in found["methods"])
    assert found["position_cm"][0] > 0, "x runs to the person's left"


def test_locate_in_words_reads_a_person_from_standard_input():
    done = run("locate", "pc6", "--side", "right", "--person", "-", stdin=json.dumps(PERSON))
    assert done.exit_code == 0
    assert done.stdout.startswith("PC6  Inner pass, right")
    assert "(2 cun)" in done.stdout
    assert "Between two tendons: palmaris longus and flexor carpi radialis" in done.stdout
    other = run("locate", "gb39", "--side", "left", "--person", "-", stdin=json.dumps(PERSON)).stdout
    assert "Elsewhere by older editions: behind the fibula" in other


def test_atlas_point_and_search():
    assert len(json.loads(run("atlas").stdout)) == len(entries())
    assert json.loads(run("point", "SP6", "--json").stdout)["names"]["characters"] == "三陰交"
    assert run("point", "sp6").stdout.startswith("SP6  Crossing of the three yin")
    assert run("search", "inner wrist").stdout.startswith("HT7")
    assert json.loads(run("search", "inner wrist", "--json").stdout)[0]["id"] == "HT7"


def test_compose_conduct_and_follow(tmp_path):
    request = {"person": PERSON, "complaints": [{"id": "poor_sleep", "rating": 7}], "minutes": 30}
    done = run("compose", "-", stdin=json.dumps(request))
    assert done.exit_code == 0
    score = json.loads(done.stdout)
    assert score["decision"] == "ok"
    assert max(stop["level"] for stop in score["stops"]) <= 2

    made = compose(ComposeRequest(complaints=[ComplaintNow(id="poor_sleep", rating=7)], minutes=30), Screening())
    events = play(made, datetime(2026, 11, 25, 9, tzinfo=UTC), {"HT7": 6}, random.Random(1))
    lines = tmp_path / "events.jsonl"
    lines.write_text("\n".join(EVENT.dump_json(event).decode() for event in events))
    state = json.loads(run("conduct", str(lines)).stdout)
    assert state["status"] == "finished"
    assert state["records"]["HT7-1"]["soreness"][0]["value"] == 6

    course = ((1, 8), (6, 8), (10, 7), (14, 5), (18, 3), (22, 3), (26, 3))
    ratings = {"ratings": [{"on": f"2026-09-{day:02}", "value": value} for day, value in course]}
    told = json.loads(run("follow", "-", stdin=json.dumps(ratings)).stdout)
    assert (told["trend"], told["proposal"]["step"]) == ("better", "go_on")
    assert told["points"]["high"] < 0 and len(told["analysis"]["band"]) >= len(course)


@pytest.mark.parametrize(
    ("arguments", "stdin", "says"),
    [
        (("point", "SP99"), None, "there is no point or area 'SP99'"),
        (("locate", "SP6", "--person", "nowhere.json"), None, "nowhere.json: No such file or directory"),
        (("locate", "SP6", "--person", "-"), "{", "not JSON at line 1"),
        (("locate", "SP6", "--person", "-"), "[]", "a person is a JSON object"),
        (("locate", "SP6", "--person", "-"), '{"hight_cm": 1}', "there is no key 'hight_cm'"),
        (("locate", "SP6", "--person", "-"), '{"height_cm": 20}', "height_cm is 20 cm; it can be 120 to 220 cm"),
        (("locate", "SP6", "--person", "-"), '{"height_cm": "tall"}', "height_cm"),
        (
            ("locate", "SP6", "--person", "-"),
            '{"measures_cm": {"forearm": 99}}',
            "forearm is 99 cm; it can be 16 to 36 cm",
        ),
        (("locate", "SP6", "--person", "-"), '{"measures_cm": [1]}', "measures_cm: must be a JSON object"),
        (("locate", "SP6", "--person", "-"), '{"screening": {"pregnant": true}}', "there is no question 'pregnant'"),
        (("locate", "SP6", "--side", "up", "--person", "-"), "{}", "--side is left or right"),
        (("compose", "-"), '{"complaints": []}', "complaints"),
        (("compose", "-"), '{"complaints": [{"id": "gout"}]}', "there is no complaint 'gout'"),
        (("compose", "-"), "[]", "a request is a JSON object"),
        (("conduct", "-"), '{"kind": "dance"}', "line 1"),
        (("conduct", "-"), "nonsense", "line 1"),
        (("follow", "-"), '{"ratings": [{"on": "2026-01-01", "value": 11}]}', "ratings.0.value"),
    ],
)
def test_bad_input_is_one_line_and_exit_code_two(arguments, stdin, says):
    done = run(*arguments, stdin=stdin)
    assert done.exit_code == 2
    assert says in done.stderr
    assert done.stderr.strip().count("\n") == 0
    assert "Traceback" not in done.output


def test_feature_lines_are_drawn_by_name():
    drawn = run("lines", "ear")
    assert drawn.exit_code == 0
    assert drawn.output.count("<polyline") == sum(line.surface == "ear" for line in feature_lines().values())
    assert ">hillock_edge</text>" in drawn.output
    for surface, said in (("sole", "the sole has no feature lines"), ("moon", "there is no surface 'moon'")):
        refused = run("lines", surface)
        assert refused.exit_code == 2 and said in refused.stderr
