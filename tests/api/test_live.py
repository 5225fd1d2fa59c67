"""Who looks at a treatment is told when it moves, and nobody else; also after the database was away for a moment."""

import asyncio
import os
import uuid
from contextlib import AsyncExitStack

import pytest
from sqlalchemy import create_engine, select, text

from acuthesis.api import live
from acuthesis.demo.world import EMAIL
from acuthesis.services.visit.live import CHANNEL, wire
from acuthesis.settings import settings
from acuthesis.store.database import transaction
from acuthesis.store.model import AuthSessionRow
from tests.conftest import DATABASE

from .conftest import at_the_door, event, practice_of

SOON_S = 20  # on a machine that has other things to do


def said(visit_id):
    """Another process keeps something of this treatment."""
    with transaction() as db:
        db.execute(text("SELECT pg_notify(:channel, :visit)"), {"channel": CHANNEL, "visit": str(visit_id)})


def forget(changed):
    while not changed.empty():
        changed.get_nowait()


async def is_heard(visit_id, changed):
    """Waits until what is said of a visit comes through, and takes it away again."""
    for _ in range(SOON_S * 2):
        await asyncio.to_thread(said, visit_id)
        try:
            await asyncio.wait_for(changed.get(), 0.5)
        except TimeoutError:
            continue
        forget(changed)
        return
    raise AssertionError("nothing is heard")


async def told_of(queue, visit):
    """Waits for word of a visit; that anything may have moved, because it is listened to anew, is no word of it."""
    while await queue.get() != visit:
        continue


@pytest.fixture
def cut(world):
    """Ends every connection that hears, as a database does that is started anew."""

    def now():
        admin = create_engine(os.environ["ACUTHESIS_ADMIN_URL"], isolation_level="AUTOCOMMIT")
        hearing = "FROM pg_stat_activity WHERE query LIKE 'LISTEN%' AND datname = :name"
        with admin.connect() as connection:
            ending = text(f"SELECT count(pg_terminate_backend(pid)) {hearing}")
            ended = connection.execute(ending, {"name": DATABASE}).scalar_one()
        admin.dispose()
        return ended

    return now


def test_only_who_looks_at_a_treatment_is_told_that_it_moved(newcomer):
    other = uuid.uuid4()

    async def look():
        async with AsyncExitStack() as stack:
            mine, theirs = (stack.enter_context(wire.hears(one)) for one in (uuid.UUID(newcomer.visit_id), other))
            await is_heard(other, theirs)
            forget(mine)
            newcomer.screen()
            await asyncio.to_thread(newcomer.compose, newcomer.complain())
            kept = await asyncio.to_thread(newcomer.say, newcomer.begin())
            assert kept.status_code == 200, kept.text
            await asyncio.wait_for(told_of(mine, uuid.UUID(newcomer.visit_id)), SOON_S)
            forget(mine)
            refused = await asyncio.to_thread(newcomer.say, event("start_stop", key="SP99-1", level=99))
            assert refused.status_code == 422
            await is_heard(other, theirs)  # what was said later has come through
            assert mine.empty(), "nothing was kept, so nothing moved"

    asyncio.run(look())
    assert not wire._waiting, "who has gone is waited for no longer"


def test_after_the_database_was_away_it_is_heard_again(cut):
    visit = uuid.uuid4()

    async def look():
        with wire.hears(visit) as changed:
            await is_heard(visit, changed)
            assert await asyncio.to_thread(cut) >= 1
            heard = await asyncio.wait_for(changed.get(), SOON_S)
            assert heard is None, "what was notified meanwhile may have been anything"
            forget(changed)
            await is_heard(visit, changed)

    asyncio.run(look())


@pytest.fixture
def session(ode):
    """Practice and id of a session that is signed in."""
    practice = practice_of(EMAIL)
    with transaction(practice) as db:
        return practice, db.scalars(select(AuthSessionRow.id).order_by(AuthSessionRow.created_at.desc())).first()


def test_the_stream_ends_with_its_session(monkeypatch, session):
    """Signed out, or ended from another device: the browser is not told anything any more."""
    practice, id = session
    monkeypatch.setattr(live, "BEAT_S", 0.5)

    async def read():
        loop = asyncio.get_running_loop()
        stream, ended = live._told(uuid.uuid4(), practice, id), None
        async for line in stream:
            if ended is None and "still here" in line:
                await asyncio.to_thread(end)
                ended = loop.time()
        return loop.time() - ended

    def end():
        with transaction(practice) as db:
            db.delete(db.scalar(select(AuthSessionRow).where(AuthSessionRow.id == id)))

    assert asyncio.run(read()) < live.STREAM_S / 2


def test_the_stream_says_moved_and_nothing_else_and_ends_by_itself(monkeypatch, session):
    visit = uuid.uuid4()
    monkeypatch.setattr(live, "STREAM_S", 3.0)
    monkeypatch.setattr(live, "BEAT_S", 0.2)

    async def read():
        lines, stream = [], live._told(visit, *session)
        async for line in stream:
            lines.append(line)
            if len(lines) == 2:
                await asyncio.to_thread(said, visit)
        return lines

    lines = asyncio.run(read())
    assert lines[0].startswith("retry: ")
    assert set(lines[1:]) <= {": still here\n\n", "data: moved\n\n"} and "data: moved\n\n" in lines
    assert str(visit) not in "".join(lines)


def test_nobody_else_follows_a_treatment(app, stranger, newcomer):
    path = f"/api/visits/{newcomer.visit_id}/treatment/live"
    assert at_the_door(app).get(path).status_code == 401
    assert stranger.get(path).status_code == 404
    assert settings().database_url not in stranger.get(path).text
