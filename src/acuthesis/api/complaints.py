"""Complaints: added with their questions, asked again, rated with their activities; their episodes."""

import uuid
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel, ConfigDict, Field

from acuthesis.api.access import SignedIn
from acuthesis.api.door import StrictRoute
from acuthesis.api.text import Day, Line, LineOrNone
from acuthesis.core.body.regions import MOST_PAINTED, Patch, patch_of, regions
from acuthesis.core.compose.knowledge.complaint_questions import MOST_ACTS, Answers
from acuthesis.core.compose.knowledge.complaints import ComplaintKind
from acuthesis.core.compose.knowledge.said import Heard, can_be_one_sided, heard
from acuthesis.core.errors import UnknownId
from acuthesis.core.follow.told import MOST as MOST_TOLD
from acuthesis.core.follow.told import ToldEpisode, episodes_told
from acuthesis.core.instant import Instant
from acuthesis.core.message import message
from acuthesis.core.safety.screening import questions as all_questions
from acuthesis.core.safety.touching import StopSide
from acuthesis.services.body.bodies import body_of
from acuthesis.services.people import complaints as service
from acuthesis.services.people.complaints import Episode, Examination
from acuthesis.services.people.complaints_view import ComplaintOut, complaints_out, shown
from acuthesis.services.ratings import rating
from acuthesis.services.ratings.rating import RatingMoment, SaidBy
from acuthesis.services.request.here import Here
from acuthesis.store import complaints as asked
from acuthesis.store import people as store
from acuthesis.store.model import ComplaintRow, EpisodeRow

router = APIRouter(route_class=StrictRoute, tags=["complaints"])


Skin = Annotated[list[Annotated[int, Field(ge=0, lt=10**6)]], Field(min_length=1, max_length=MOST_PAINTED)]


class PaintedPatch(BaseModel):
    """A patch painted on the figure: numbers of skin vertices."""

    model_config = ConfigDict(extra="forbid")

    skin: Skin


class ConfirmedIn(BaseModel):
    """Who has looked, and when."""

    model_config = ConfigDict(extra="forbid")

    by: Line
    seen_on: Day


class NewComplaint(BaseModel):
    """A new complaint: which, where, what it hinders, since when, and what is answered about it.

    `red_flags`: answers to those that it asks; one with yes goes into the screening.
    """

    model_config = ConfigDict(extra="forbid")

    kind: str = Field(max_length=60)
    side: StopSide = "both"
    acts: Annotated[list[Line], Field(max_length=MOST_ACTS)] = []
    since: Day | None = None
    answers: Answers = Answers()
    confirmed: ConfirmedIn | None = None
    red_flags: Annotated[dict[str, bool], Field(max_length=20)] = {}
    skin: Skin | None = Field(None, description="where it is, painted on the figure: numbers of skin vertices")


class ChangedComplaint(BaseModel):
    """Changes to a complaint; `version` is the one that was seen."""

    model_config = ConfigDict(extra="forbid")

    version: int
    side: StopSide | None = None
    acts: Annotated[list[Line], Field(max_length=MOST_ACTS)] | None = None
    since: Day | None = None
    closed: bool | None = None


class AskedAgain(BaseModel):
    """New answers, and the doctor's look where it was asked about again."""

    model_config = ConfigDict(extra="forbid")

    answers: Answers
    confirmed: ConfirmedIn | None = None


class RedFlag(BaseModel):
    """A red flag that a complaint asks, by the id of the screening's question."""

    id: str
    text: str


class ToAsk(BaseModel):
    """What a complaint is asked when it is taken up."""

    id: str
    name: str
    one_sided: bool
    checked: str
    questions: list[str]
    red_flags: list[RedFlag]
    acts: list[str]
    measure: str


class EpisodeIn(BaseModel):
    """An episode: when it began and ended, or that it goes on; how strong; what set it off, what helped.

    `day_only`: the day was told and not the hour. `day_said` false: only the time that it lies in was told.
    """

    model_config = ConfigDict(extra="forbid")

    started_at: Instant
    ended_at: Instant | None = None
    goes_on: bool = False
    day_only: bool = False
    day_said: bool = True
    strength: Annotated[int, Field(ge=0, le=10)] | None = None
    trigger: LineOrNone = ""
    helped: LineOrNone = ""
    medicine: LineOrNone = ""
    said_by: SaidBy = "person"

    def told(self) -> Episode:
        """The episode as the use case takes it."""
        return Episode(**self.model_dump())


