"""A record with everything in it that a record can hold: it comes in and goes out as it was, or says what is wrong."""

import copy
import uuid
from datetime import UTC, datetime, timedelta

import pytest
from pydantic import BaseModel

from acuthesis.exchange import parts
from acuthesis.exchange.record import PersonRecord
from tests.tiers import some

from .conftest import event
from .test_record import in_order, renewed

OF_EARLIER_VERSIONS = {("PersonPart", "story"), ("ComplaintPart", "act")}
PHYSIO = str(uuid.uuid4())  # somebody who never worked in either practice


def new_id():
    return str(uuid.uuid4())


def at(days):
    """A moment so many days ago, as records write it."""
    return (datetime.now(UTC) - timedelta(days=days)).replace(microsecond=0).isoformat().replace("+00:00", "Z")


def on(days):
    return at(days)[:10]


@pytest.fixture(scope="module")
def whole(app):
    """Tamsin's treatments and Noor's plan for home, and one row or more of everything that they have none of."""
    from .conftest import EMAIL, PASSWORD, signed_in

    ode = signed_in(app, EMAIL, PASSWORD)
    ids = {visit["given_name"]: visit["person_id"] for visit in ode.get("/api/day").json()}
    record, noor = (ode.get(f"/api/people/{ids[name]}/record").json() for name in ("Tamsin", "Noor"))
    me = record["practitioners"][0]["id"]
    complaint = record["complaints"][0]["id"]
    act = record["complaints"][0]["acts"][0]["id"]
    treated = [visit for visit in record["visits"] if visit["events"]]
    last, before = treated[-1], treated[-2]

    record["practitioners"].append({"id": PHYSIO, "name": "Sable Whitlock"})
    record["person"] |= {
        "breaths_per_minute": 11.5,
        "phone": "0100 555",
        "email": "tamsin@lanternwick.example",
        "address": "Props Yard 4",
        "doctor": "Harbour Surgery",
        "guardian": "none since 2009",
        "archived_at": at(0),
    }
    record["screenings"].append(record["screenings"][-1] | {"id": new_id(), "answered_at": at(0), "in_full": False})
    record["letters"] = [
        {
            "id": new_id(),
            "recipient": "Harbour Surgery",
            "about": "numb fingers",
            "sent_on": on(40),
            "answer_due": on(20),
        }
        | {"answered_on": on(25), "answer": "Nothing pressing.", "sent_by": me}
    ]
    booked = next(visit for visit in record["visits"] if not visit["events"])
    record["planned"][0] |= {"purpose": "set A", "visit_id": booked["id"]}
    record["planned"][1] |= {"dropped_at": at(1)}
    record["clearances"] = [
        {
            "id": new_id(),
            "flag": "chest_pain",
            "by": "Harbour Surgery",
            "given_on": on(30),
            "what_for": "light pressure",
        }
        | {"until": on(-60), "granted": granted, "recorded_at": at(days), "recorded_by": me}
        for granted, days in ((True, 30), (False, 10))
    ]
    record["thresholds"] = [
        {"id": new_id(), "part": "trunk", "n_per_cm2": value, "taken_at": at(days)}
        for value, days in ((24.0, 20), (None, 5))
    ]
    said = {"own": {"Does the arm go numb?": "no"}, "quality": ["aching"], "brings_on": "rods", "eases": "warmth"}
    record["answers"] = [
        {"id": new_id(), "complaint_id": complaint, "answers": said | {"pattern": "waves", "medicines_per_week": 2.0}}
        | {"asked_by": me, "asked_at": at(30)}
    ]
    record["complaints"][0]["closed_on"] = on(0)
    record["complaint_places"] = [
        {"id": new_id(), "complaint_id": complaint, "skin": [11, 12, 900], "words": "right shoulder", "painted_by": me}
        | {"painted_at": at(30)}
    ]
    record["confirmations"] = [
        {"id": new_id(), "complaint_id": complaint, "by": "Harbour Surgery", "seen_on": on(28), "recorded_by": PHYSIO}
        | {"recorded_at": at(28)}
    ]
    first = new_id()
    rated = {"complaint_id": complaint, "act_id": act, "visit_id": last["id"], "moment": "before", "recorded_by": me}
    record["act_ratings"] = [
        rated | {"id": first, "value": 6, "rated_at": at(2), "said_by": "carer"},
        rated | {"id": new_id(), "value": 5, "rated_at": at(1), "dropped": True, "replaces": first},
    ]
    wrong = record["ratings"][-1]
    record["ratings"].append(wrong | {"id": new_id(), "replaces": wrong["id"], "dropped": True, "recorded_by": me})
    told = {"strength": 6, "trigger": "strobe", "helped": "sleep", "medicine": "one tablet"}
    record["episodes"] = [
        {"id": new_id(), "complaint_id": complaint, "started_at": at(9), "ended_at": at(8), "said_by": "carer"}
        | {"recorded_by": me, "recorded_at": at(8), **told}
        | {
            "earlier": [
                {"started_at": at(10), "ended_at": at(9), "goes_on": False, "day_only": True, "day_said": False}
                | {"said_by": "from_home", "changed_at": at(8), "changed_by": PHYSIO, **told}
            ]
        },
        {"id": new_id(), "complaint_id": complaint, "started_at": at(3), "goes_on": True, "day_only": True}
        | {"day_said": False, "recorded_by": None, "recorded_at": at(3)},
    ]
    note = new_id()
    record["log"] += [
        {"id": note, "kind": "event", "complaint_id": complaint, "on_day": on(12), "until": on(9), "words": "tour"}
        | {"other_care": True, "recorded_at": at(12), "recorded_by": me},
        {"id": new_id(), "kind": "event", "complaint_id": complaint, "on_day": on(12), "until": on(8), "words": "tours"}
        | {"replaces": note, "dropped": True, "recorded_at": at(8), "said_by": "practitioner"},
        {"id": new_id(), "kind": "practice", "on_day": on(6), "amount": 6.0, "words": "", "pressed": ["GB21", "LI4"]}
        | {"recorded_at": at(6)},
    ]
    proposed = {"step": "go_on", "label": "Go on as before", "why": "It eases.", "bear_in_mind": ["few"], "changes": []}
    record["decisions"] = [
        {"id": new_id(), "complaint_id": complaint, "proposed": proposed, "step": "go_on", "because": "she asked"}
        | {"decided_by": me, "decided_at": at(9), "came_of": "easier", "came_of_at": at(1)}
    ]
    record["home_plans"] = [plan | {"id": new_id(), "made_by": me} for plan in noor["home_plans"]]
    record["home_flags"] = [
        {"id": new_id(), "question": "chest_pain", "said_at": at(5), "heard_at": at(5), "looked_at": at(4)}
        | {"looked_by": me, "words": "Rang; seen that day."}
    ]
    asked = {"complaint_ids": [complaint], "to": "Harbour Surgery"}
    record["papers"] = [
        {"id": new_id(), "kind": "doctor", "asked": asked, "body": "Dear *reader*", "text": "Dear *reader*"}
        | {"plain": "Dear reader", "asked_by": me, "asked_at": at(3), "made_at": at(3)}
        | {"consent_id": record["consents"][0]["id"]}
    ]
    record["consents"][0] |= {"said": "To her own doctor."}
    record["findings"] = [
        {"id": new_id(), "entry": "GB21", "side": "right", "offset_mm": {"back": 4.0}, "soreness": 6, "texture": "knot"}
        | {"note": "beside the strap", "at": at(2)}
    ]
    record["drafts"] = [
        {
            "id": new_id(),
            "visit_id": last["id"],
            "label": "shorter",
            "score": last["score"],
            "kept_at": at(2),
            "kept_by": me,
        }
    ]
    late = event("reaction", reaction="warm") | {"at": before["events"][-1]["at"]}
    before |= {
        "note": "She stood all day.",
        "written": {"asked": "neck", "done": "ten places", "felt": "lighter", "observed": "warm", "next": "in a week"},
        "closed_at": at(1),
        "closed_by": me,
        "addenda": [{"id": new_id(), "said": "She rang: better.", "added_by": PHYSIO, "added_at": at(0)}],
        "disputed": [
            {"event": late, "reason": "it was over", "settled": None},
            {"event": late | {"id": new_id()}, "reason": "it was over"}
            | {"settled": {"how": "happened", "note": "seen", "settled_at": at(1), "settled_by": me}},
        ],
        "came": "walk_in",
        "place": "A tent by the harbour",
    }
    missed = {"id": new_id(), "starts_at": at(4), "attendance": "not_come", "attendance_reason": "train"}
    record["visits"].append(booked | missed)
    return PersonRecord.model_validate(record).model_dump(mode="json")


