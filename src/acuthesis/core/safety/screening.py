"""The screening: questions as data, answers as a model built from them, and what the answers decide."""

from collections.abc import Iterator, Mapping
from datetime import date, timedelta
from functools import lru_cache
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from acuthesis.core.atlas.entries.catalogue import part_names, sites
from acuthesis.core.body.person import Sex
from acuthesis.core.data_file import read
from acuthesis.core.errors import CoreError, OutOfRange, UnknownId
from acuthesis.core.message import message
from acuthesis.core.reason import Reason
from acuthesis.core.safety.pressure import PressureTable, pressure_table
from acuthesis.core.safety.rule import DATA, Condition, Rule, written_rules

LYING = ("prone", "supine", "left_side", "right_side")
SIDE_ANSWERS = ("left", "right", "both")
THRESHOLDS_N_PER_CM2 = (0.05, 50.0)  # what an algometer reads on a person
MOST_PAINTED = 12_000  # vertices of one painted place
MOST_PLACES = 40  # in one answer

Decision = Literal["ok", "ask", "refer", "emergency"]
Kind = Literal["flag", "weeks", "number", "choice", "side", "lying", "places", "reading"]


class Painted(BaseModel):
    """A place painted on the figure: numbers of its skin vertices, the same on every figure, what it is called, and the
    sites that it lies on as `site@side`, once a body was looked at.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    skin: tuple[Annotated[int, Field(ge=0)], ...] = Field(min_length=1, max_length=MOST_PAINTED)
    words: str = Field("", max_length=200)
    sites: tuple[Annotated[str, Field(max_length=60)], ...] = Field((), max_length=160)


Answer = bool | int | str | tuple[str | Painted, ...] | tuple[int, int]


class Choice(BaseModel):
    """One of the answers that a question offers."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    name: str


class RuleReach(BaseModel):
    """What one rule reaches on one person's body.

    `places`: points and areas as `id@side`, each with its distance over the skin (cm) from what the rule speaks of; 0
    within it. `sites`: those within reach, as `site@side`; `joints` the same. `on`: the sites of the places themselves,
    without what is around them, and `sides` the sides they are on.
    """

    model_config = ConfigDict(frozen=True)

    places: dict[str, float] = {}
    sites: frozenset[str] = frozenset()
    joints: frozenset[str] = frozenset()
    on: frozenset[str] = frozenset()
    sides: frozenset[str] = frozenset()


class Question(BaseModel):
    """One question of the screening.

    `explicit`: no is an answer of its own, because some rules wait for one. `asked_of`: whom it can concern.
    `only_in_the_room`: nothing that somebody reads alone at home. `discreet`: for the practitioner's eyes alone; what
    rules say of it, the practice's own too, stands on no paper.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    ask: str
    kind: Kind
    severity: Literal["emergency", "refer", "context"]
    source: Literal["first_aid", "tradition", "manual"]
    say: str = ""
    # The same to somebody who reads it at home, alone, where the words for the room do not fit.
    ask_at_home: str = ""
    at_home: str = ""
    low: int = 0  # of a number, or of weeks
    high: int = 0
    unit: str = "weeks"
    choices: tuple[Choice, ...] = ()
    of_side: str = ""  # the site that an answer of left, right or both stands for
    explicit: bool = False
    asked_of: Condition | None = None
    only_in_the_room: bool = False
    discreet: bool = False


class QuestionGroup(BaseModel):
    """Questions that are asked together."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    group: str
    title: str
    lead: str
    questions: tuple[Question, ...]


@lru_cache
def question_groups() -> tuple[QuestionGroup, ...]:
    """The screening in the order in which it is asked, group by group.

    >>> question_groups()[0].title
    'Right now'
    """
    rows = read(DATA / "questions.yaml")
    return tuple(TypeAdapter(list[QuestionGroup]).validate_python(rows))


@lru_cache
def questions() -> dict[str, Question]:
    """Every question of the screening by id, with the answers it takes.

    >>> questions()["chest_pain"].severity
    'emergency'
    """
    return {question.id: question for group in question_groups() for question in group.questions}