class EpisodeOut(BaseModel):
    """An episode as kept."""

    id: uuid.UUID
    version: int
    started_at: datetime
    ended_at: datetime | None
    goes_on: bool
    day_only: bool
    day_said: bool
    strength: int | None
    trigger: str
    helped: str
    medicine: str
    said_by: SaidBy
    changed: int = Field(description="how often it was changed; what it said before stays on record")


class NewEpisodes(BaseModel):
    """Episodes to keep: all of them or none."""

    model_config = ConfigDict(extra="forbid")

    episodes: Annotated[list[EpisodeIn], Field(min_length=1, max_length=MOST_TOLD)]


class EpisodeChange(BaseModel):
    """A changed episode, or that it was noted by mistake; `version` is the one that was seen."""

    model_config = ConfigDict(extra="forbid")

    version: int
    episode: EpisodeIn | None = None
    dropped: bool = False


class Sentence(BaseModel):
    """Episodes in a sentence, as people tell them."""

    model_config = ConfigDict(extra="forbid")

    text: LineOrNone


class NewRating(BaseModel):
    """A rating; `before` and `after` belong to a visit, `home` to none. The id makes sending it twice harmless."""

    model_config = ConfigDict(extra="forbid")

    id: uuid.UUID
    value: int = Field(ge=0, le=10)
    moment: RatingMoment
    visit_id: uuid.UUID | None = None
    said_by: SaidBy | None = Field(None, description="who said it; from home the person, else the person here")

    def rated(self) -> rating.RatingInput:
        """The rating as the use case takes it."""
        said_by: SaidBy = self.said_by or ("from_home" if self.moment == "home" else "person")
        return rating.RatingInput(**self.model_dump(exclude={"said_by"}), said_by=said_by)


class Correction(BaseModel):
    """Another value for a rating, or none to take it back. The id makes sending it twice harmless."""

    model_config = ConfigDict(extra="forbid")

    id: uuid.UUID
    value: Annotated[int, Field(ge=0, le=10)] | None


def _one(here: Here, row: ComplaintRow) -> ComplaintOut:
    here.forget(row.person_id)
    return shown(here, here.person(row.person_id), [row])[0]


@router.get("/complaint-kinds")
def list_kinds(here: SignedIn) -> list[ComplaintKind]:
    """The complaints that can be composed for, the practice's own last, with what is traditionally used."""
    return list(here.knowledge.complaints.values())


@router.get("/complaint-kinds/heard")
def suggest_complaints(
    here: SignedIn,
    text: Annotated[str, Query(max_length=200)] = "",
    where: Annotated[list[str] | None, Query(max_length=20)] = None,
) -> Heard:
    """The complaints that fit what somebody says and where they point, the best first, with why."""
    known = [region.id for region in regions()]
    for region in where or ():
        if region not in known:
            raise UnknownId(
                message("complaints-there-no-region-there", region=region, known=", ".join(known)), where="where"
            )
    return heard(text, where or (), here.knowledge.complaints)


@router.get("/complaint-kinds/{kind}")
def read_kind(kind: str, here: SignedIn) -> ToAsk:
    """What a complaint is asked when it is taken up."""
    found = here.knowledge.complaint(kind)
    flags = all_questions()
    return ToAsk(
        id=found.id,
        name=found.name,
        one_sided=can_be_one_sided(found),
        checked=found.checked,
        questions=list(found.ask),
        red_flags=[RedFlag(id=flag, text=flags[flag].ask) for flag in found.red_flags if flag in flags],
        acts=list(found.acts),
        measure=found.measure,
    )


@router.get("/people/{person_id}/complaints")
def list_complaints(person_id: uuid.UUID, here: SignedIn) -> list[ComplaintOut]:
    """A person's complaints with their ratings, acts and answers."""
    return complaints_out(here, here.person(person_id, "complaints"))


@router.post("/people/{person_id}/complaints", status_code=201)
def add_complaint(person_id: uuid.UUID, new: NewComplaint, here: SignedIn) -> ComplaintOut:
    """Take a complaint up. A red flag that is answered with yes goes into the screening, where it stops the work."""
    confirmed = Examination(by=new.confirmed.by, seen_on=new.confirmed.seen_on) if new.confirmed else None
    row = service.add_complaint(
        here, person_id, new.kind, new.side, new.acts, new.since, new.answers, confirmed, new.red_flags
    )
    if new.skin is not None:
        service.paint(here, row, new.skin)
    return _one(here, row)


