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
from ..store.database import Database
from ..store.runs import refresh_summaries
from ..store.uploads import Uploads
from . import (
    cards,
    chains,
    exports,
    kit,
    kit_shapes,
    plan_shapes,
    plans,
    problems,
    remarks,
    runs,
    series,
    shapes,
    uploads,
)
from .context import Context, context_of
from .guard import Guard


def make_app(database: Database, uploads_folder: Path, pages: Path | None = None) -> FastAPI:
    """The application on a database whose schema is up to date; `pages` is the built front end."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        with database.session() as session:
            refresh_summaries(session)
        yield
        app.state.context.searches.stop_all()
        database.close()

    app = FastAPI(
        title="Jaunecharge", version=__version__, docs_url=None, redoc_url=None, openapi_url="/api/openapi.json",
        lifespan=lifespan,
    )  # fmt: skip
    app.state.context = Context(database, Uploads(uploads_folder))
    problems.install(app)
    for router in (
        uploads.router,
        runs.router,
        series.router,
        remarks.router,
        exports.router,
        kit.router,
        chains.router,
        cards.router,
        plans.router,
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
            for shape in (shapes.Progress, kit_shapes.CoverageProgress, plan_shapes.PlanProgress):
                described = shape.model_json_schema(ref_template="#/components/schemas/{model}")
                made["components"]["schemas"] |= described.pop("$defs", {})
                made["components"]["schemas"][shape.__name__] = described
            app.openapi_schema = made
        return app.openapi_schema

    app.openapi = openapi  # type: ignore[method-assign]
    if pages is not None:
        _serve_pages(app, pages)
    app.add_middleware(Guard)
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