def told_in(value, found):
    """Every field of every part that says something other than what is meant where nothing is said."""
    if isinstance(value, BaseModel):
        for name, field in type(value).model_fields.items():
            inner = getattr(value, name)
            if field.is_required() or inner != field.get_default(call_default_factory=True):
                found.add((type(value).__name__, name))
            told_in(inner, found)
    elif isinstance(value, list | tuple):
        for one in value:
            told_in(one, found)
    return found


def test_everything_that_a_record_can_hold_comes_in_and_goes_out_as_it_was(stranger, whole):
    kinds = [kind for kind in vars(parts).values() if isinstance(kind, type) and issubclass(kind, parts.RecordPart)]
    all_fields = {(kind.__name__, name) for kind in kinds for name in kind.model_fields} - {
        ("CorrectedPart", name) for name in parts.CorrectedPart.model_fields
    }
    unsaid = all_fields - told_in(PersonRecord.model_validate(whole), set()) - OF_EARLIER_VERSIONS
    assert unsaid == set(), "a field that is never told could be lost unseen"

    sent = renewed(whole)
    taken = stranger.post("/api/records", json=sent)
    assert taken.status_code == 201, taken.text
    back = stranger.get(f"/api/people/{sent['person']['id']}/record").json()
    for part, rows in in_order(sent).items():
        assert in_order(back)[part] == rows, part
    again = renewed(back)
    assert stranger.post("/api/records", json=again).status_code == 201, "and what went out comes in again"


