"""What troubles them: heard in their words, asked in full, asked again, acts rated, a doctor's look, episodes."""

import uuid
from datetime import UTC, date, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from acuthesis.core.compose.knowledge.complaints import complaint_kinds
from acuthesis.core.compose.knowledge.said import heard, phrases
from acuthesis.core.follow.told import episodes_told
from tests.conftest import today

from .conftest import Newcomer
from .test_stations import problem


@pytest.mark.parametrize(
    ("said", "where", "fits", "side"),
    [
        ("wakes at four", [], "poor_sleep", None),
        ("first steps in the morning", [], "heel_pain", None),
        ("the right one, going stairs down", [], "knee_pain", "right"),
        ("worse left", ["neck"], "neck_shoulder_ache", "left"),
        ("", ["heel"], "heel_pain", None),
        ("ringing in both ears", [], "tinnitus", "both"),
        ("cannot put on my socks", [], "hip_stiffness", None),
        ("nerves before the show", [], "stage_nerves", None),
        ("heart skips", ["chest"], "palpitations_checked", None),
    ],
)
def test_what_people_say_leads_to_the_complaint(ode, said, where, fits, side):
    answer = ode.get("/api/complaint-kinds/heard", params={"text": said, "where": where}).json()
    assert answer["fits"][0]["id"] == fits, answer["fits"][:3]
    assert answer["side"] == side
    assert answer["fits"][0]["why"]


def test_every_complaint_is_heard_by_each_of_its_own_phrases():
    """What the data says people say finds what it says they mean: among the first three, alone in its words."""
    for id, row in phrases().items():
        for phrase in (*row.says, complaint_kinds()[id].name):
            found = [fit.id for fit in heard(phrase, (), complaint_kinds()).fits[:3]]
            assert id in found, f"'{phrase}' leads to {found}, not to {id}"


@given(st.text(max_size=120))
def test_whatever_is_typed_is_no_trouble(text):
    heard(text, (), complaint_kinds())
    episodes_told(text, date(2026, 3, 11))


def test_a_complaint_is_asked_its_own_questions_and_red_flags(ode):
    person = Newcomer(ode)
    person.screen()
    ask = ode.get("/api/complaint-kinds/knee_pain").json()
    assert ask["one_sided"] and ask["questions"] and "hot_swollen_calf" in {one["id"] for one in ask["red_flags"]}
    answers = {"own": {ask["questions"][0]: "down"}, "quality": ["sharp"], "brings_on": "stairs", "pattern": "waves"}
    body = {"kind": "knee_pain", "side": "left", "acts": ["stairs down", "kneeling"], "answers": answers}
    made = ode.post(f"/api/people/{person.id}/complaints", json={**body, "red_flags": {"hot_swollen_calf": True}})
    assert made.status_code == 201, made.text
    assert person.get().json()["verdict"]["decision"] == "emergency", "a red flag stops the work wherever it is asked"
    assert made.json()["asked"][0]["answers"]["own"] == {ask["questions"][0]: "down"}
    unknown = {**body, "red_flags": {"chest_pain": True}}
    problem(ode.post(f"/api/people/{person.id}/complaints", json=unknown), 422, "does not ask 'chest_pain'")
    no_side = {"kind": "poor_sleep", "side": "left"}
    problem(ode.post(f"/api/people/{person.id}/complaints", json=no_side), 422, "has no side")
    many = {**body, "acts": ["a", "b", "c", "d"]}
    assert ode.post(f"/api/people/{person.id}/complaints", json=many).status_code == 422


def test_a_second_time_only_what_changed_is_told(ode):
    person = Newcomer(ode)
    complaint = person.complain("heel_pain", answers={"brings_on": "standing", "quality": ["sharp"]})
    path = f"/api/complaints/{complaint}"
    now = {"answers": {"brings_on": "standing", "quality": ["aching"], "medicines_per_week": 2}}
    asked = ode.post(f"{path}/answers", json=now).json()["asked"]
    assert asked[0]["changed"] == {"quality": ["sharp", "aching"], "medicines per week": ["", "2"]}
    assert asked[1]["answers"]["quality"] == ["sharp"], "what was said before stays"


