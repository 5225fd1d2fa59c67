"""The live stream of a treatment: server-sent events that say when it has changed, and nothing of it.

A stream holds no thread and no connection: it waits in the event loop, and ends when its session does.
"""

import asyncio
import uuid
from collections.abc import AsyncIterator

from fastapi import APIRouter
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import StreamingResponse

from acuthesis.api.access import SignedIn
from acuthesis.api.concurrency import database_turn
from acuthesis.api.door import StrictRoute
from acuthesis.services.request.session_check import is_open
from acuthesis.services.visit.live import wire
from acuthesis.store import visits

router = APIRouter(route_class=StrictRoute, tags=["treat"])
STREAM_S = 25.0  # then it ends, and the browser asks again: a server that is stopped is not held up for longer
BEAT_S = 5.0  # a sign of life, by which a browser that is gone is noticed


# Not described with the rest of the API: a stream has no body that a client could be written from.
@router.get("/visits/{visit_id}/treatment/live", include_in_schema=False)
def follow_treatment(visit_id: uuid.UUID, here: SignedIn) -> StreamingResponse:
    """Server-sent events: `moved` whenever something of the treatment was saved. It reads nothing of the record."""
    visits.visit(here.db, visit_id)
    told = _told(visit_id, here.practice_id, here.browser.id)
    return StreamingResponse(told, media_type="text/event-stream", headers={"X-Accel-Buffering": "no"})


async def _told(visit_id: uuid.UUID, practice_id: uuid.UUID, session_id: uuid.UUID) -> AsyncIterator[str]:
    loop = asyncio.get_running_loop()
    ends = loop.time() + STREAM_S
    # One event for both: it says that something may have changed, never what.
    with wire.hears(visit_id, session_id) as changed:
        yield "retry: 500\n\n"
        while loop.time() < ends:
            try:
                heard = await asyncio.wait_for(changed.get(), BEAT_S)
            except TimeoutError:
                yield ": still here\n\n"
                continue
            if heard != visit_id:  # the session ended, or the database was away meanwhile
                async with database_turn.turn():
                    if not await run_in_threadpool(is_open, practice_id, session_id):
                        return
            if heard != session_id:
                yield "data: moved\n\n"
