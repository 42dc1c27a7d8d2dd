"""Mappings of columns, kept under a name and offered when a table of the same headings comes again."""

from typing import Annotated

from fastapi import Path, Request, Response

from ...documents.mapping import Mapping
from ...store import mappings as store
from ..context import about, context_of, name_of
from ..strict import make_router

router = make_router("mappings of columns")


@router.get("/mappings")
def list_mappings(request: Request) -> list[Mapping]:
    """All mappings, by name."""
    with context_of(request).database.session() as session:
        return store.mappings(session)


@router.put("/mappings")
def keep_mapping(request: Request, new: Mapping) -> Mapping:
    """Keep a mapping; one of the same name goes."""
    about(request, new.name)
    with context_of(request).database.session() as session:
        return store.keep_mapping(session, new, name_of(request))


@router.delete("/mappings/{name}", status_code=204, response_class=Response)
def delete_mapping(request: Request, name: Annotated[str, Path(max_length=80)]) -> None:
    """Forget a mapping."""
    about(request, name)
    with context_of(request).database.session() as session:
        store.delete_mapping(session, name, name_of(request))
