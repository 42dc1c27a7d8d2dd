"""Sending files, and seeing how they were understood before anything is stored."""

import uuid
from typing import Annotated

from fastapi import Query, Request, Response
from starlette.concurrency import run_in_threadpool

from ...core.errors import CannotRead
from ...core.log import ClockKind
from ...core.units import FACTORS, MINUTE_S
from ...formats.many.files import look_at
from ...formats.read.apart import apart
from ...formats.read.assemble import pasted_readings, pasted_temperatures
from ...formats.read.files import Asked, clocks_of, look
from ...formats.read.source import sha256
from ...formats.read.understanding import Choice, Understanding
from ...store.mappings import mapping_for
from ...store.runs.files import runs_read_from
from ...store.runs.uploads import Upload
from ..arriving import FILE_AS_BODY, receive
from ..context import context_of
from ..strict import make_router
from . import upload_shapes as shapes

router = make_router("reading files")


def choice_of(shape: shapes.ChoiceShape) -> Choice:
    """A choice for the readers."""
    return Choice(
        {index: (c.quantity, c.unit) for index, c in shape.columns.items()},
        shape.time_form,
        shape.comma,
        shape.delimiter,
        shape.sheet,
    )


def understanding_shape(understanding: Understanding) -> shapes.UnderstandingShape:
    """An understanding for the front end."""
    return shapes.UnderstandingShape.model_validate(
        {
            # What a meter wrote may have been written by one at the socket.
            "gives": (*understanding.gives, *(("socket",) if "meter" in understanding.gives else ())),
            "delimiter": understanding.layout.delimiter,
            "comma": understanding.comma,
            "sheet": understanding.layout.sheet,
            "sheets": understanding.layout.sheets,
            "time_form": understanding.time_form,
            "first_data_row": understanding.layout.first_data_row,
            "columns": [{**vars(c), "units": list(FACTORS.get(c.quantity, {}))} for c in understanding.columns],
            "first_rows": understanding.first_rows,
            "problems": understanding.problems,
        }
    )


@router.post(
    "/uploads",
    status_code=201,
    openapi_extra=FILE_AS_BODY,
)
async def send_file(request: Request, name: Annotated[str, Query(min_length=1, max_length=300)]) -> shapes.UploadShape:
    """Send a file; it is looked at, and nothing is stored yet."""
    context = context_of(request)
    upload = await receive(request, context, name)

    def looked() -> shapes.UploadShape:
        try:
            seen = apart(look_at, Asked(upload.path, upload.name), name=upload.name)
        except CannotRead:
            context.uploads.drop(upload)
            raise
        digest = sha256(upload.path)
        with context.database.session() as session:
            before = runs_read_from(session, digest)
            headings = [] if seen.understanding is None else list(seen.understanding.layout.headings)
            mapping = mapping_for(session, headings)
        return shapes.UploadShape(
            id=upload.id,
            name=upload.name,
            size=upload.path.stat().st_size,
            sha256=digest,
            read_before=[shapes.RunRef(id=r.id, label=r.label, simulated=r.case.simulated) for r in before],
            understanding=None if seen.understanding is None else understanding_shape(seen.understanding),
            mapping=mapping,
            runs=seen.runs,
        )

    return await run_in_threadpool(looked)


@router.post("/uploads/{upload_id}/understanding")
def put_right(request: Request, upload_id: uuid.UUID, choice: shapes.ChoiceShape) -> shapes.UnderstandingShape:
    """Understanding of a file that was sent, once something was corrected."""
    upload = context_of(request).uploads.find(upload_id)
    return understanding_shape(apart(look, Asked(upload.path, upload.name, choice_of(choice)), name=upload.name))


@router.delete("/uploads/{upload_id}", status_code=204, response_class=Response)
def forget_file(request: Request, upload_id: uuid.UUID) -> None:
    """Forget a file that was sent."""
    uploads = context_of(request).uploads
    uploads.drop(uploads.find(upload_id))


@router.post("/clocks")
def whose_clocks(request: Request, asked: shapes.ClocksAsked) -> list[shapes.ClockOfFile]:
    """Whose clock the relative times beside a meter's log are on, as far as that can be told."""
    uploads = context_of(request).uploads
    files = [asked_of(uploads.find(use.upload), use) for use in asked.files]
    return [
        shapes.ClockOfFile(upload=asked.files[n].upload, whose=guess.whose, why=guess.why)
        for n, guess in apart(clocks_of, files, asked.placed_s, name="files")
    ]


@router.post("/temperatures/understanding")
def understand_temperatures(text: shapes.HeatText) -> shapes.HeatTextShape:
    """Understanding of typed or pasted temperatures."""
    temperatures = pasted_temperatures(text.text, text.fahrenheit)
    after = temperatures.clock.kind is ClockKind.AFTER_PLACING
    zero = 0.0 if after or not len(temperatures.celsius) else float(temperatures.clock.seconds.min())
    return shapes.HeatTextShape(
        rows=[
            shapes.HeatRow(minute=round((s - zero) / MINUTE_S, 3), celsius=round(c, 3), place=place)
            for s, c, place in zip(
                temperatures.clock.seconds.tolist(), temperatures.celsius.tolist(), temperatures.places, strict=True
            )
        ],
        reference="after placing" if after else "log",
    )


def asked_of(upload: Upload, use: shapes.FileUse) -> Asked:
    """A file that was sent, and what is wanted of it."""
    return Asked(upload.path, upload.name, choice_of(use.choice), tuple(use.roles), use.whose)


@router.post("/checkins/understanding")
def understand_checkins(text: shapes.CheckInText) -> shapes.CheckInsShape:
    """Understanding of typed or pasted check-ins."""
    readings = pasted_readings(text.text)
    after = readings.clock.kind is ClockKind.AFTER_PLACING
    zero = 0.0 if after or not len(readings.percent) else float(readings.clock.seconds[0])
    return shapes.CheckInsShape(
        rows=[
            shapes.CheckInRow(minute=round((s - zero) / MINUTE_S, 3), percent=p)
            for s, p in zip(readings.clock.seconds.tolist(), readings.percent.tolist(), strict=True)
        ],
        reference="after placing" if after else "log",
    )
