"""The application: routers under /api, and the built front end beside it."""

import gc
import sys
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from threading import Thread

from fastapi import APIRouter, Depends, FastAPI
from fastapi.middleware.gzip import GZipMiddleware
from fastapi.responses import FileResponse, JSONResponse
from fastapi.routing import APIRoute
from sqlalchemy import text

from acuthesis import __version__
from acuthesis.api import (
    access,
    account,
    atlas,
    audit,
    booking,
    complaints,
    compose,
    diary,
    errors,
    figures,
    find,
    findings,
    follow,
    home,
    knowledge,
    live,
    own_say,
    papers,
    passkeys,
    people,
    person_file,
    practice,
    protocols,
    screening,
    staff,
    take_away,
    treat,
    visit_record,
)
from acuthesis.api.access import Anybody, same_origin
from acuthesis.api.bodies import BodyLimit
from acuthesis.api.budget import RequestBudget
from acuthesis.api.concurrency import health_turn
from acuthesis.api.door import AtTheDoor, StrictRoute
from acuthesis.api.spoken import Spoken
from acuthesis.core.follow.analysis import get_ready
from acuthesis.core.message import message
from acuthesis.services import jobs, workers
from acuthesis.settings import settings
from acuthesis.store.database import transaction
from acuthesis.store.people import NotFound

ROUTERS = (
    access,
    account,
    passkeys,
    practice,
    staff,
    booking,
    follow,
    people,
    person_file,
    visit_record,
    screening,
    complaints,
    atlas,
    figures,
    find,
    findings,
    knowledge,
    compose,
    protocols,
    treat,
    live,
    own_say,
    take_away,
    home,
    diary,
    papers,
    audit,
)


def _operation_id(route: APIRoute) -> str:
    return route.name


@asynccontextmanager
async def _ready(_: FastAPI) -> AsyncIterator[None]:
    """While it serves. The libraries of following take seconds to import: they come in while the first page is read."""
    Thread(target=get_ready, daemon=True).start()
    gc.freeze()  # what is imported stays: looking through it for what is no longer used takes tens of milliseconds
    # A thread that computes lets others go on twenty times as often as usual: whoever asks for something small waits
    # less for it, and the switching costs a percent or two.
    sys.setswitchinterval(0.00025)
    workers.composing.start()
    working = jobs.Working() if settings().works else None
    yield
    if working is not None:
        working.stop()
    workers.composing.stop()
    workers.printing.stop()


def create_app() -> FastAPI:
    """Build the application."""
    app = FastAPI(
        title="Acuthesis",
        version=__version__,
        docs_url=None,
        redoc_url=None,
        openapi_url=None,
        generate_unique_id_function=_operation_id,
        default_response_class=Spoken,
        lifespan=_ready,
    )
    app.add_middleware(GZipMiddleware, minimum_size=1500, compresslevel=5)
    app.add_middleware(BodyLimit)
    app.add_middleware(RequestBudget)
    errors.install(app)

    app.add_middleware(AtTheDoor)

    health_router = APIRouter(route_class=StrictRoute)

    @health_router.get("/health", tags=["access"], dependencies=[Depends(health_turn, scope="function")])
    def health() -> dict[str, str]:
        """Whether server and database answer. The connection is held for this one statement."""
        with transaction() as db:
            db.execute(text("SELECT 1"))
        return {"status": "ok", "version": __version__}

    @health_router.get("/openapi.json", include_in_schema=False)
    def description(_: Anybody) -> JSONResponse:
        """The description of the API, for whoever is signed in."""
        return JSONResponse(app.openapi())

    for router in (*(module.router for module in ROUTERS), health_router):
        app.include_router(router, prefix="/api", responses=errors.RESPONSES, dependencies=[Depends(same_origin)])

    @app.get("/{path:path}", include_in_schema=False)
    def front_end(path: str) -> FileResponse:
        """A file of the built front end; any other address opens the application, which finds its way."""
        if path == "api" or path.startswith("api/"):
            raise NotFound(message("nothing-at-this-address"))
        root = settings().web.resolve()
        wanted = _inside(root, path)
        if wanted is not None:
            hashed = path.startswith("assets/")
            cache = "public, max-age=31536000, immutable" if hashed else "no-cache"
            return FileResponse(wanted, headers={"Cache-Control": cache})
        # What people open on their own phones are pages of their own: these need not load the practice's side.
        page = root / (f"{path}.html" if path in ("diary", "say") else "index.html")
        if not page.exists():
            raise NotFound(message("front-end-not-built"))
        return FileResponse(page, headers={"Cache-Control": "no-cache"})

    return app


def _inside(root: Path, path: str) -> Path | None:
    """The file at a path below a folder; None where there is none.

    Raises: NotFound for a name that no file system takes.
    """
    try:
        wanted = (root / path).resolve()
        return wanted if path and wanted.is_relative_to(root) and wanted.is_file() else None
    except (ValueError, OSError):  # a NUL, or a name that is too long
        raise NotFound(message("nothing-at-this-address")) from None


app = create_app()
