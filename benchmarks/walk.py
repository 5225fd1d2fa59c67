"""A walk through the API with real ids and states, in which anything may be sent: for the suite, and for bench --fuzz.

Each step takes an operation from the API's own description, with ids that exist (mostly), and a body that its schema
allows, now and then broken on purpose. Between them come the steps of a real visit, so that every state is reached.
"""

import copy
import random
import re
import uuid
from collections import Counter, defaultdict
from datetime import UTC, datetime
from typing import Any

from benchmarks.requests import Drawing, body_of, id_slots, operations

OTHER_PATHS = {
    "id": ["SP6", "ear_TF4", "nonsense"],
    "channel": ["SP", "QQ"],
    "sheet": ["sole", "moon"],
    "landmark": ["glabella", "nowhere"],
    "flag": ["new_numbness", "x"],
    "kind": ["poor_sleep", "x"],
    "token": ["nonsense"],
}
# They end the walk's own session, or the record that everything else stands on.
PASSED_OVER = re.compile(r"/(sign-in|sign-out|cover|unlock|erase|join|leave|sessions/{session_id})$")
SLOW = re.compile(r"/(compose|what-if|programme|apply-protocol|plates|.*\.pdf|atlas/file|own|trial|atlas|catalogue)$")
BROKEN: tuple[Any, ...] = (
    None,
    True,
    -1,
    10**12,
    0.5,
    "",
    "x" * 5000,
    "\x00",
    [],
    {},
    [[]],
    {"a": 1},
    "0001-01-01",
    "NaN",
)


class Failed(AssertionError):
    """The API did what it never may."""


