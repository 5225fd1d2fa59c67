"""Fitted bodies, kept in memory: a fit takes about half a second and is the same for the same facts."""

import hashlib
from collections import OrderedDict
from threading import Lock

from acuthesis.core.atlas.placed import Placed, place_all
from acuthesis.core.body.asset import load_asset
from acuthesis.core.body.fit import FittedBody, fit
from acuthesis.core.body.person import BodyFacts
from acuthesis.core.body.pose import Posed, posed
from acuthesis.core.body.skeleton import BoneOnBody, skeleton
from acuthesis.settings import settings

KEPT = 12


class KeptBody:
    """A fitted body with its key (a hash of the facts) and, once asked for, everything located on it."""

    def __init__(self, key: str, facts: BodyFacts) -> None:
        self.key = key
        self.body: FittedBody = fit(load_asset(settings().body_asset), facts)
        self.lock = Lock()
        self._placed: list[Placed] | None = None
        self._bones: list[BoneOnBody] | None = None
        self._posed: dict[str, Posed] = {}

    def placed(self) -> list[Placed]:
        """Every point and area on all its sides."""
        with self.lock:
            if self._placed is None:
                self._placed = place_all(self.body)
            return self._placed

    def bones(self) -> list[BoneOnBody]:
        """The skeleton."""
        with self.lock:
            if self._bones is None:
                self._bones = skeleton(self.body.places)
            return self._bones

    def posed(self, pose: str) -> Posed:
        """The figure in a pose. Raises: UnknownId."""
        with self.lock:
            if pose not in self._posed:
                self._posed[pose] = posed(self.body.figure, pose)
            return self._posed[pose]


class Shelf:
    """The last few fitted bodies; two requests for the same one fit it once."""

    def __init__(self) -> None:
        self._bodies: OrderedDict[str, KeptBody] = OrderedDict()
        self._lock = Lock()

    def body(self, facts: BodyFacts) -> KeptBody:
        """The body for these facts."""
        key = body_key(facts)
        with self._lock:
            if key not in self._bodies:
                self._bodies[key] = KeptBody(key, facts)
                while len(self._bodies) > KEPT:
                    self._bodies.popitem(last=False)
            self._bodies.move_to_end(key)
            return self._bodies[key]


def body_key(facts: BodyFacts) -> str:
    """A short name for facts: equal facts, equal name."""
    return hashlib.sha256(facts.model_dump_json().encode()).hexdigest()[:16]


shelf = Shelf()
