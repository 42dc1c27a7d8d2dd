"""Files that are answered, for the browser to keep, and how the description of the API tells of them."""

from typing import Any

from fastapi import Response

BINARY = {"type": "string", "format": "binary"}
DOCUMENT = {"type": "object"}


def download(content: str | bytes, media_type: str, name: str) -> Response:
    """A file, to be kept under that name; texts are sent as UTF-8."""
    return Response(content, media_type=media_type, headers={"Content-Disposition": f'attachment; filename="{name}"'})


def answers(*media_types: str) -> dict[int | str, dict[str, Any]]:
    """Answer of a file's address, for the description of the API."""
    content = {m: {"schema": DOCUMENT if m == "application/json" else BINARY} for m in media_types}
    return {200: {"description": "the file", "content": content}}
