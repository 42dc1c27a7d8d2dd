"""Reading pages from a replica: which they are, and what each browser has to find there."""

import re
from http.cookies import SimpleCookie

from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import HTTPConnection
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ..store.database import Database
from ..store.replica import READS, position
from .door import is_pushed
from .ndjson import NDJSON
from .sign_in import LOOKING, WORKED_OUT

READING = re.compile(
    r"/api/(runs|throttling|versus|exports|deleted-runs|spot-checks|packs|plans|findings|rehearsals)(/.*|)"
)
"""Addresses of pages that only read."""

TABLE = "/api/versus/table"
"""What is worked out for it is kept."""

COOKIE = "jaunecharge-after"
ITSELF = "itself"
"""In the place of a position: what was begun may still be written, so that the database itself answers for a while."""

ITSELF_FOR_S = 600


class Replicated:
    """Lets reading pages take a replica that knows all that their browser has written."""

    def __init__(self, app: ASGIApp, database: Database) -> None:
        self.app, self._database = app, database

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        path = scope.get("path", "")
        if scope["type"] != "http" or not self._database.replicated or is_pushed(path):
            await self.app(scope, receive, send)
            return
        if scope["method"] in LOOKING:
            after = HTTPConnection(scope).cookies.get(COOKIE, "")
            reads = READING.fullmatch(path) is not None and path != TABLE and after != ITSELF
            reset = READS.set(after if reads else None)
            try:
                await self.app(scope, receive, send)
            finally:
                READS.reset(reset)
            return

        async def sending(message: Message) -> None:
            if message["type"] == "http.response.start" and path not in WORKED_OUT:
                goes_on = Headers(raw=message["headers"]).get("content-type", "") == NDJSON
                at = ITSELF if goes_on else await run_in_threadpool(self._position)
                MutableHeaders(scope=message).append("Set-Cookie", _cookie(at, ITSELF_FOR_S if goes_on else None))
            await send(message)

        await self.app(scope, receive, sending)

    def _position(self) -> str:
        try:
            with self._database.engine.connect() as connection:
                return position(connection)
        except Exception:  # What was asked for is done: where the position is not known, the database itself answers.
            return ITSELF


def _cookie(value: str, seconds: int | None) -> str:
    cookie: SimpleCookie = SimpleCookie()
    cookie[COOKIE] = value
    made = cookie[COOKIE]
    made["path"], made["samesite"], made["httponly"] = "/", "Strict", True
    if seconds is not None:
        made["max-age"] = seconds
    return made.OutputString()