class Screening(BaseModel):
    """What is known of a person's health. Unanswered means no. Built by `parse_screening`, which checks every key.

    `age` in years; `thresholds` measured pressure-pain thresholds (newton per square centimetre) by body part;
    `pressure` the levels of whoever presses; `house` what a practice adds to the standing rules. House rules are only
    ever added: a practice tightens, it never loosens. `sex` and `complaints` (the side by complaint: those of today and
    those still open) are what some rules ask for. `denied`: questions that were answered with no, where that is more
    than not having been asked. `refused_here`: points of a practice's own that on this person's
    body lie on a refused one, with the reason (see `near`). `reaches`: what rules that see the body reach on it, by
    rule; None where no body was looked at (see `reach`).
    """

    model_config = ConfigDict(frozen=True)

    answers: dict[str, Answer] = {}
    cleared: tuple[str, ...] = ()
    denied: frozenset[str] = frozenset()
    age: int | None = None
    sex: Sex = "unspecified"
    complaints: dict[str, str] = {}
    thresholds: dict[str, float] = {}
    pressure: PressureTable = Field(default_factory=pressure_table)
    house: tuple[Rule, ...] = ()
    refused_here: dict[str, Reason] = {}
    reaches: dict[str, RuleReach] | None = None

    def answer(self, question: str) -> Answer | None:
        """The answer to a question, None where it was not given.

        >>> parse_screening({"blood_thinner": True}).answer("chest_pain") is None
        True
        """
        return self.answers.get(question)

    def was_asked(self, question: str) -> bool:
        """Whether a question was answered at all, with yes, with no, or with how much.

        >>> parse_screening({"might_be_pregnant": False}).was_asked("might_be_pregnant")
        True
        """
        return question in self.answers or question in self.denied

    def with_complaints(self, sides: Mapping[str, str]) -> "Screening":
        """The same of somebody who has these complaints too: the side by complaint."""
        return self.model_copy(update={"complaints": {**self.complaints, **sides}})

    def named_places(self, question: str) -> Iterator[tuple[str, str]]:
        """What an answer names, and what its painted places lie on, as (site or part, side); no side: both.

        >>> list(parse_screening({"scar": ["calf.left"]}).named_places("scar"))
        [('calf', 'left')]
        """
        for place in self.places(question):
            for at in place.sites if isinstance(place, Painted) else (place.replace(".", "@"),):
                name, _, side = at.partition("@")
                yield name, side

    def places(self, question: str) -> tuple[str | Painted, ...]:
        """The places that an answer names or paints; none where "where?" is not answered.

        >>> parse_screening({"scar": ["calf.left"]}).places("scar")
        ('calf.left',)
        """
        answer = self.answers.get(question)
        return tuple(one for one in answer if not isinstance(one, int)) if isinstance(answer, tuple) else ()

    def unplaced(self) -> tuple[Question, ...]:
        """Questions that were answered with yes where they ask where."""
        return tuple(one for id, one in questions().items() if one.kind == "places" and self.answers.get(id) is True)

    @property
    def painted(self) -> bool:
        """Whether any answer has a painted place, which only a body can read.

        >>> parse_screening({"scar": ["calf.left"]}).painted
        False
        """
        return any(isinstance(place, Painted) for id in self.answers for place in self.places(id))

    @property
    def light_sensitive(self) -> bool:
        """Whether the dim room is this person's default.

        >>> parse_screening({}).light_sensitive
        False
        """
        return bool(self.answers.get("light_sensitive"))


def parse_screening(
    data: dict[str, Any],
    age: int | None = None,
    thresholds: dict[str, float] | None = None,
    house: tuple[Rule, ...] = (),
    pressure: PressureTable | None = None,
    sex: Sex = "unspecified",
    complaints: Mapping[str, str] | None = None,
) -> Screening:
    """Answers from their open form: one key a question, `red_flags` and `cleared` as lists of question ids.

    Raises: UnknownId naming the key; CoreError naming the field whose value does not fit the question.

    >>> parse_screening({"blood_thinner": True}).answer("blood_thinner")
    True
    """
    answers: dict[str, Answer] = {}
    denied: set[str] = set()
    cleared = _ids(data.get("cleared", []), "cleared")
    for flag in _ids(data.get("red_flags", []), "red_flags"):
        answers[flag] = True
    for key, value in data.items():
        if key in ("cleared", "red_flags") or value is None:
            continue
        if value is False:
            if key in questions() and questions()[key].explicit:
                denied.add(key)
            continue
        if key not in questions():
            raise UnknownId(message("screening-screening-there-no-question", key=key), where=f"screening.{key}")
        answers[key] = _checked(questions()[key], value)
    for part, value in (thresholds or {}).items():
        check_threshold(part, value)
    return Screening(
        answers=answers,
        cleared=cleared,
        denied=frozenset(denied),
        age=age,
        sex=sex,
        complaints=dict(complaints or {}),
        thresholds=thresholds or {},
        pressure=pressure or pressure_table(),
        house=house,
    )


def check_threshold(part: str, n_per_cm2: float) -> None:
    """Raises: UnknownId for a part of the body that does not exist, OutOfRange for a pressure no algometer reads."""
    where = f"pressure_pain_n_per_cm2.{part}"
    if part not in part_names():
        raise UnknownId(
            message("screening-there-no-body-part-there", part=part, part_names=", ".join(part_names())), where=where
        )
    low, high = THRESHOLDS_N_PER_CM2
    if not low <= n_per_cm2 <= high:
        raise OutOfRange(
            message("screening-n-cm-not-between", part=part, n_per_cm2=n_per_cm2, low=low, high=high), where=where
        )


@lru_cache
def clearable() -> frozenset[str]:
    """What a doctor's word can lift: referring questions, and the referrals that rules make.

    >>> "chest_pain" in clearable()
    False
    """
    asked = {id for id, question in questions().items() if question.severity == "refer"}
    return frozenset(asked | {rule.clear or rule.id for rule in written_rules() if rule.severity == "refer"})


