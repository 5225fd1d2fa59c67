"""Schemathesis against the whole API: whatever is sent, the answer is one that the description promises, and no 5xx."""

import contextlib

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given
from hypothesis.errors import Unsatisfiable
from schemathesis import GenerationMode
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from acuthesis.api.app import create_app
from acuthesis.store import access
from acuthesis.store.database import transaction
from tests.tiers import examples

from .conftest import signed_in

EMAIL, PASSWORD = "catcher@elsewhere.example", "catch-it-all"
CHECKS = [not_a_server_error, status_code_conformance, content_type_conformance, response_schema_conformance]
APP = create_app()
HOST = {"Host": "127.0.0.1"}
schema = schemathesis.openapi.from_dict(APP.openapi())
schema.app = APP


@pytest.fixture(scope="module")
def db(world):
    """Cookie and CSRF value of one sign-in, for all requests."""
    # A practice of its own: what is thrown at it must not end up among the people of the other tests.
    with transaction() as database:
        practice = access.add_practice(database, "Thrown at")
        access.add_practitioner(database, practice.id, "Catcher", EMAIL, PASSWORD)
    client = signed_in(APP, EMAIL, PASSWORD)
    cookies = {cookie.name: cookie.value for cookie in client.cookies.jar}
    return {"cookies": cookies, "headers": {"X-CSRF": client.headers["X-CSRF"], **HOST}}


OPERATIONS = [found.ok() for found in schema.exclude(path_regex="sign-(in|out)").get_all_operations()]


@pytest.mark.parametrize("operation", OPERATIONS, ids=lambda operation: operation.label)
def test_any_request_gets_a_promised_answer(db, operation):
    """Requests as they are described, and others that are not."""
    for mode in GenerationMode:

        @examples(12, phases=[Phase.generate], suppress_health_check=list(HealthCheck))
        @given(operation.as_strategy(generation_mode=mode))
        def holds(case):
            case.validate_response(case.call(**db), checks=CHECKS)

        with contextlib.suppress(Unsatisfiable):  # nothing about it can be sent otherwise than described
            holds()