class Walk:
    """Walks with one signed-in client; everything is drawn from `chance`."""

    def __init__(self, client: Any, chance: random.Random) -> None:
        self.client, self.chance = client, chance
        self.spec = client.get("/api/openapi.json").json()
        self.operations = [operation for operation in operations(self.spec) if not PASSED_OVER.search(operation[1])]
        self.ids: dict[str, list[str]] = defaultdict(list)
        self.seen: Counter[int] = Counter()
        self.calls = 0
        self.checked = 0
        self.visit: dict[str, str] = {}
        self._new_person()

    def step(self) -> None:
        """One step: of a real visit, or anything."""
        if self.chance.random() < 0.35:
            self._real()
        else:
            self._anything()

    # --- what a practitioner would do

    def _new_person(self) -> None:
        made = self._call("POST", "/api/people", {"given_name": f"Walk {self.calls}", "born": "1980-01-01"}).json()
        person = made["id"]
        today = self._call("GET", f"/api/people/{person}/today").json()
        self.visit = {"person_id": person, "visit_id": today["visit_id"]}
        self.ids["person_id"].append(person)
        self.ids["visit_id"].append(today["visit_id"])

    def _real(self) -> None:
        person, visit = self.visit["person_id"], self.visit["visit_id"]
        kind = self.chance.choice(
            ["person", "screen", "complain", "rate", "compose", "begin", "treat", "treat", "treat"]
        )
        if kind == "person" and self.chance.random() < 0.3:
            self._new_person()
        elif kind == "screen":
            answers = self.chance.choice([{}, {"blood_thinner": True}, {"pregnancy_weeks": 20}])
            self._call("POST", f"/api/people/{person}/screenings", {"answers": answers})
        elif kind == "complain":
            wanted = {"kind": self.chance.choice(["poor_sleep", "knee_pain"])}
            made = self._call("POST", f"/api/people/{person}/complaints", wanted)
            if made.status_code == 201:
                self.visit["complaint_id"] = made.json()["id"]
                self.ids["complaint_id"].append(made.json()["id"])
        elif kind == "rate" and "complaint_id" in self.visit:
            body = {
                "id": str(uuid.UUID(int=self.chance.getrandbits(128))),
                "value": 5,
                "moment": "before",
                "visit_id": visit,
            }
            self._call("POST", f"/api/complaints/{self.visit['complaint_id']}/ratings", body)
        elif kind == "compose" and "complaint_id" in self.visit and self.chance.random() < 0.3:
            body = {"version": self._version(), "complaint_ids": [self.visit["complaint_id"]], "minutes": 6}
            self._call("POST", f"/api/visits/{visit}/compose", body)
        elif kind == "begin":
            self._events({"kind": "begin", "version": self._version()})
        elif kind == "treat":
            self._treat()

    def _version(self) -> int:
        return int(self._call("GET", f"/api/visits/{self.visit['visit_id']}").json()["version"])

    def _treat(self) -> None:
        db = self._call("GET", f"/api/visits/{self.visit['visit_id']}/treatment").json()["session"]
        keys = list(db["records"]) or ["SP6-1"]
        said = self.chance.choice(
            [
                {"kind": "start_stop", "key": self.chance.choice(keys)},
                {"kind": "soreness", "value": self.chance.randint(0, 10), "side": None},
                {"kind": "reaction", "reaction": "tingling"},
                {"kind": "level", "level": self.chance.randint(1, 5)},
                {"kind": "later"},
                {"kind": "end", "reason": "finished"},
            ]
        )
        self._events(said)

    def _events(self, *said: dict[str, Any]) -> None:
        stamped = [
            {"id": str(uuid.UUID(int=self.chance.getrandbits(128))), "at": datetime.now(UTC).isoformat(), **one}
            for one in said
        ]
        self.ids["event_id"] += [one["id"] for one in stamped]
        self._call(
            "POST",
            f"/api/visits/{self.visit['visit_id']}/events",
            {"events": stamped, "sent_at": datetime.now(UTC).isoformat()},
        )

    # --- what anybody could send

    def _anything(self) -> None:
        method, path, operation = self.chance.choice(self.operations)
        if SLOW.search(path) and self.chance.random() < 0.85:
            return
        slots = {name for place, name in id_slots(self.spec, operation) if place == "path"}
        address = re.sub(r"{(\w+)}", lambda found: self._in_path(found[1], found[1] in slots), path)
        drawing = Drawing(self.spec, self.chance, {**self.ids, "complaint_id": self.ids["complaint_id"]})
        query = {
            one["name"]: drawing.value(one["schema"], one["name"])
            for one in operation.get("parameters", ())
            if one["in"] == "query" and (one.get("required") or self.chance.random() < 0.5)
        }
        schema = body_of(self.spec, operation)
        body = None if schema is None else drawing.value(schema)
        if body is not None and self.chance.random() < 0.4:
            body = self._broken(body)
        before = self._record() if method != "get" and self.chance.random() < 0.3 else None
        answer = self._call(method.upper(), address, body, query)
        if before is not None and answer.status_code >= 400:
            self.checked += 1
            if self._record() != before:
                raise Failed(f"{method} {address} was refused with {answer.status_code} and left something behind")

    def _in_path(self, name: str, is_id: bool) -> str:
        if is_id and self.ids[name] and self.chance.random() < 0.9:
            return self.chance.choice(self.ids[name][-12:])
        if is_id:
            return self.chance.choice([str(uuid.UUID(int=self.chance.getrandbits(128))), "nonsense"])
        return self.chance.choice(OTHER_PATHS[name])

    def _broken(self, body: Any) -> Any:
        """The body with one value in it replaced, left out or added to."""
        body = copy.deepcopy(body)
        at = body
        while isinstance(at, dict) and at:
            name = self.chance.choice(list(at))
            if isinstance(at[name], dict) and at[name] and self.chance.random() < 0.7:
                at = at[name]
                continue
            match self.chance.randint(0, 2):
                case 0:
                    at[name] = self.chance.choice(BROKEN)
                case 1:
                    del at[name]
                case 2:
                    at["surprise"] = 1
            break
        return body

    def _record(self) -> Any:
        """The whole record of whoever is being treated, without what reading it leaves behind."""
        return self.client.get(f"/api/people/{self.visit['person_id']}/record").json()

    def _call(self, method: str, address: str, body: Any = None, query: dict[str, Any] | None = None) -> Any:
        self.calls += 1
        more = {} if body is None else {"json": body}
        params = {name: value for name, value in (query or {}).items() if value is not None}
        answer = self.client.request(method, address, params=params, **more)
        self.seen[answer.status_code] += 1
        if answer.status_code >= 500 and answer.status_code != 503:
            raise Failed(
                f"{method} {address} {params} {str(body)[:600]} gave {answer.status_code}: {answer.text[:300]}"
            )
        if answer.status_code >= 400 and "json" in answer.headers.get("content-type", ""):
            problem = answer.json()
            if not problem.get("message") or "Traceback" in problem["message"]:
                raise Failed(f"{method} {address} was refused without a sentence: {answer.text[:300]}")
        return answer