def test_acts_are_rated_and_keep_their_ratings_while_their_words_stay(ode):
    person = Newcomer(ode)
    complaint = person.complain("knee_pain", side="left", acts=["stairs down", "kneeling"])
    path = f"/api/complaints/{complaint}"
    shown = lambda: ode.get(f"/api/people/{person.id}/complaints").json()[0]  # noqa: E731
    act = shown()["acts"][0]["id"]
    rating = {"id": str(uuid.uuid4()), "value": 6, "moment": "before", "visit_id": person.visit_id}
    for _ in range(2):
        assert ode.post(f"{path}/acts/{act}/ratings", json=rating).status_code == 201
    kept = ode.patch(path, json={"version": 1, "acts": ["kneeling", "stairs down", "the bus"]}).json()["acts"]
    assert [(one["words"], [r["value"] for r in one["ratings"]]) for one in kept] == [
        ("kneeling", []),
        ("stairs down", [6]),
        ("the bus", []),
    ]
    assert shown()["ratings"] == [], "an act's rating is none of the complaint"
    problem(ode.patch(path, json={"version": 1, "closed": True}), 409, "changed in another window")
    assert ode.patch(path, json={"version": 2, "closed": True}).json()["closed_on"]


def test_a_doctors_look_is_required_kept_and_grows_old(ode, clock):
    person = Newcomer(ode)
    person.screen()
    wish = {"kind": "palpitations_checked"}
    problem(ode.post(f"/api/people/{person.id}/complaints", json=wish), 422, "A doctor has examined the heart")
    long_ago = {"by": "Dr of the harbour", "seen_on": str(today() - timedelta(days=400))}
    complaint = person.complain("palpitations_checked", confirmed=long_ago)
    problem(person.compose(complaint), 422, "Ask whether it still applies")
    seen = {"answers": {}, "confirmed": {"by": "the same", "seen_on": str(today())}}
    assert not ode.post(f"/api/complaints/{complaint}/answers", json=seen).json()["confirmed"]["stale"]
    assert person.compose(complaint).status_code == 200
    ahead = {"by": "x", "seen_on": str(today() + timedelta(days=3))}
    problem(ode.post(f"/api/complaints/{complaint}/answers", json={**seen, "confirmed": ahead}), 422, "in the future")


def test_episodes_are_kept_as_they_are_told(ode):
    person = Newcomer(ode)
    complaint = person.complain("migraine", side="right")
    told = ode.post("/api/episodes/read", json={"text": "two last week, the worst on Thursday, 8 of 10"}).json()
    assert [one["worst"] for one in told].count(True) == 1 and len(told) == 2
    rows = [
        {
            "started_at": f"{one['day']}T12:00:00Z",
            "day_only": True,
            "day_said": one["day_said"],
            "strength": one["strength"],
        }
        for one in told
    ]
    path = f"/api/complaints/{complaint}/episodes"
    kept = ode.post(path, json={"episodes": rows}).json()
    assert {one["strength"] for one in kept} == {8, None}
    on = {"started_at": (datetime.now(UTC) - timedelta(hours=2)).isoformat(), "goes_on": True, "trigger": "strobe"}
    going = ode.post(path, json={"episodes": [on]}).json()[0]
    ended = {**on, "goes_on": False, "ended_at": datetime.now(UTC).isoformat(), "helped": "dark room"}
    change = {"version": going["version"], "episode": ended}
    assert ode.patch(f"/api/episodes/{going['id']}", json=change).json()["helped"] == "dark room"
    problem(ode.patch(f"/api/episodes/{going['id']}", json=change), 409, "changed in another window")
    backwards = {**ended, "ended_at": "2020-01-01T00:00:00Z"}
    problem(ode.post(path, json={"episodes": [*rows, backwards]}), 422, "must end after it started")
    assert len(ode.get(path).json()) == 3, "and nothing of a refused list is kept"
    dropped = {"version": kept[0]["version"], "dropped": True}
    assert ode.patch(f"/api/episodes/{kept[0]['id']}", json=dropped).status_code == 200
    assert len(ode.get(path).json()) == 2


