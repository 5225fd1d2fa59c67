"""The core from the shell: no server, no database; reads a file or `-`; bad input is one line and exit code 2."""

import json
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any, TypeVar

import typer
from pydantic import BaseModel, TypeAdapter, ValidationError

from acuthesis.core.atlas.areas.baked import charts
from acuthesis.core.atlas.drawing.lines_plate import lines_plate
from acuthesis.core.atlas.entries import catalogue
from acuthesis.core.atlas.entries.search import search
from acuthesis.core.atlas.locating.locate import Located, with_way
from acuthesis.core.atlas.locating.placed import place_all
from acuthesis.core.body.asset import asset_is_current, build_asset, load_asset
from acuthesis.core.body.fit import FittedBody, fit
from acuthesis.core.body.person import BodyFacts, Fingers, Sex, facts_from, figure_fits
from acuthesis.core.compose.choose.composer import compose
from acuthesis.core.compose.choose.explaining import explained
from acuthesis.core.compose.choose.programme import ProgrammeRequest, programme
from acuthesis.core.compose.choose.request import ComposeRequest
from acuthesis.core.errors import CoreError
from acuthesis.core.follow.followed import followed
from acuthesis.core.follow.ratings import Series
from acuthesis.core.message import message
from acuthesis.core.safety.located import locate_within
from acuthesis.core.safety.reach import OnBody, by_named_places, seeing
from acuthesis.core.safety.screening import Screening, parse_screening
from acuthesis.core.treat.events import EVENT
from acuthesis.core.treat.fold import fold
from acuthesis.settings import settings
from acuthesis.words.reader import english

app = typer.Typer(no_args_is_help=True, add_completion=False, help=__doc__)
T = TypeVar("T")
PERSON_KEYS = {
    "sex",
    "age",
    "height_cm",
    "weight_kg",
    "measures_cm",
    "practitioner",
    "screening",
    "pressure_pain_n_per_cm2",
}
AsJson = Annotated[bool, typer.Option("--json", help="Print JSON.")]


def _fail(message: str) -> None:
    print(f"acuthesis: {message}", file=sys.stderr)
    raise typer.Exit(2)


def _read(path: str) -> str:
    try:
        return sys.stdin.read() if path == "-" else Path(path).read_text()
    except (OSError, UnicodeDecodeError) as error:
        _fail(f"{path}: {getattr(error, 'strerror', None) or 'not text in UTF-8'}")
        raise


def _json(path: str) -> Any:
    try:
        return json.loads(_read(path))
    except json.JSONDecodeError as error:
        _fail(f"{path}: not JSON at line {error.lineno}, column {error.colno}: {error.msg}")


def _plainly(work: Callable[[], T]) -> T:
    """Run; whatever the input did wrong becomes one line and exit code 2."""
    try:
        return work()
    except CoreError as error:
        _fail(english().say(error.message))
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        _fail(
            f"{where}: {first['msg'].removeprefix('Value error, ')}"
            if where
            else first["msg"].removeprefix("Value error, ")
        )
    except FileNotFoundError as error:
        _fail(str(error))
    raise AssertionError  # _fail does not return


def _person(path: str) -> tuple[FittedBody, Screening, Fingers]:
    data = _json(path)

    def read() -> tuple[FittedBody, Screening, Fingers]:
        if not isinstance(data, dict):
            raise CoreError(message("cli-person-json-object", path=path))
        screening = _screening(data)
        practitioner = Fingers(**_object(data, "practitioner"))
        _object(data, "measures_cm")
        body = fit(load_asset(settings().body_asset), facts_from(data))
        if seeing(screening):
            screening = OnBody(body, place_all(body)).with_reaches(screening)
        return body, screening, practitioner

    return _plainly(read)


def _screening(person: dict[str, Any]) -> Screening:
    """The screening in a person's JSON, with their age and measured thresholds. Raises: CoreError naming the key."""
    for key in person:
        if key not in PERSON_KEYS:
            raise CoreError(
                message("cli-person-there-no-key-there", key=key, person_keys=", ".join(sorted(PERSON_KEYS)))
            )
    age = person.get("age")
    if age is not None and (isinstance(age, bool) or not isinstance(age, int | float) or not 0 <= age <= 120):
        raise CoreError(message("cli-person-age-years-from"))
    thresholds = TypeAdapter(dict[str, float]).validate_python(_object(person, "pressure_pain_n_per_cm2"))
    sex = TypeAdapter(Sex).validate_python(person.get("sex") or "unspecified")
    return parse_screening(_object(person, "screening"), None if age is None else int(age), thresholds, sex=sex)


def _on_body(screening: Screening, person: dict[str, Any]) -> Screening:
    """The screening as rules that see the body read it; by named places for somebody whom no figure fits."""
    if not seeing(screening):
        return screening
    fits = screening.age is None or figure_fits(screening.age)
    body = fit(load_asset(settings().body_asset), facts_from(person) if fits else BodyFacts())
    on_body = OnBody(body, place_all(body))
    return on_body.with_reaches(screening) if fits else by_named_places(on_body.with_sites(screening))


