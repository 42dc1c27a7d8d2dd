"""The log of who did what: a line for everything that was changed, handed out or exported."""

import logging
import re
from typing import Any

from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers
from starlette.requests import Request
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ..live.steady import now
from ..store import audit
from ..store.database import LOOKS_ONLY
from ..store.replica import READS
from .context import Context, name_of
from .door import is_pushed
from .ndjson import NDJSON
from .sign_in import LOOKING, WORKED_OUT
from .signed import address_of

log = logging.getLogger(__name__)
HANDED_OUT = re.compile(r"/api/exports/.*|/api/packages/.*|/api/(lanes|findings)/[^/]+/link")
SIGN_IN = ("/api/sign-in", "/api/sign-ins")
NOT_NOTED = re.compile(
    r"/api/hand/[^/]+/echo|/api/uploads.*|/api/packages/uploads|/api/clocks|/api/instruments/try|/api/meter-checks/read"
)


class Audited:
    """Writes the line once the answer says that it was done."""

    def __init__(self, app: ASGIApp, context: Context) -> None:
        self.app, self._context = app, context

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or not is_noted(scope["method"], scope.get("path", "")):
            await self.app(scope, receive, send)
            return

        done, body = False, b""

        async def sending(message: Message) -> None:
            nonlocal done, body
            if message["type"] == "http.response.start":
                done = 200 <= message["status"] < 300
                if done and Headers(raw=message["headers"]).get("content-type", "") != NDJSON:
                    done = False
                    await run_in_threadpool(self._note, scope)
            elif done:
                # What is told line by line says only in its last line whether it was done.
                body = message.get("body", b"") or body
                if not message.get("more_body") and b'"step": "refused"' not in body:
                    await run_in_threadpool(self._note, scope)
            await send(message)

        await self.app(scope, receive, sending)

    def _note(self, scope: Scope) -> None:
        route = scope.get("route")
        if route is None:
            return
        asked = scope.get("state", {}).get("about", "")
        if asked is None:
            return
        # In this thread alone: what who looks was given is noted as well, and by the database itself.
        LOOKS_ONLY.set(False)
        READS.set(None)
        try:
            with self._context.database.session() as session:
                named = (audit.name_of(session, k, str(v)) for k, v in scope.get("path_params", {}).items())
                about = asked or next((name for name in named if name), "")
                who = name_of(Request(scope))
                where = f"{scope['method']} {route.path}"
                audit.add_line(session, now(), who, address_of(scope), what_of(route), about, where)
        except Exception:
            # What was asked for is done: that it is not in the log must not make it look undone.
            log.exception("a line of the log could not be written")


def is_noted(method: str, path: str) -> bool:
    """Whether a request is one whose doing stands in the log."""
    if method in LOOKING:
        return HANDED_OUT.fullmatch(path) is not None
    if path in SIGN_IN:
        return method != "POST"  # A sign-in writes its own line: what was tried in vain as well.
    return not (path in WORKED_OUT or is_pushed(path) or NOT_NOTED.fullmatch(path))


def what_of(route: Any) -> str:
    """A route's act in a few words: the beginning of its description."""
    return re.split(r"[.;:]", route.description or route.name, maxsplit=1)[0].strip()