def test_a_complaint_is_changed_closed_and_opened_and_never_made_impossible(ode):
    person = Newcomer(ode)
    id = person.complain("tension_headache", side="both", acts=["reading", "driving"])
    read = lambda: next(one for one in person.get("/complaints").json() if one["id"] == id)  # noqa: E731
    before = read()
    for change, status, says in (
        ({"since": str(today() + timedelta(days=1))}, 422, "in the future"),
        ({"acts": ["one", "two", "three", "four"]}, 422, "at most 3"),
        ({"side": "above"}, 422, "left"),
        ({"version": 99, "closed": True}, 409, "changed in another window"),
    ):
        problem(ode.patch(f"/api/complaints/{id}", json={"version": before["version"], **change}), status, says)
    assert read() == before
    acts = {"version": before["version"], "acts": [" driving ", "driving", "sewing"], "since": "2024-05-01"}
    changed = ode.patch(f"/api/complaints/{id}", json=acts).json()
    assert [act["words"] for act in changed["acts"]] == ["driving", "sewing"], "said twice is one"
    closed = ode.patch(f"/api/complaints/{id}", json={"version": changed["version"], "closed": True}).json()
    assert closed["closed_on"] == str(today())
    opened = ode.patch(f"/api/complaints/{id}", json={"version": closed["version"], "closed": False}).json()
    assert (opened["closed_on"], opened["since"]) == (None, "2024-05-01")
    sleep = person.complain("poor_sleep")
    of_sleep = next(one for one in person.get("/complaints").json() if one["id"] == sleep)
    one_sided = {"version": of_sleep["version"], "side": "left"}
    problem(ode.patch(f"/api/complaints/{sleep}", json=one_sided), 422, "has no side")


def test_where_a_complaint_is_is_painted_and_where_it_was_stays_beside_it(ode, cast):
    """Skin is numbered the same on everybody, so what one figure shows another can be painted with."""
    person = Newcomer(ode)
    id = person.complain("knee_pain", side="right")
    figure = ode.get(f"/api/people/{person.id}/figure").json()
    count = len(ode.get(f"/api/people/{person.id}/figure/skin").content[16:]) // 6
    assert figure["height_cm"] > 0 and count > 10_000
    for skin, says in (([], "at least 1"), ([count], f"There are {count} places"), ([-1], "greater than or equal")):
        problem(ode.post(f"/api/people/{person.id}/painted", json={"skin": skin}), 422, says)
        assert ode.post(f"/api/complaints/{id}/places", json={"skin": skin}).status_code == 422
    told = [ode.post(f"/api/people/{person.id}/painted", json={"skin": [one]}).json()["words"] for one in (11, 9_000)]
    kept = [ode.post(f"/api/complaints/{id}/places", json={"skin": [one, one]}).json() for one in (11, 9_000)]
    assert [len(one["places"]) for one in kept] == [1, 2], "the earlier one stays"
    assert sorted(place["words"] for place in kept[1]["places"]) == sorted(told)


def test_an_episode_that_cannot_have_been_is_refused_and_one_of_today_may_end_tonight(ode):
    person = Newcomer(ode)
    path = f"/api/complaints/{person.complain('migraine')}/episodes"
    hours = lambda n: (datetime.now(UTC) + timedelta(hours=n)).isoformat()  # noqa: E731
    for episode, says in (
        ({"started_at": hours(48)}, "cannot begin or end in the future"),
        ({"started_at": hours(-2), "ended_at": hours(48)}, "cannot begin or end in the future"),
        ({"started_at": hours(-2), "ended_at": hours(-1), "goes_on": True}, "or be ongoing"),
        ({"started_at": hours(-2), "strength": 11}, "10"),
    ):
        refused = problem(ode.post(path, json={"episodes": [{"started_at": hours(-9)}, episode]}), 422, says)
        assert "episodes.1" in f"{refused['where']} {refused['details']}", "which of them is told"
    assert ode.get(path).json() == []
    day = {"started_at": hours(-1), "ended_at": hours(6), "day_only": True}
    assert ode.post(path, json={"episodes": [day]}).status_code == 201


@pytest.mark.parametrize(
    ("said", "days"),
    [
        ("yesterday", ["10"]),
        ("every night this week", ["09", "10", "11"]),
        ("Monday and Friday", ["06", "09"]),
        ("one on Sunday, 5/10", ["08"]),
        ("2 in the last 3 days", ["09", "11"]),
        ("none", []),
        ("twice last week", ["02", "08"]),
    ],
)
def test_sentences_of_episodes(said, days):
    told = episodes_told(said, date(2026, 3, 11))  # a Wednesday
    assert [f"{one.day:%d}" for one in told] == days
