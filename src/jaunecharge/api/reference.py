"""The API's description as a page to read: made here, without a script, and nothing in it is fetched."""

from collections.abc import Callable, Iterator
from http import HTTPStatus
from typing import Any

from fastapi import APIRouter, Response

from .templates import template

METHODS = ("get", "post", "put", "patch", "delete")
Described = dict[str, Any]


def reference(description: Described) -> str:
    """The page for a description (OpenAPI 3.1): stations, their addresses, what they take and answer, every shape."""
    stations: dict[str, list[Described]] = {}
    for path, operations in description["paths"].items():
        for method in METHODS:
            if method in operations:
                own = _operation(path, method, operations[method])
                stations.setdefault(own["station"], []).append(own)
    shapes = [
        {
            "name": name, "about": shape.get("description", ""), "fields": list(_fields(shape)),
            "is": "" if "properties" in shape else kind_of(shape),
        }
        for name, shape in sorted(description["components"]["schemas"].items())
    ]  # fmt: skip
    about = description["info"]
    return template("reference.html").render(
        title=about["title"], version=about["version"], stations=stations, shapes=shapes
    )


def _operation(path: str, method: str, said: Described) -> Described:
    answers = [
        {"code": code, "said": answer.get("description") or HTTPStatus(int(code)).phrase, "kinds": list(_kinds(answer))}
        for code, answer in said["responses"].items()
    ]
    return {
        "id": f"{method}-{path.strip('/').replace('/', '-').replace('{', '').replace('}', '')}",
        "station": next(iter(said.get("tags", [])), "health"), "method": method.upper(), "path": path,
        "about": said.get("description") or said.get("summary", ""),
        "parameters": [
            {
                "name": p["name"], "place": p["in"], "needed": p.get("required", False), "kind": kind_of(p["schema"]),
                "about": p.get("description", p["schema"].get("description", "")),
            }
            for p in said.get("parameters", [])
        ],
        "body": list(_kinds(said.get("requestBody", {}))), "answers": answers,
        "asks": bool(said.get("security")),
    }  # fmt: skip


def _kinds(body: Described) -> Iterator[tuple[str, str]]:
    """Media types of a body, and what stands in them."""
    for media_type, content in body.get("content", {}).items():
        yield media_type, kind_of(content.get("schema", {}))


def _fields(shape: Described) -> Iterator[Described]:
    needed = shape.get("required", [])
    for name, field in shape.get("properties", {}).items():
        yield {
            "name": name, "kind": kind_of(field), "needed": name in needed,
            "about": field.get("description", ""), "unit": field.get("unit", ""),
        }  # fmt: skip


def kind_of(schema: Described) -> str:
    """Kind of a value in words: “list of RunShape”, “number, 0 to 100”."""
    if "$ref" in schema:
        return str(schema["$ref"]).rpartition("/")[2]
    if "const" in schema:
        return f"“{schema['const']}”"
    if "enum" in schema:
        return " or ".join(f"“{x}”" for x in schema["enum"])
    for several in ("anyOf", "oneOf", "allOf"):
        if several in schema:
            return " or ".join(dict.fromkeys(kind_of(x) for x in schema[several]))
    kind = schema.get("type", "anything")
    if kind == "array":
        return f"list of {kind_of(schema.get('items', {}))}"
    if kind == "object" and isinstance(schema.get("additionalProperties"), dict):
        return f"map to {kind_of(schema['additionalProperties'])}"
    return ", ".join(x for x in ("none" if kind == "null" else schema.get("format", kind), _bounds(schema)) if x)


def _bounds(schema: Described) -> str:
    least = schema.get("minimum", schema.get("exclusiveMinimum"))
    most = schema.get("maximum", schema.get("exclusiveMaximum"))
    if least is not None and most is not None:
        return f"{least:g} to {most:g}"
    if least is not None or most is not None:
        return f"at least {least:g}" if least is not None else f"at most {most:g}"
    return f"at most {schema['maxLength']} letters" if "maxLength" in schema else ""


def make_reference(description: Callable[[], Described]) -> APIRouter:
    """The address of that page."""
    router = APIRouter()

    @router.get("/api/reference", include_in_schema=False)
    def show_reference() -> Response:
        """The API's description as a page to read."""
        return Response(reference(description()), media_type="text/html; charset=utf-8")

    return router
