"""A treatment on two screens: a stream that says when it has moved, and nothing of it."""

import asyncio
import uuid
from collections.abc import AsyncIterator

from fastapi import APIRouter
from fastapi.responses import StreamingResponse

from acuthesis.api.access import SignedIn
from acuthesis.api.door import StrictRoute
from acuthesis.services.live import wire
from acuthesis.store import visits

router = APIRouter(route_class=StrictRoute, tags=["treat"])
STREAM_S = 25.0  # then it ends, and the browser asks again: a server that is stopped is not held up for longer
BEAT_S = 5.0  # a sign of life, by which a browser that is gone is noticed


# Not described with the rest of the API: a stream has no body that a client could be written from.
@router.get("/visits/{visit_id}/treatment/live", include_in_schema=False)
def follow_treatment(visit_id: uuid.UUID, here: SignedIn) -> StreamingResponse:
    """Server-sent events: `moved` whenever something of the treatment was kept. It reads nothing of the record."""
    visits.visit(here.db, visit_id)
    return StreamingResponse(_told(visit_id), media_type="text/event-stream", headers={"X-Accel-Buffering": "no"})


async def _told(visit_id: uuid.UUID) -> AsyncIterator[str]:
    loop = asyncio.get_running_loop()
    ends = loop.time() + STREAM_S
    with wire.hears(visit_id) as changed:
        yield "retry: 500\n\n"
        while loop.time() < ends:
            try:
                await asyncio.wait_for(changed.wait(), BEAT_S)
            except TimeoutError:
                yield ": still here\n\n"
                continue
            changed.clear()
            yield "data: moved\n\n"
