"""Cache of fitted bodies in memory: a fit takes a tenth of a second and is the same for the same facts."""

import hashlib
import uuid
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import Future
from threading import Lock

from acuthesis.core.atlas.drawing.plate import LetteredPlate, plate, plate_at_home, plate_on_paper
from acuthesis.core.atlas.locating.locate import Located
from acuthesis.core.atlas.locating.placed import Placed, place_all, place_one
from acuthesis.core.body.asset import load_asset
from acuthesis.core.body.fit import FittedBody, fit
from acuthesis.core.body.person import BodyFacts
from acuthesis.core.body.pose import Posed, posed
from acuthesis.core.body.skeleton import BoneOnBody, skeleton
from acuthesis.core.reason import Reason
from acuthesis.core.safety.near import refused_near
from acuthesis.core.safety.reach import CoveredSkin, OnBody, by_named_places, seeing
from acuthesis.core.safety.screening import Screening
from acuthesis.services.request.here import Here
from acuthesis.services.request.known import Known
from acuthesis.settings import settings

KEPT = 12
PLATES_KEPT = 120  # of one body; some 30 kB each


class ReadyBody:
    """A fitted body with its key (a hash of the facts) and, once asked for, everything located on it."""

    def __init__(self, key: str, facts: BodyFacts) -> None:
        self.key = key
        self.body: FittedBody = fit(load_asset(settings().body_asset), facts)
        self.lock = Lock()
        self._placed: list[Placed] | None = None
        self._bones: list[BoneOnBody] | None = None
        self._on_body: OnBody | None = None
        self._posed: dict[str, Posed] = {}
        self._plates: OrderedDict[str, LetteredPlate] = OrderedDict()

    def placed(self) -> list[Placed]:
        """Every point and area on all its sides."""
        with self.lock:
            if self._placed is None:
                self._placed = place_all(self.body)
            return self._placed

    def on_body(self) -> OnBody:
        """What rules that see the body ask."""
        placed = self.placed()
        with self.lock:
            if self._on_body is None:
                self._on_body = OnBody(self.body, placed)
            return self._on_body

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

    def plate(self, found: Located, part: str, at_home: bool = False) -> str:
        """The drawing (SVG) of a point or area that was located on this body: by rays, so it is kept once drawn.

        `at_home`: as the person is shown it.
        """
        draw = plate_at_home if at_home else plate
        return self._kept(draw.__name__, found, part, lambda: LetteredPlate(draw(found, part, self.body), ())).svg

    def plate_on_paper(self, found: Located, part: str) -> LetteredPlate:
        """The same as it is printed, with the names of its landmarks; kept once drawn."""
        return self._kept("plate_on_paper", found, part, lambda: plate_on_paper(found, part, self.body))

    def _kept(self, form: str, found: Located, part: str, draw: Callable[[], LetteredPlate]) -> LetteredPlate:
        key = hashlib.sha256(f"{form} {part} {found.model_dump_json()}".encode()).hexdigest()
        with self.lock:
            if key not in self._plates:
                self._plates[key] = draw()
                while len(self._plates) > PLATES_KEPT:
                    self._plates.popitem(last=False)
            self._plates.move_to_end(key)
            return self._plates[key]


class Shelf:
    """The last few fitted bodies. Two requests for the same one fit it once; two different ones do not wait for each
    other."""

    def __init__(self) -> None:
        self._bodies: OrderedDict[str, Future[ReadyBody]] = OrderedDict()
        self._lock = Lock()  # held for a look at the shelf, never for a fit

    def body(self, facts: BodyFacts) -> ReadyBody:
        """The body for these facts. Raises: what fitting raises, for everybody who waits for it."""
        key = body_key(facts)
        with self._lock:
            coming = self._bodies.get(key)
            mine = coming is None
            if coming is None:
                coming = self._bodies[key] = Future()
                while len(self._bodies) > KEPT:
                    self._bodies.popitem(last=False)
            self._bodies.move_to_end(key)
        if mine:
            try:
                coming.set_result(ReadyBody(key, facts))
            except BaseException as error:
                with self._lock:
                    self._bodies.pop(key, None)
                coming.set_exception(error)
        return coming.result()


def body_key(facts: BodyFacts) -> str:
    """A short name for facts: equal facts, equal name."""
    return hashlib.sha256(facts.model_dump_json().encode()).hexdigest()[:16]


shelf = Shelf()


def body_of(known: Known) -> ReadyBody:
    """The person's fitted body."""
    return shelf.body(known.facts)


def own_placed(here: Here, ready: ReadyBody) -> list[Placed]:
    """The practice's own points and areas on a person, and shipped points where it prefers them, on all their sides."""
    entries = [*here.knowledge.preferred.values(), *here.own.values()]
    with ready.lock:
        return [one for entry in entries for one in place_one(entry, ready.body)]


def placed_here(here: Here, ready: ReadyBody) -> list[Placed]:
    """Everything that the practice has on a person: what is shipped, where it prefers it, and its own."""
    preferred = here.knowledge.preferred
    return [*(one for one in ready.placed() if one.entry.id not in preferred), *own_placed(here, ready)]


def refused_here(here: Here, ready: ReadyBody, screening: Screening) -> dict[str, Reason]:
    """Own points and areas, and preferred places, that on either side lie at something refused, with the reason."""
    shipped = ready.placed()
    found: dict[str, Reason] = {}
    for one in own_placed(here, ready):
        reason = refused_near(one, shipped, screening)
        if reason is not None:
            found.setdefault(one.entry.id, reason)
    return found


def seen_on_body(known: Known) -> Screening:
    """What is known of a person, with what the rules that see the body reach on theirs.

    Where no figure fits, rules go by named places: what a painted place lies on is the same on every figure.
    Raises: CoreError for a painted place that no figure has.
    """
    if not seeing(known.screening):
        return known.screening.model_copy(update={"reaches": {}})
    if not known.has_figure:
        told = by_named_places(shelf.body(BodyFacts()).on_body().with_sites(known.screening))
        return told.model_copy(update={"reaches": {}})
    return body_of(known).on_body().with_reaches(known.screening)


def grounds_of(known: Known) -> list[CoveredSkin]:
    """The ground on a person's skin that is kept free, rule by rule."""
    return body_of(known).on_body().grounds(known.screening) if known.has_figure and seeing(known.screening) else []


def screening_on_body(here: Here, person_id: uuid.UUID) -> Screening:
    """What is known of a person, as scores need it: with what lies within a margin or on something refused here."""
    known = here.person(person_id)
    screening = seen_on_body(known)
    if not here.own or not known.has_figure:
        return screening
    return screening.model_copy(update={"refused_here": refused_here(here, body_of(known), screening)})
