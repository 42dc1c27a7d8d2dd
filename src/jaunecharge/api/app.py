"""The web application: the API, and the built front end."""

import itertools
import threading
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Response
from fastapi.openapi.utils import get_openapi
from fastapi.responses import FileResponse
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException

from .. import __version__
from ..formats.read import apart
from ..jobs.workforce import InThread, Workforce
from ..live.health import Health
from ..live.hub import Hub
from ..live.inbox import Inbox
from ..live.keeper import Keeper
from ..live.practice import Practice
from ..live.spool import Spool
from ..live.worker import Watch, Worker
from ..store.database import Database
from ..store.people import SIGNED_OUT
from ..store.runs.uploads import uploads_of
from . import bench, findings, jobs, packages, packs, plan, problems, runs, shapes, shelf, sign_in, trust, versus
from .audited import Audited
from .bench import levels
from .bench import shapes as bench_shapes
from .bench.pushed import PushDoor
from .context import Context
from .described import described
from .door import Door
from .guard import Guard
from .network import Network
from .packages import shapes as packages_shapes
from .plan import shapes as plan_shapes
from .reference import make_reference
from .replicated import Replicated
from .runs import many_shapes
from .shelf import shapes as kit_shapes
from .sign_in import SignInGuard
from .signed import Known

SPOOL = "waiting.sqlite3"
READERS_AFTER_S = 5.0
"""The processes that read files are made ready once whoever opened the application has their page."""


def make_app(
    database: Database,
    uploads_folder: Path,
    pages: Path | None = None,
    network: Network = Network(),
    database_folder: Path | None = None,
    uploads_url: str | None = None,
    workforce: Workforce | None = None,
) -> FastAPI:
    """The application on a database whose schema is up to date.

    `pages` is the built front end; `database_folder` where the database's files lie, if they do on this machine;
    `uploads_url` the object store for files that are sent, where it is not the database; `workforce` who does the jobs,
    where it is not a thread of this process.
    """

    inbox = Inbox(database, Spool(uploads_folder.parent / SPOOL))
    hub = Hub(database, inbox)
    keeper = Keeper(database, hub)
    uploads = uploads_of(database, uploads_folder, uploads_url)
    hands = workforce or InThread(database, uploads)
    practice = Practice(network.certificate)

    def workers() -> tuple[Worker, ...]:
        if hub.loaded and not hub.aside:
            practice.tidy({s.lane.meter_address for s in list(hub.states.values())})
        return inbox.worker, hub.worker, *keeper.workers

    watch = Watch(workers)
    health = Health(database, hub, watch, (uploads_folder, *([database_folder] if database_folder else [])))

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        for part in (inbox, hub, keeper, hands, watch):
            part.start()
        readers = threading.Timer(READERS_AFTER_S, apart.make_ready)
        readers.daemon = True
        readers.start()
        yield
        readers.cancel()
        context.practice.stop()
        for stop in (hands.stop, watch.stop, health.stop, keeper.stop, hub.stop, inbox.stop):
            stop()
        database.close()

    app = FastAPI(
        title="Jaunecharge", version=__version__, docs_url=None, redoc_url=None, openapi_url="/api/openapi.json",
        lifespan=lifespan,
    )  # fmt: skip
    context = Context(
        database,
        uploads,
        inbox,
        hub,
        Known(database),
        hands,
        practice=practice,
        network=network,
    )
    app.state.context = context
    hub.noticed = lambda payloads: context.known.forget() if SIGNED_OUT in payloads else None
    problems.install(app)
    stations = (runs.ROUTERS, shelf.ROUTERS, plan.ROUTERS, bench.ROUTERS, versus.ROUTERS, packs.ROUTERS,
                findings.ROUTERS, packages.ROUTERS, jobs.ROUTERS, (sign_in.router,))  # fmt: skip
    # As they are: `include_router` would make each route a second time, and keep whoever asks first waiting for it.
    for router in itertools.chain.from_iterable(stations):
        app.router.routes.extend(router.routes)

    @app.get(
        "/api/health",
        tags=["health"],
        responses={503: {"model": shapes.Health, "description": "the database does not answer"}},
    )
    def show_health(response: Response) -> shapes.Health:
        """Whether all works; if not, what does not, and since when."""
        troubles, room = health.troubles(), health.room()
        away = any(t.what == "database" for t in troubles)
        response.status_code = 503 if away else 200
        return shapes.Health(
            status="impaired" if troubles else "ok", version=__version__, database=not away,
            free_bytes=None if room is None else room.free, total_bytes=None if room is None else room.total,
            troubles=[shapes.TroubleShape(**vars(t)) for t in troubles],
        )  # fmt: skip

    def openapi() -> dict[str, Any]:
        if app.openapi_schema is None:
            document = get_openapi(title=app.title, version=app.version, routes=app.routes)
            for shape in (
                shapes.Progress,
                packages_shapes.PackageProgress,
                many_shapes.RunsProgress,
                kit_shapes.CoverageProgress,
                plan_shapes.PlanProgress,
                *bench_shapes.TOLD,
                *levels.TOLD,
            ):
                own = shape.model_json_schema(ref_template="#/components/schemas/{model}")
                document["components"]["schemas"] |= own.pop("$defs", {})
                document["components"]["schemas"][shape.__name__] = own
            app.openapi_schema = described(document, network.reachable)
        return app.openapi_schema

    app.openapi = openapi  # type: ignore[method-assign]
    app.router.routes.extend((*trust.router.routes, *make_reference(openapi).routes))
    if pages is not None:
        _serve_pages(app, pages)
    # The one added last is asked first: a foreign host is refused before anybody may sign in.
    app.add_middleware(Replicated, database=database)
    app.add_middleware(Audited, context=context)
    app.add_middleware(SignInGuard, network=network, known=context.known)
    app.add_middleware(PushDoor, context=context)
    app.add_middleware(Door)
    app.add_middleware(Guard, network=network)
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