def _object(data: dict[str, Any], key: str) -> dict[str, Any]:
    value = data.get(key) or {}
    if not isinstance(value, dict):
        raise CoreError(message("cli-must-json-object", key=key))
    return value


def _print(model: BaseModel) -> None:
    print(model.model_dump_json(indent=2, by_alias=True))


@app.command()
def atlas() -> None:
    """Print every point and area with its rule, names, cautions and categories as JSON."""
    print(catalogue.as_json())


@app.command()
def point(id: str, as_json: AsJson = False) -> None:
    """Print one point or area."""
    found = _plainly(lambda: catalogue.entry(id))
    if as_json:
        _print(found)
        return
    print(f"{found.id}  {found.names.english}  {found.names.romanised} {found.names.characters}".rstrip())
    print(f"{found.region}. {found.feel}")
    print("Traditionally for: " + ", ".join(found.traditional))


@app.command("search")
def search_command(text: str, as_json: AsJson = False) -> None:
    """Find points and areas by code, name, place or use."""
    found = [catalogue.describe(entry) for entry in search(text)]
    if as_json:
        print(TypeAdapter(list[catalogue.Described]).dump_json(found, indent=2).decode())
        return
    for row in found:
        print(f"{row.id:22} {row.name:34} {row.region}")


@app.command("lines")
def lines_command(surface: str) -> None:
    """Draw the feature lines of a surface over its curvature (ear, ear_back, face); prints SVG."""
    print(_plainly(lambda: lines_plate(load_asset(settings().body_asset), surface)))


@app.command("locate")
def locate_command(
    id: str,
    person: Annotated[str, typer.Option(help="person.json, or - for standard input")],
    side: Annotated[str, typer.Option(help="left or right")] = "left",
    as_json: AsJson = False,
) -> None:
    """Locate a point or area on a person."""
    if side not in ("left", "right"):
        _fail("--side is left or right")
    target = _plainly(lambda: catalogue.entry(id))
    body, screening, practitioner = _person(person)
    found = _plainly(lambda: locate_within(target, side, body, screening, practitioner.measured()))  # type: ignore[arg-type]
    found = _plainly(lambda: with_way(found, target, body))
    if as_json:
        # The shell's contract calls the id of a point or an area "point".
        print(json.dumps({"point": found.id, **found.model_dump(mode="json", by_alias=True, exclude={"id"})}, indent=2))
    else:
        _say(found)


def _say(found: Located) -> None:
    print(f"{found.id}  {found.name}, {found.side}  ({found.region})")
    if found.posture:
        print(f"  Posture: {found.posture}.")
    for number, step in enumerate(found.steps, 1):
        print(f"  {number}. {step}")
    for check in found.fingers:
        span = check.span.replace("_", " ")
        print(f"  {span}: {check.own_cm:.1f} cm for {check.wanted_cm:.1f} cm ({check.error_cm:+.1f})")
    for other in found.alternatives:
        print(f"  Elsewhere by {other.school}: {other.name} ({other.off_cm:.1f} cm away)")
    if found.under is not None and found.under.gap is not None:
        print(f"  Between two tendons: {' and '.join(found.under.gap)}")
    for caution in found.cautions:
        print(f"  ! {caution}")


@app.command("compose")
def compose_command(
    request: str,
    visits: Annotated[int, typer.Option(help="A programme of so many visits instead of one.")] = 1,
    explain: Annotated[bool, typer.Option("--explain", help="Show each step on the way instead of the score.")] = False,
    as_json: AsJson = False,
) -> None:
    """Compose a score from a request (JSON with `person` and what to compose for); prints JSON."""
    data = _json(request)

    def work() -> BaseModel:
        if not isinstance(data, dict):
            raise CoreError(message("cli-request-json-object", request=request))
        person = _object(data, "person")
        screening = _on_body(_screening(person), person)
        wish = ComposeRequest(**{key: value for key, value in data.items() if key != "person"})
        if explain:
            return explained(wish, screening)
        if visits == 1:
            return compose(wish, screening)
        return programme(ProgrammeRequest(first=wish, visits=visits), screening)

    _print(_plainly(work))


@app.command()
def conduct(events: str) -> None:
    """Print the state of a treatment after its events (JSON lines)."""
    lines = [line for line in _read(events).splitlines() if line.strip()]

    def work() -> BaseModel:
        parsed = []
        for number, line in enumerate(lines, 1):
            try:
                parsed.append(EVENT.validate_json(line))
            except ValidationError as error:
                first = error.errors()[0]
                where = ".".join(str(part) for part in first["loc"])
                raise CoreError(
                    message("cli-event-line-invalid", events=events, number=number, where=where, problem=first["msg"])
                ) from error
        return fold(parsed)

    _print(_plainly(work))


@app.command()
def follow(series: str) -> None:
    """Judge a series of ratings, with everything that can be worked out from them; prints JSON."""
    data = _json(series)
    _print(_plainly(lambda: followed(Series.model_validate(data))))


@app.command("build-body")
def build_body(force: bool = False) -> None:
    """Build the body asset from the installed body data."""
    path = settings().body_asset
    if force or not asset_is_current(path):
        _plainly(lambda: build_asset(path, charts))
    print(path)


if __name__ == "__main__":
    app()
