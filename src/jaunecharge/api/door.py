"""The first door: what no part of the application should have to read is refused before it is read.

Bodies have a size and a time in which they must arrive; text with a NUL or with half a surrogate pair, which neither
files nor the database can keep, is refused wherever it stands: in the path, the query, a header or a JSON body.
"""

import asyncio
import contextlib
import json
import time
import urllib.parse
from typing import Any

from starlette.datastructures import Headers
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ..formats.read.limits import MOST_BYTES as MOST_BYTES_OF_FILE
from .problems import Problem, response

MOST_BYTES, MOST_READINGS_BYTES = 1_000_000, 2_000_000
BLOCK_WITHIN_S = 20.0
"""A sender that is silent for so long within a body is given up."""

BODY_WITHIN_S = 60.0
LEAST_BYTES_A_SECOND = 10_000
"""A file must come at least so fast, once its first minute is over."""

PASS_OVER_S = 10.0
LONGEST_ADDRESS = 20_000
BODILESS = frozenset({"GET", "HEAD", "OPTIONS"})
DEPTH = 100
"""Depth to which JSON may be nested."""


def is_pushed(path: str) -> bool:
    """Whether readings are pushed to this address."""
    return path.startswith("/api/lanes/") and path.endswith("/readings")


def is_file(path: str) -> bool:
    """Whether a file is sent to this address."""
    return path in {"/api/uploads", "/api/packages/uploads"} or path.endswith("/photos")


def most_bytes(path: str) -> int:
    """Bytes that may be sent to an address."""
    if is_file(path):
        return MOST_BYTES_OF_FILE
    return MOST_READINGS_BYTES if is_pushed(path) else MOST_BYTES


class Refused(Exception):
    """A request that goes no further, with the problem that is answered."""

    def __init__(self, status: int, title: str, detail: str, mend: str = "") -> None:
        super().__init__(detail)
        self.problem = Problem(title=title, status=status, detail=detail, mend=mend)


