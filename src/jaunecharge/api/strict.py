"""Bodies are taken strictly: a figure is a figure and no text of one, and no truth value stands for 1."""

import json
from collections.abc import Callable, Coroutine
from functools import lru_cache
from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.routing import APIRoute
from pydantic import TypeAdapter, ValidationError

from .numbers import MOST_FIGURE
from .problems import RESPONSES

LONGEST_WHOLE = 20
JSON = "application/json"


class StrictRoute(APIRoute):
    """A route whose JSON body must have the types that are declared."""

    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        """The handler, asked only once the body is of its types."""
        handler, field = super().get_route_handler(), self.body_field
        if field is None or getattr(field.field_info, "media_type", JSON) != JSON:
            return handler
        wanted = lru_cache(1)(lambda: TypeAdapter(field.field_info.annotation or Any))
        optional = not field.field_info.is_required()

        async def strictly(request: Request) -> Response:
            body = await request.body()
            if body or not optional:
                refuse_figures(body)
                try:
                    wanted().validate_json(body, strict=True)
                except ValidationError as error:
                    errors = error.errors(include_url=False, include_context=False, include_input=False)
                    raise RequestValidationError([{**e, "loc": ("body", *e["loc"])} for e in errors]) from error
            return await handler(request)

        return strictly


def refuse_figures(body: bytes) -> None:
    """Refuse JSON with a figure that is none, or larger than any that is measured.

    Raises
    ------
    RequestValidationError
    """

    def finite(text: str) -> float:
        value = float(text)
        if not abs(value) <= MOST_FIGURE:
            raise ValueError(text)
        return value

    def whole(text: str) -> int:
        if len(text) > LONGEST_WHOLE:
            raise ValueError(text)
        return int(text)

    try:
        json.loads(body, parse_float=finite, parse_int=whole, parse_constant=finite)
    except json.JSONDecodeError:
        return  # What reads it says where it is none.
    except (ValueError, RecursionError) as error:
        why = f"“{str(error)[:40]}” is no figure that can be taken"
        raise RequestValidationError([{"type": "value_error", "loc": ("body",), "msg": why}]) from error


def make_router(tag: str, prefix: str = "/api") -> APIRouter:
    """A router of a station: strict bodies, problems declared."""
    return APIRouter(prefix=prefix, tags=[tag], responses=RESPONSES, route_class=StrictRoute)