@router.post("/people/{person_id}/painted")
def read_painting(person_id: uuid.UUID, painted: PaintedPatch, here: SignedIn) -> Patch:
    """What a patch that was painted on a person's figure lies on; nothing is kept."""
    ready = body_of(here.person(person_id, "figure"))
    with ready.lock:
        return patch_of(painted.skin, ready.body)


@router.post("/complaints/{complaint_id}/places", status_code=201)
def paint_place(complaint_id: uuid.UUID, painted: PaintedPatch, here: SignedIn) -> ComplaintOut:
    """Keep where a complaint is now; where it was before stays beside it."""
    row = store.complaint(here.db, complaint_id)
    service.paint(here, row, painted.skin)
    return _one(here, row)


@router.patch("/complaints/{complaint_id}")
def change_complaint(complaint_id: uuid.UUID, change: ChangedComplaint, here: SignedIn) -> ComplaintOut:
    """Change a complaint, close it, or open it again. An act that keeps its words keeps its ratings."""
    row = service.change(here, complaint_id, change.version, change.side, change.acts, change.since, change.closed)
    return _one(here, row)


@router.post("/complaints/{complaint_id}/answers", status_code=201)
def ask_again(complaint_id: uuid.UUID, told: AskedAgain, here: SignedIn) -> ComplaintOut:
    """Keep new answers; those of before stay beside them."""
    confirmed = Examination(by=told.confirmed.by, seen_on=told.confirmed.seen_on) if told.confirmed else None
    return _one(here, service.ask_again(here, complaint_id, told.answers, confirmed))


@router.post("/complaints/{complaint_id}/acts/{act_id}/ratings", status_code=201)
def rate_activity(complaint_id: uuid.UUID, act_id: uuid.UUID, new: NewRating, here: SignedIn) -> ComplaintOut:
    """Keep a rating of an act."""
    return _one(here, rating.rate_activity(here, complaint_id, act_id, new.rated()))


@router.get("/complaints/{complaint_id}/episodes")
def list_episodes(complaint_id: uuid.UUID, here: SignedIn) -> list[EpisodeOut]:
    """Episodes of a complaint, in order of time."""
    row = store.complaint(here.db, complaint_id)
    here.reads(row.person_id, "episodes")
    return [_episode(episode) for episode in asked.episodes(here.db, [row.id])]


@router.post("/episodes/read")
def read_sentence(told: Sentence, here: SignedIn) -> list[ToldEpisode]:
    """Episodes out of a sentence such as "three last week, the worst on Thursday"; nothing is kept yet."""
    return episodes_told(told.text, here.today)


@router.post("/complaints/{complaint_id}/episodes", status_code=201)
def add_episodes(complaint_id: uuid.UUID, new: NewEpisodes, here: SignedIn) -> list[EpisodeOut]:
    """Keep episodes, one or many."""
    return [
        _episode(row) for row in service.add_episodes(here, complaint_id, [episode.told() for episode in new.episodes])
    ]


@router.patch("/episodes/{episode_id}")
def change_episode(episode_id: uuid.UUID, change: EpisodeChange, here: SignedIn) -> EpisodeOut:
    """Change an episode, such as when it ended, or drop one that was noted by mistake."""
    told = change.episode.told() if change.episode else None
    return _episode(service.change_episode(here, episode_id, change.version, told, change.dropped))


def _episode(row: EpisodeRow) -> EpisodeOut:
    plain = {name: getattr(row, name) for name in EpisodeOut.model_fields if name != "changed"}
    return EpisodeOut(**plain, changed=len(row.earlier))


@router.post("/complaints/{complaint_id}/ratings", status_code=201)
def add_rating(complaint_id: uuid.UUID, new: NewRating, here: SignedIn) -> ComplaintOut:
    """Keep a rating; one given again at the same moment of a visit takes the other's place.

    Raises: 422 if the moment and the visit do not fit together.
    """
    return _one(here, rating.rate(here, complaint_id, new.rated()))


@router.post("/ratings/{rating_id}/corrections", status_code=201)
def correct_rating(rating_id: uuid.UUID, correction: Correction, here: SignedIn) -> ComplaintOut:
    """Correct a rating of a complaint or an act, or take it back; what was said first stays on record."""
    return _one(here, rating.correct(here, rating_id, correction.id, correction.value))
