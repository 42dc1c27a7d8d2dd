"""What the application answers while it is tested, held against its own description: statuses, and forms of answers."""

import re
from collections.abc import Iterator
from typing import Any

from fastapi import FastAPI
from starlette.types import ASGIApp, Message, Receive, Scope, Send

Operations = list[tuple[re.Pattern[str], dict[str, Any]]]
_made: dict[bool, Operations] = {}


class Declared:
    """Passes calls on to the application, and keeps what was answered to each operation.

    A description is made once for all applications that are reachable alike, and kept.
    """

    def __init__(self, application: FastAPI, reachable: bool, kept: dict[bool, Operations] = _made) -> None:
        self.application: ASGIApp = application
        self.answers: set[tuple[str, str, str, str]] = set()
        if reachable not in kept:
            kept[reachable] = _patterns(application.openapi()["paths"])
        self.operations = kept[reachable]

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        async def kept(message: Message) -> None:
            if message["type"] == "http.response.start":
                form = dict(message["headers"]).get(b"content-type", b"").decode().partition(";")[0]
                self.answers.add((scope["method"], path, str(message["status"]), form))
            await send(message)

        path = scope.get("path", "")
        await self.application(scope, receive, kept if scope["type"] == "http" else send)

    def undeclared(self) -> Iterator[str]:
        """Each answer that the description does not have."""
        for method, path, status, form in sorted(self.answers):
            said = next((o for pattern, o in self.operations if pattern.fullmatch(path)), {}).get(method.lower())
            if said is None:
                continue
            if status not in said["responses"]:
                yield f"{method} {path} is answered {status}, which is not declared"
            elif status not in ("204", "304") and form not in said["responses"][status].get("content", {}):
                yield f"{method} {path} is answered {status} as {form or 'nothing'}, which is not declared"


def _patterns(paths: dict[str, Any]) -> Operations:
    """Paths with fewer parameters come first, as the application looks for them."""
    return [
        (re.compile(re.sub(r"\\\{\w+\\\}", "[^/]+", re.escape(path))), operations)
        for path, operations in sorted(paths.items(), key=lambda item: item[0].count("{"))
    ]