LOST = new_id()


@pytest.mark.parametrize(
    ("change", "says"),
    some(
        [
            (lambda r: r["visits"][0].update(closed_at=at(1)), "visits.0: a closed record says when and by whom"),
            (
                lambda r: r["visits"][0].update(
                    addenda=[{"id": LOST, "said": "x", "added_by": PHYSIO, "added_at": at(1)}]
                ),
                "visits.0: only a closed record has addenda",
            ),
            (lambda r: r["visits"][0].update(attendance="cancelled"), "did not take place cannot have a treatment"),
            (lambda r: r["visits"][0]["score"]["stops"][3].update(level=5, ceiling=2), "above its ceiling 2"),
            (lambda r: r["visits"][0]["score"]["stops"][3].update(start_s=1e6), "starts or lasts beyond any session"),
            (
                lambda r: r["drafts"][0]["score"]["stops"][1].update(key=r["drafts"][0]["score"]["stops"][0]["key"]),
                "same key",
            ),
            (lambda r: r["drafts"][0].update(visit_id=LOST), "drafts: "),
            (lambda r: r["thresholds"][0].update(part="wing"), "wing"),
            (lambda r: r["thresholds"][0].update(n_per_cm2=4000.0), "thresholds"),
            (lambda r: r["practitioners"].pop(), "is mentioned, and is not in the list"),
            *(
                (lambda r, part=part: r[part][0].update(complaint_id=LOST), f"{part}: ")
                for part in ("answers", "complaint_places", "confirmations", "act_ratings", "episodes", "decisions")
            ),
            (lambda r: r["log"][-2].update(complaint_id=LOST), "log: "),
            (lambda r: r["act_ratings"][1].update(replaces=LOST), "corrects what is not before it"),
            (lambda r: r["act_ratings"].reverse(), "corrects what is not before it"),
            (lambda r: r["act_ratings"][0].update(moment="home"), "does not fit its visit"),
            (lambda r: r["act_ratings"][0].update(visit_id=LOST), "does not fit its visit"),
            (lambda r: r["decisions"][0].update(came_of_at=None), "decisions.0: what came of it has a day"),
            (lambda r: r["log"][-3].update(until=on(20)), "an entry ends after it begins"),
            (lambda r: r["log"][-3].update(kind="sleep", amount=25), "sleep has hours, 24 at most"),
            (lambda r: r["log"][-3].update(words=""), "says no words"),
            (lambda r: r["home_plans"][0].update(until="2020-01-01"), "ends before it begins"),
            (lambda r: r["home_flags"][0].update(question="is_it_cold"), "is of no question"),
            (lambda r: r["home_flags"][0].update(looked_by=None), "only half says who dealt with it"),
            (lambda r: r["home_flags"][0].update(words=""), "says nothing of what came of it"),
            (lambda r: r["papers"][0].update(consent_id=None), "mentions a consent that is not in the record"),
            (lambda r: r["papers"][0].update(consent_id=LOST), "mentions a consent that is not in the record"),
            (lambda r: r["planned"][0].update(visit_id=LOST), "mentions a visit that is not in the record"),
            (lambda r: r["planned"][0].update(dropped_at=at(1)), "is booked and dropped at once"),
            (lambda r: r["letters"][0].update(answer_due=on(50)), "is due before it was sent"),
            (lambda r: r["episodes"][0].update(ended_at=at(30)), "an episode ends after it began"),
            (lambda r: r["clearances"][0].update(until=on(90)), "before it was given"),
            (lambda r: r["ratings"][0].update(visit_id=LOST), "mentions a complaint or visit"),
            (lambda r: r["person"].update(born="2090-01-01"), "person.born: 1 January 2090 cannot be"),
            (lambda r: r["findings"][0].update(at="1949-12-31T10:00:00Z"), "findings.0: 31 December 1949 cannot be"),
            (lambda r: r["visits"][0].update(starts_at="2090-01-01T10:00:00Z"), "visits.0.starts_at"),
            (lambda r: r["log"][-1].update(on_day="2090-01-01"), "cannot be"),
            (lambda r: r["complaints"][0].update(since="2090-01-01"), "complaints.0.since"),
            (lambda r: r["complaints"][0].update(closed_on="1999-01-01"), "complaints.0.closed_on"),
        ]
    ),
)
def test_what_cannot_be_is_named_and_nothing_is_kept(stranger, whole, change, says):
    before = stranger.get("/api/people").json()
    damaged = renewed(copy.deepcopy(whole))
    change(damaged)
    answer = stranger.post("/api/records", json=damaged)
    assert answer.status_code == 422, answer.text[:300]
    told = answer.json()
    rows = " ".join(f"{row['where']} {row['message']}" for row in told["details"])
    assert says in f"{told['where']} {told['message']} {rows}"
    assert stranger.get("/api/people").json() == before
