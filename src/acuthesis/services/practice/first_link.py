"""The link by which a new installation sets up its first practice."""

import os
import uuid

from acuthesis.services.request.clock import now
from acuthesis.store import access, links
from acuthesis.store.database import transaction


def first_link(earlier: str) -> str:
    """The token of the link by which a practice is set up; empty once somebody is in.

    `earlier` is one that was given out before: as long as it holds, it stays the one, so that there is never a second.
    """
    with transaction(url=os.environ["ACUTHESIS_OWNER_URL"]) as db:
        if access.someone_is_here(db):
            return ""
    with transaction() as db:
        found = links.look(db, earlier, now()) if earlier else None
        if found is not None and found.kind == "set_up":
            return earlier
        token, _ = links.make(db, uuid.uuid4(), "set_up", now())
        return token