def _ids(value: Any, where: str) -> tuple[str, ...]:
    if not isinstance(value, list | tuple):
        raise CoreError(message("screening-screening-must-list-question-ids", where=where), where=f"screening.{where}")
    for id in value:
        question = questions().get(str(id))
        if (question is None or question.severity == "context") and not (where == "cleared" and id in clearable()):
            raise UnknownId(message("screening-screening-not-red-flag", id=id), where=f"screening.{where}")
    return tuple(str(id) for id in value)


def _checked(question: Question, value: Any) -> Answer:
    where = f"screening.{question.id}"
    match question.kind:
        case "weeks" | "number":
            return _whole(value, question, where)
        case "choice":
            if value not in [choice.id for choice in question.choices]:
                raise CoreError(
                    message(
                        "screening-one-of-choices",
                        where=where,
                        choices=", ".join(choice.id for choice in question.choices),
                    ),
                    where=where,
                )
            return str(value)
        case "side":
            if value not in SIDE_ANSWERS:
                raise CoreError(message("screening-must-left-right-or-both", where=where), where=where)
            return str(value)
        case "lying":
            if not isinstance(value, list | tuple) or any(position not in LYING for position in value):
                raise CoreError(
                    message("screening-list-of-positions", where=where, lying=", ".join(LYING)), where=where
                )
            return tuple(value)
        case "reading":
            return _reading(value, where)
        case "places" if value is not True:
            if question.of_side and value in SIDE_ANSWERS:
                value = [f"{question.of_side}.{side}" for side in (("left", "right") if value == "both" else (value,))]
            return _places(value, where)
    if value is not True:
        raise CoreError(message("screening-must-true-or-false", where=where), where=where)
    return True


def _whole(value: Any, question: Question, where: str) -> int:
    low, high = question.low, question.high
    if isinstance(value, bool) or not isinstance(value, int) or not low <= value <= high:
        raise CoreError(
            message("screening-whole-number-from", where=where, unit=question.unit, low=low, high=high), where=where
        )
    return value


def _reading(value: Any, where: str) -> tuple[int, int]:
    whole = isinstance(value, list | tuple) and [type(number) for number in value] == [int, int]
    if not whole or not (50 <= value[0] <= 300 and 20 <= value[1] <= 200 and value[1] < value[0]):
        raise CoreError(message("screening-two-whole-numbers-mmhg-upper", where=where), where=where)
    return (value[0], value[1])


def _places(value: Any, where: str) -> tuple[str | Painted, ...]:
    if not isinstance(value, list | tuple) or not 1 <= len(value) <= MOST_PLACES:
        raise CoreError(message("screening-true-or-list-up-places", where=where, most_places=MOST_PLACES), where=where)
    return tuple(_place(place, f"{where}.{rank}", where) for rank, place in enumerate(value))


def _place(place: Any, at: str, where: str) -> str | Painted:
    if isinstance(place, dict | Painted):
        try:
            return Painted.model_validate(place)
        except ValidationError as error:
            first = error.errors()[0]
            named = ".".join(str(part) for part in first["loc"])
            raise CoreError(
                message("screening-answer-invalid", at=at, named=named, problem=first["msg"]), where=at
            ) from error
    name, _, side = str(place).partition(".")
    if (name not in sites() and name not in part_names()) or side not in ("", "left", "right"):
        raise UnknownId(
            message("screening-there-no-place-part-or", where=where, place=place, part_names=", ".join(part_names())),
            where=where,
        )
    return str(place)


def open_form(screening: Screening) -> dict[str, Any]:
    """The answers as the open form that `parse_screening` reads: the way there and back changes nothing.

    >>> open_form(parse_screening({"pregnancy_weeks": 22}))
    {'pregnancy_weeks': 22}
    """
    data: dict[str, Any] = {
        key: [one.model_dump(mode="json") if isinstance(one, Painted) else one for one in value]
        if isinstance(value, tuple)
        else value
        for key, value in screening.answers.items()
    }
    data |= dict.fromkeys(sorted(screening.denied), False)
    if screening.cleared:
        data["cleared"] = list(screening.cleared)
    return data


@lru_cache
def _validity() -> dict[str, int]:
    """Days for which answers hold: `screening_days`, `pregnancy_days`."""
    return TypeAdapter(dict[str, int]).validate_python(read(DATA / "validity.yaml"))


def fresh_until(answered: date, screening: Screening) -> date:
    """The last day on which answers given on a day can be worked on: not as long in pregnancy, which changes weekly.

    >>> fresh_until(date(2026, 3, 1), parse_screening({}))
    datetime.date(2026, 8, 28)
    """
    pregnant = screening.answer("pregnancy_weeks") is not None
    return answered + timedelta(days=_validity()["pregnancy_days" if pregnant else "screening_days"])


def is_stale(answered: date, today: date, screening: Screening) -> bool:
    """Whether answers given on a day are too old to work on today: after `fresh_until`.

    >>> is_stale(date(2026, 3, 1), date(2026, 3, 2), parse_screening({}))
    False
    """
    return today > fresh_until(answered, screening)
