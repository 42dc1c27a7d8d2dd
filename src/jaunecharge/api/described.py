"""The description of the API, in OpenAPI: of every operation each status that can come and none that cannot."""

from collections.abc import Iterator
from typing import Any

from .door import BODILESS, is_pushed
from .guard import SHARED
from .problems import MEDIA_TYPE
from .sign_in import OPEN_EXACT
from .signed import COOKIE

PROBLEM = {"$ref": "#/components/schemas/Problem"}
SAID = {
    "400": "what was sent holds a sign that no text has, is nested too deep, or is no UTF-8",
    "401": "nobody has signed in",
    "403": "it comes from elsewhere, or who asks may only look",
    "404": "it is not there",
    "408": "the rest of it did not come in time",
    "409": "it was changed meanwhile",
    "410": "the lane has ended",
    "413": "too much is sent",
    "414": "the address is too long",
    "422": "a value is refused",
    "429": "too many passphrases were tried from this machine",
    "503": "the database does not answer, or too much is asked at once",
    "507": "the disk is full",
}
LEVEL = "/api/hand/{token}/level"
"""Where a phone sends its level: an address whose token is over is answered like one that never was."""

NO_STORE = frozenset({"/api/bench/help", "/api/network"})
"""Addresses that need no database."""

SECURITY = {
    "session": {
        "type": "apiKey", "in": "cookie", "name": COOKIE,
        "description": "given by POST /api/sign-in, on a bench that listens on the network; with TLS after `__Host-`",
    },
    "lane": {"type": "http", "scheme": "bearer", "description": "the key of one lane, for readings pushed to it"},
}  # fmt: skip


def described(schema: dict[str, Any], reachable: bool) -> dict[str, Any]:
    """A description as FastAPI makes it, with what doors and handlers answer as well.

    reachable : whether the application listens on the network, and asks for a sign-in.
    """
    schemas = schema["components"]["schemas"]
    schema["components"]["securitySchemes"] = SECURITY
    for unused in ("HTTPValidationError", "ValidationError"):
        schemas.pop(unused, None)
    for path, operations in schema["paths"].items():
        for method, operation in operations.items():
            _describe(path, method.upper(), operation, schemas, reachable)
    return schema


def _describe(path: str, method: str, operation: dict[str, Any], schemas: dict[str, Any], reachable: bool) -> None:
    own = {code: r for code, r in operation["responses"].items() if code[0] in "12" or _is_own(r)}
    asks = is_pushed(path) or (reachable and path not in OPEN_EXACT and not path.startswith(("/api/hand/", SHARED)))
    said = SAID | ({"401": "the token is over"} if path == LEVEL else {})
    for code in sorted({*_can_come(path, method, operation, schemas), *(["401"] if asks else [])}):
        if code not in own:
            own[code] = {"description": said[code], "content": {MEDIA_TYPE: {"schema": PROBLEM}}}
    operation["responses"] = own
    operation["security"] = ([{"lane": []}] if is_pushed(path) else [{"session": []}]) if asks else []


def _is_own(response: dict[str, Any]) -> bool:
    """Whether an error is answered with something else than a problem."""
    if "text/html" in response.get("content", {}):
        return True
    shown = response.get("content", {}).get("application/json", {}).get("schema", {})
    return bool(shown) and shown != PROBLEM and not shown.get("$ref", "").endswith("HTTPValidationError")


def _can_come(path: str, method: str, operation: dict[str, Any], schemas: dict[str, Any]) -> Iterator[str]:
    yield from ("400", "403", "414")
    parameters = operation.get("parameters", [])
    body = operation.get("requestBody")
    names = {p["name"] for p in parameters} | set(_properties(body, schemas))
    if any(p["in"] == "path" for p in parameters) or names & REFERS:
        yield "404"
    if names & {"revision", "change_key"}:
        yield "409"
    if path == LEVEL:
        yield "401"
    elif path.startswith(("/api/lanes/{lane_id}", "/api/hand/{token}", "/api/bench/lines")):
        yield "410"
    if method not in BODILESS:
        yield from ("408", "413", "507")
    if body is not None or parameters:
        yield "422"
    if path not in NO_STORE:
        yield "503"
    if path == "/api/sign-in" and method == "POST":
        yield "429"


REFERS = frozenset(
    {
        "slot",
        "upload",
        "finding",
        "survey",
        "phones",
        "chargers",
        "adapter",
        "runs",
        "run",
        "plan",
        "files",
        "id",
        "pack",
        "wanted",
    }
)
"""Names of parameters and fields that may refer to something that is not there."""


def _properties(node: Any, schemas: dict[str, Any], seen: frozenset[str] = frozenset()) -> Iterator[str]:
    """Names of all fields of a body."""
    if isinstance(node, dict):
        ref = node.get("$ref", "")
        name = ref.rpartition("/")[2]
        if ref and name not in seen and name in schemas:
            yield from _properties(schemas[name], schemas, seen | {name})
        yield from node.get("properties", {})
        for value in node.values():
            yield from _properties(value, schemas, seen)
    elif isinstance(node, list):
        for value in node:
            yield from _properties(value, schemas, seen)
