"""Maps the core's family of errors, and whatever else can be wrong with a request, to one shape of answer."""

from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel, ValidationError
from sqlalchemy.exc import DataError, IntegrityError, OperationalError
from sqlalchemy.exc import TimeoutError as NoConnection
from starlette.exceptions import HTTPException

from acuthesis.api.concurrency import Overloaded
from acuthesis.api.spoken import current_reader
from acuthesis.core.errors import CoreError
from acuthesis.core.message import Message, message, verbatim
from acuthesis.words.reader import Reader

RETRY_AFTER_S = 2
STATUS = {
    "not_found": 404,
    "conflict": 409,
    "unknown_id": 422,
    "not_allowed": 422,
    "signed_out": 401,
    "second_factor": 401,
    "codes_stopped": 401,
    "too_many_tries": 429,
    "forbidden": 403,
    "reason_needed": 403,
    "covered": 423,
    "must_enrol": 403,
    "link_spent": 404,
    "diary_ended": 401,
    "say_ended": 401,
}


class Detail(BaseModel):
    """One thing that is wrong, and where in the input."""

    where: str
    message: str


class Problem(BaseModel):
    """What went wrong: a stable code, a sentence for people, and where.

    400 the request cannot be read; 401 not signed in, or the session has expired; 403 not allowed from here, or not
    with this role; 404 not in this practice; 408 the rest of the request did not arrive in time; 409 changed in the
    meantime; 413 too large; 422 invalid input, see the details; 423 the screen is locked; 429 too many tries; 503 the
    server is busy or the database is not responding. 429 and 503 say in `Retry-After` when to try again (seconds).
    """

    code: str
    message: Message
    where: str = ""
    details: list[Detail] = []


# Every endpoint answers every error with the same shape, so it is described once for each and not status by status.
RESPONSES: dict[int | str, dict[str, object]] = {"default": {"model": Problem, "description": "What went wrong"}}


def answer(status: int, problem: Problem, retry_after_s: int | None = None) -> JSONResponse:
    """A problem as a response; `retry_after_s` asks the client to come back no sooner."""
    told = problem.model_copy(update={"message": verbatim(as_sentence(current_reader().say(problem.message)))})
    headers = {} if retry_after_s is None else {"Retry-After": str(retry_after_s)}
    return JSONResponse(told.model_dump(), status_code=status, headers=headers)


def overloaded() -> JSONResponse:
    """The answer to a request that waited too long for its turn or for a connection."""
    return answer(503, Problem(code="overloaded", message=message("server-busy")), retry_after_s=RETRY_AFTER_S)


def as_sentence(message: str) -> str:
    """A message as it stands on a screen: with a capital, unless it begins with a name of the input, and a full stop.

    >>> as_sentence("there is no score yet"), as_sentence("visits.0: is empty")
    ('There is no score yet.', 'visits.0: is empty.')
    """
    first = message.partition(" ")[0]
    start = message[:1].upper() if first.isalpha() and first.islower() else message[:1]
    return start + message[1:] + ("" if message.endswith((".", "?", "!")) else ".")


def _details(errors: list[dict[str, object]]) -> list[Detail]:
    rows = []
    for error in errors[:20]:
        path = [str(part) for part in error["loc"] if part not in ("body", "query", "path")]  # type: ignore[attr-defined]
        rows.append(Detail(where=".".join(path), message=str(error["msg"]).removeprefix("Value error, ")))
    return rows


def _invalid(errors: list[dict[str, object]]) -> JSONResponse:
    details = _details(errors)
    first = details[0] if details else Detail(where="", message=current_reader().say(message("invalid-input")))
    told = message("error-at", where=first.where, said=first.message) if first.where else verbatim(first.message)
    return answer(422, Problem(code="invalid", message=told, where=first.where, details=details))


def _said(words: Message | str, reader: Reader) -> str:
    return reader.say(words) if isinstance(words, Message) else words


def install(app: FastAPI) -> None:
    """Register the handlers."""

    @app.exception_handler(CoreError)
    def _core(_: Request, error: CoreError) -> JSONResponse:
        reader = current_reader()
        details = [Detail(where=where, message=_said(said, reader)) for where, said in error.details]
        problem = Problem(code=error.code, message=error.message, where=error.where, details=details)
        return answer(STATUS.get(error.code, 422), problem)

    @app.exception_handler(RequestValidationError)
    def _request(_: Request, error: RequestValidationError) -> JSONResponse:
        told = list(error.errors())
        named = next((one["loc"][1] for one in told if one["loc"][:1] == ("path",) and "uuid" in one["type"]), None)
        if named is not None:  # an address that was mistyped, or made up: nothing can be there
            thing = str(named).removesuffix("_id").replace("_", " ")
            said = message("no-such-thing", thing=thing)
            return answer(404, Problem(code="not_found", message=said, where=str(named)))
        return _invalid(told)

    @app.exception_handler(ValidationError)
    def _model(_: Request, error: ValidationError) -> JSONResponse:
        return _invalid([dict(row) for row in error.errors()])

    @app.exception_handler(HTTPException)
    def _http(_: Request, error: HTTPException) -> JSONResponse:
        codes = {401: "signed_out", 403: "forbidden", 404: "not_found", 405: "method", 429: "too_many_tries"}
        code = codes.get(error.status_code, "invalid")
        detail: Any = error.detail  # ours are messages
        said = detail if isinstance(detail, Message) else verbatim(str(detail))
        return answer(error.status_code, Problem(code=code, message=said))

    @app.exception_handler(IntegrityError)
    def _integrity(_: Request, error: IntegrityError) -> JSONResponse:
        return answer(409, Problem(code="conflict", message=message("already-exists-or-missing")))

    @app.exception_handler(DataError)
    def _data(_: Request, error: DataError) -> JSONResponse:
        return answer(422, Problem(code="invalid", message=message("value-cannot-be-stored")))

    @app.exception_handler(OperationalError)
    def _operational(_: Request, error: OperationalError) -> JSONResponse:
        return answer(503, Problem(code="no_database", message=message("no-database")), retry_after_s=RETRY_AFTER_S)

    @app.exception_handler(NoConnection)
    @app.exception_handler(Overloaded)
    def _overloaded(_: Request, error: Exception) -> JSONResponse:
        return overloaded()
