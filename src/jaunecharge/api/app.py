"""The web application: the API, and the built front end."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request
from fastapi.openapi.utils import get_openapi
from fastapi.responses import FileResponse
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException

from .. import __version__
from ..live.hub import Hub
from ..live.inbox import Inbox
from ..live.keeper import Keeper
from ..live.rereading import Rereader
from ..live.spool import Spool
from ..store.database import Database
from ..store.uploads import Uploads
from . import (
    bench,
    bench_shapes,
    cards,
    chains,
    checks,
    exports,
    hand,
    kit,
    kit_shapes,
    plan_shapes,
    plans,
    problems,
    pushed,
    readings,
    remarks,
    runs,
    series,
    shapes,
    sign_in,
    uploads,
    versus,
)
from .context import Context, context_of
from .guard import Guard
from .network import Network
from .sign_in import SignInGuard
from .signed import Known

SPOOL = "waiting.sqlite3"


def make_app(
    database: Database, uploads_folder: Path, pages: Path | None = None, network: Network = Network()
) -> FastAPI:
    """The application on a database whose schema is up to date; `pages` is the built front end."""

    inbox = Inbox(database, Spool(uploads_folder.parent / SPOOL))
    hub = Hub(database, inbox)
    keeper = Keeper(database, hub)
    rereader = Rereader(database)

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        for part in (inbox, hub, keeper, rereader):
            part.start()
        yield
        context.practice.stop()
        for part in (rereader, keeper, hub, inbox):
            part.stop()
        context.searches.stop_all()
        database.close()

    app = FastAPI(
        title="Jaunecharge", version=__version__, docs_url=None, redoc_url=None, openapi_url="/api/openapi.json",
        lifespan=lifespan,
    )  # fmt: skip
    context = Context(database, Uploads(uploads_folder), inbox, hub, Known(database), rereader, network=network)
    app.state.context = context
    problems.install(app)
    for router in (
        uploads.router,
        runs.router,
        series.router,
        remarks.router,
        readings.router,
        exports.router,
        kit.router,
        chains.router,
        cards.router,
        plans.router,
        bench.router,
        pushed.router,
        hand.router,
        sign_in.router,
        checks.router,
        versus.router,
    ):
        app.include_router(router)

    @app.get("/api/health", tags=["health"])
    def health(request: Request) -> shapes.Health:
        """That the application serves and its database answers."""
        context_of(request).database.answers()
        return shapes.Health(status="ok", version=__version__)

    def openapi() -> dict[str, Any]:
        if app.openapi_schema is None:
            made = get_openapi(title=app.title, version=app.version, routes=app.routes)
            for shape in (shapes.Progress, kit_shapes.CoverageProgress, plan_shapes.PlanProgress, *bench_shapes.TOLD):
                described = shape.model_json_schema(ref_template="#/components/schemas/{model}")
                made["components"]["schemas"] |= described.pop("$defs", {})
                made["components"]["schemas"][shape.__name__] = described
            app.openapi_schema = made
        return app.openapi_schema

    app.openapi = openapi  # type: ignore[method-assign]
    if pages is not None:
        _serve_pages(app, pages)
    # The one added last is asked first: a foreign host is refused before anybody may sign in.
    app.add_middleware(SignInGuard, network=network, known=context.known)
    app.add_middleware(Guard, network=network)
    app.add_middleware(pushed.PushDoor, context=context)
    return app


def _serve_pages(app: FastAPI, pages: Path) -> None:
    app.mount("/assets", StaticFiles(directory=pages / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> FileResponse:
        if path.startswith("api/"):
            raise HTTPException(404, "there is no such address")
        file = (pages / path).resolve()
        if path and file.is_file() and file.is_relative_to(pages.resolve()):
            return FileResponse(file)
        return FileResponse(pages / "index.html", headers={"Cache-Control": "no-cache"})
