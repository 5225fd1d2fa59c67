"""Authentication before a request's body is read: whether its session or key is valid."""

import uuid
from collections.abc import Mapping

from acuthesis.services.request.clock import now
from acuthesis.store import access, home, own_say
from acuthesis.store.database import transaction

SESSION_COOKIES = ("acuthesis_session", "__Host-acuthesis_session")


def is_known(cookies: Mapping[str, str], authorization: str) -> bool:
    """Whether a session cookie is signed in, or a bearer key opens a diary or a person's screen."""
    tokens = [cookies[name] for name in SESSION_COOKIES if name in cookies]
    key = authorization.partition(" ")[2].strip()
    with transaction() as db:
        return any(access.find_session(db, token, now()) is not None for token in tokens) or (
            bool(key) and (home.of_key(db, key) is not None or own_say.of_key(db, key) is not None)
        )


def is_open(practice_id: uuid.UUID, session_id: uuid.UUID) -> bool:
    """Whether a session is still signed in."""
    with transaction(practice_id) as db:
        return access.is_open(db, session_id, now())