class Door:
    """Lets by what can be read; what it has read of a body it hands on."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        try:
            refuse_address(scope)
            body = _Body(scope, receive)
            if not (scope["method"] in BODILESS or body.is_file):
                await body.read()
        except Refused as refused:
            await _answer(refused, scope, receive, send)
            return
        except _Gone:
            return
        began = False

        async def sending(message: Message) -> None:
            nonlocal began
            if message["type"] == "http.response.start":
                began = True
                if message["status"] >= 400:
                    await body.pass_over()
            await send(message)

        try:
            await self.app(scope, body.receive, sending)
        except Refused as refused:
            if began:
                raise
            await _answer(refused, scope, receive, send)


async def _answer(refused: Refused, scope: Scope, receive: Receive, send: Send) -> None:
    answer = response(refused.problem)
    # What is left of the body is not read: the connection ends with the answer.
    answer.headers["Connection"] = "close"
    await answer(scope, receive, send)


def refuse_address(scope: Scope) -> None:
    """Refuse an address or a header that cannot be kept or looked up.

    Raises
    ------
    Refused
    """
    query, path = scope.get("query_string", b""), scope.get("path", "")
    if len(scope.get("raw_path") or b"") + len(query) > LONGEST_ADDRESS:
        raise Refused(414, "Too long", "the address is too long", f"at most {LONGEST_ADDRESS} letters")
    asked = urllib.parse.unquote_to_bytes(query)
    if not keepable(path) or b"\x00" in asked:
        raise Refused(400, "Refused", "the address holds a sign that no text has", "leave the NUL out of it")
    try:
        asked.decode()
    except UnicodeDecodeError:
        raise Refused(400, "Refused", "the address is no UTF-8", "send text as UTF-8") from None
    for name, value in scope.get("headers", []):
        if b"\x00" in urllib.parse.unquote_to_bytes(value):
            raise Refused(400, "Refused", f"the header {name.decode('latin-1')} holds a NUL", "leave it out")


class _Gone(Exception):
    """The sender has gone."""


class _Body:
    """The body of a request as it comes: counted, timed, and read whole where it is no file."""

    def __init__(self, scope: Scope, receive: Receive) -> None:
        path = scope.get("path", "")
        self._receive, self._most = receive, most_bytes(path)
        self.is_file = is_file(path)
        self._size, self._began = 0, time.monotonic()
        self._whole: bytes | None = None
        stated = Headers(scope=scope).get("content-length", "")
        if stated.isascii() and stated.isdecimal() and (len(stated) > 12 or int(stated) > self._most):
            self._too_large()

    def _too_large(self) -> None:
        most = f"{self._most // 1_000_000} MB"
        mend = "split it, or log at a longer step" if self.is_file else f"send at most {most} at a time"
        raise Refused(413, "Too large", f"more than {most} are sent", mend)

    async def _next(self) -> Message:
        try:
            message = await asyncio.wait_for(self._receive(), BLOCK_WITHIN_S)
        except TimeoutError:
            raise Refused(408, "Too slow", "the rest of it does not come", "send it again") from None
        self._size += len(message.get("body", b""))
        if self._size > self._most:
            self._too_large()
        if message.get("more_body"):
            lasted = time.monotonic() - self._began
            least = LEAST_BYTES_A_SECOND * (lasted - BODY_WITHIN_S) if self.is_file else 0.0
            if lasted > BODY_WITHIN_S and not (self.is_file and self._size >= least):
                raise Refused(408, "Too slow", "it comes too slowly", "send it again, or less of it")
        return message

    async def read(self) -> None:
        """Read it whole.

        Raises
        ------
        Refused
        """
        blocks = []
        while True:
            message = await self._next()
            if message["type"] == "http.disconnect":
                raise _Gone
            blocks.append(message.get("body", b""))
            if not message.get("more_body"):
                break
        self._whole = b"".join(blocks)
        refuse_text(self._whole)

    async def receive(self) -> Message:
        """Body as the application reads it: the body that is here already, or block by block."""
        if self._whole is not None:
            message: Message = {"type": "http.request", "body": self._whole, "more_body": False}
            self._whole = None
            return message
        if self.is_file and not self._ended:
            message = await self._next()
            self._ended = not message.get("more_body")
            return message
        return await self._receive()

    async def pass_over(self) -> None:
        """Read on to the end of a file that is refused: who sends it hears why only once it has all gone out."""
        until = time.monotonic() + PASS_OVER_S
        with contextlib.suppress(Refused, TimeoutError):
            while self.is_file and not self._ended and (left := until - time.monotonic()) > 0.0:
                message = await asyncio.wait_for(self._next(), left)
                self._ended = not message.get("more_body")

    _ended = False


def keepable(text: str) -> bool:
    """Whether text can be kept in files and database: no NUL, no half of a surrogate pair."""
    return "\x00" not in text and not any("\ud800" <= c <= "\udfff" for c in text)


def refuse_text(body: bytes) -> None:
    """Refuse a body whose JSON holds text that cannot be kept, or is nested too deep to be read.

    Raises
    ------
    Refused
    """
    if b"\x00" in body:
        raise Refused(400, "Refused", "what was sent holds a NUL", "leave it out")
    if body.count(b"[") + body.count(b"{") <= DEPTH and b"\\u" not in body:
        return
    try:
        value = json.loads(body)
    except RecursionError:
        raise Refused(400, "Refused", "what was sent is nested too deep", f"at most {DEPTH} deep") from None
    except ValueError:
        return  # Whoever reads it says what is wrong with it.
    waiting: list[tuple[Any, int]] = [(value, 1)]
    while waiting:
        each, depth = waiting.pop()
        if depth > DEPTH:
            raise Refused(400, "Refused", "what was sent is nested too deep", f"at most {DEPTH} deep")
        if isinstance(each, str) and not keepable(each):
            raise Refused(400, "Refused", "text that was sent holds a sign that no text has", "leave it out")
        if isinstance(each, list):
            waiting += ((x, depth + 1) for x in each)
        elif isinstance(each, dict):
            waiting += ((x, depth + 1) for pair in each.items() for x in pair)
