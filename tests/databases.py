"""The tests' databases: the demo world is loaded once into a template, and each worker works on a clone of it."""

import fcntl
import hashlib
import os
from datetime import UTC, date, datetime
from zoneinfo import ZoneInfo

from launch.steps import ROOT, WORK, fingerprint
from sqlalchemy import create_engine, make_url, text

PREFIX = "acuthesis_template_"
# Zones without summer time, by hours ahead of UTC, from -11.
ZONES = (
    *("Pacific/Pago_Pago", "Pacific/Honolulu", "Pacific/Gambier", "Pacific/Pitcairn", "America/Phoenix"),
    *("America/Regina", "America/Panama", "America/Puerto_Rico", "America/Cayenne", "America/Noronha"),
    *("Atlantic/Cape_Verde", "Africa/Abidjan", "Africa/Lagos", "Africa/Johannesburg", "Africa/Nairobi", "Asia/Dubai"),
    *("Asia/Karachi", "Asia/Dhaka", "Asia/Bangkok", "Asia/Singapore", "Asia/Tokyo", "Australia/Brisbane"),
    *("Pacific/Guadalcanal", "Pacific/Majuro"),
)
# The practice of the tests lies where it is noon as they begin: whatever the hour here, its day does not end under
# them, and "today" stays the day that the demo world was loaded on.
ZONE = ZONES[23 - datetime.now(UTC).hour]


def today() -> date:
    """The day by the clock of the tests' practice."""
    return datetime.now(ZoneInfo(ZONE)).date()


def clone_demo(name: str, admin: str, owner: str, app: str) -> None:
    """A new database `name` with the demo world in it. `owner` and `app` are addresses with `{}` for the database.

    The template is loaded by whoever comes first and kept for as long as neither the code, the day nor the zone
    changes; the others wait for it.
    """
    world = f"{fingerprint(ROOT / 'src' / 'acuthesis')} {ZONE} {today()}"
    template = PREFIX + hashlib.sha256(world.encode()).hexdigest()[:12]
    WORK.mkdir(exist_ok=True)
    with (WORK / "template.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        known = _ask(admin, f"SELECT datname FROM pg_database WHERE datname LIKE '{PREFIX}%'")
        if template not in known:
            for old in known:
                drop(old, admin)
            _load(template, admin, owner, app)
        _ask(admin, f'CREATE DATABASE "{name}" TEMPLATE "{template}" OWNER "{make_url(owner.format(name)).username}"')


def _load(template: str, admin: str, owner: str, app: str) -> None:
    from acuthesis.demo.histories import load_demo
    from acuthesis.store.database import engine, transaction
    from acuthesis.store.setup import ensure_database

    loading = f"{template}_loading"  # what was interrupted is never taken for a whole one
    drop(loading, admin)
    urls = [url.format(loading) for url in (owner, app)]
    ensure_database(admin, *urls)
    with transaction(url=urls[1]) as db:
        load_demo(db, datetime.now(UTC), ZONE)
    for url in urls:
        engine(url).dispose()
    _ask(admin, f'ALTER DATABASE "{loading}" RENAME TO "{template}"')


def drop(name: str, admin: str | None = None) -> None:
    _ask(admin or os.environ["ACUTHESIS_ADMIN_URL"], f'DROP DATABASE IF EXISTS "{name}" WITH (FORCE)')


def _ask(admin: str, statement: str) -> list[str]:
    server = create_engine(make_url(admin), isolation_level="AUTOCOMMIT")
    try:
        with server.connect() as connection:
            done = connection.execute(text(statement))
            return list(done.scalars()) if done.returns_rows else []
    finally:
        server.dispose()
