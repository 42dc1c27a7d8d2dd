"""Notes and pictures of a run."""

import uuid
from typing import Annotated

from fastapi import Query, Request, Response
from fastapi.responses import StreamingResponse
from starlette.concurrency import run_in_threadpool

from ...core.units import MINUTE_S
from ...store import models as m
from ...store.errors import NotThere
from ...store.runs.files import file_bytes
from ...store.runs.remarks import PICTURES, add_note, add_photo, lay_aside
from ...store.runs.runs import get_run
from ..arriving import FILE_AS_BODY, receive
from ..context import context_of, name_of
from ..downloads import answers
from ..strict import make_router
from . import shapes
from .routes import note_shape, photo_shape

router = make_router("notes and pictures")


@router.post("/runs/{run_id}/notes", status_code=201)
def write_note(request: Request, run_id: uuid.UUID, new: shapes.NewNote) -> shapes.NoteShape:
    """Add a note, at a minute of the run or on the whole."""
    context = context_of(request)
    with context.database.session() as session:
        run = get_run(session, run_id)
        placed_s = context.placed_s(session, run)
        at_s = None if new.minute is None else placed_s + new.minute * MINUTE_S
        return note_shape(add_note(session, run_id, new.text, at_s, name_of(request)), placed_s)


@router.delete("/notes/{note_id}", status_code=204, response_class=Response)
def delete_note(request: Request, note_id: uuid.UUID) -> None:
    """Lay a note aside."""
    with context_of(request).database.session() as session:
        lay_aside(session, m.Note, note_id, True, name_of(request))


@router.post("/notes/{note_id}/restored", status_code=204, response_class=Response)
def bring_back_note(request: Request, note_id: uuid.UUID) -> None:
    """Undo the deletion of a note."""
    with context_of(request).database.session() as session:
        lay_aside(session, m.Note, note_id, False, name_of(request))


@router.post(
    "/runs/{run_id}/photos",
    status_code=201,
    openapi_extra=FILE_AS_BODY,
)
async def send_photo(
    request: Request,
    run_id: uuid.UUID,
    name: Annotated[str, Query(min_length=1, max_length=300)],
    caption: Annotated[str, Query(max_length=200)] = "",
) -> shapes.PhotoShape:
    """Add a picture: PNG, JPEG or WebP."""
    context, by = context_of(request), name_of(request)
    upload = await receive(request, context, name)

    def keep() -> shapes.PhotoShape:
        try:
            with context.database.session() as session:
                return photo_shape(add_photo(session, run_id, upload.path, upload.name, caption, by))
        finally:
            context.uploads.drop(upload)

    return await run_in_threadpool(keep)


@router.get("/photos/{photo_id}", response_class=StreamingResponse, responses=answers(*PICTURES.values()))
def show_photo(request: Request, photo_id: uuid.UUID) -> StreamingResponse:
    """A picture's bytes."""
    with context_of(request).database.session() as session:
        photo = session.get(m.Photo, photo_id)
        if photo is None:
            raise NotThere("there is no such picture")
        return StreamingResponse(iter(list(file_bytes(session, photo.file_id))), media_type=photo.file.media_type)


@router.delete("/photos/{photo_id}", status_code=204, response_class=Response)
def delete_photo(request: Request, photo_id: uuid.UUID) -> None:
    """Lay a picture aside."""
    with context_of(request).database.session() as session:
        lay_aside(session, m.Photo, photo_id, True, name_of(request))


@router.post("/photos/{photo_id}/restored", status_code=204, response_class=Response)
def bring_back_photo(request: Request, photo_id: uuid.UUID) -> None:
    """Undo the deletion of a picture."""
    with context_of(request).database.session() as session:
        lay_aside(session, m.Photo, photo_id, False, name_of(request))
