"""A finding as files: page, PDF, drawings, pictures, workbook, tables, texts."""

import io
import re
import uuid
import zipfile
from typing import Annotated, Literal

from fastapi import Query, Request, Response

from ...core.errors import CannotRead
from ...formats.drawings import PICTURES, RACE_AT, Form, Picture, Subject, draw, png
from ...formats.report.page import page
from ...formats.report.tables import table_csv
from ...formats.report.texts import long_text, markdown, short_text
from ...formats.report.workbook import workbook
from ...store.database import written_for
from ...store.findings import findings as store
from ...store.findings.pictures import subject_of
from ...store.findings.report import report_of
from ..context import context_of
from ..downloads import answers, download
from ..following import Wanted, result_of
from ..strict import make_router

router = make_router("findings")
SVG, PNG, ZIP = "image/svg+xml", "image/png", "application/zip"
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
Report = Literal[
    "page.html", "report.pdf", "tables.xlsx", "table.csv", "short.txt", "long.txt", "post.md",
]  # fmt: skip
MEDIA = {
    "page.html": "text/html; charset=utf-8", "report.pdf": "application/pdf", "tables.xlsx": XLSX,
    "table.csv": "text/csv; charset=utf-8", "short.txt": "text/plain; charset=utf-8",
    "long.txt": "text/plain; charset=utf-8", "post.md": "text/markdown; charset=utf-8",
}  # fmt: skip
MOST_PHONES = 200


@router.get(
    "/findings/{finding_id}/files/{name}", response_class=Response,
    responses=answers(*dict.fromkeys(m.partition(";")[0] for m in MEDIA.values())),
)  # fmt: skip
def show_file(request: Request, finding_id: uuid.UUID, name: Report) -> Response:
    """A finding as a page, a PDF, a workbook, a table or a text."""
    context = context_of(request)
    with context.database.session() as session:
        finding = store.get_finding(session, finding_id)
        question, made, rows = finding.question, *report_of(session, finding)
    content: str | bytes
    if name == "page.html":
        content = page(made)
    elif name == "report.pdf":
        written = result_of(request, Wanted("pdf", {"finding": str(finding_id)}, question))
        upload = context.uploads.find(uuid.UUID(written["file"]))
        content = upload.path.read_bytes()
        with written_for(context.database):
            context.uploads.drop(upload)
    elif name == "tables.xlsx":
        content = workbook(made, rows)
    elif name == "table.csv":
        content = table_csv(rows)
    elif name == "post.md":
        content = markdown(made, rows)
    else:
        content = short_text(made) if name == "short.txt" else long_text(made)
    return download(content, MEDIA[name], f"{file_name(made.document.question)}.{name.rpartition('.')[2]}")


def file_name(question: str) -> str:
    """A plain name for a file, from a question."""
    plain = re.sub(r"[^a-z0-9]+", "-", question.casefold()).strip("-")[:60].strip("-")
    return plain or "finding"


def _subject(request: Request, finding_id: uuid.UUID) -> Subject:
    with context_of(request).database.session() as session:
        return subject_of(session, store.get_finding(session, finding_id))


@router.get(
    "/findings/{finding_id}/drawings/{picture}.{kind}", response_class=Response, responses=answers(SVG, PNG)
)  # fmt: skip
def show_drawing(
    request: Request,
    finding_id: uuid.UUID,
    picture: Picture,
    kind: Literal["svg", "png"],
    form: Form = "wide",
    ground: bool = True,
    times: Literal["1", "2", "4"] = "1",
    phone: Annotated[int, Query(ge=0, le=MOST_PHONES)] = 0,
    minute: Annotated[int, Query(ge=1, le=1440)] = 30,
) -> Response:
    """A drawing of a finding, as SVG or as PNG of once, twice or four times the size."""
    subject = _subject(request, finding_id)
    if phone >= max(1, len(subject.phones)):
        raise CannotRead(f"there is no phone {phone}", f"0 to {len(subject.phones) - 1}", file="phone")
    svg = draw(subject, picture, form, ground, phone, minute)
    name = f"{file_name(subject.question)}-{picture}"
    if kind == "svg":
        return download(svg, SVG, f"{name}.svg")
    return download(png(svg, int(times)), PNG, f"{name}.png")


EPOCH = (1980, 1, 1, 0, 0, 0)


@router.get("/findings/{finding_id}/pictures.zip", response_class=Response, responses=answers(ZIP))
def show_pictures(
    request: Request, finding_id: uuid.UUID, form: Form = "wide", ground: bool = True,
    times: Literal["1", "2", "4"] = "2",
) -> Response:  # fmt: skip
    """Every picture of a finding as PNG and SVG, with the frames of the race, in one ZIP."""
    subject = _subject(request, finding_id)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, svg in _all(subject, form, ground):
            for kind, content in (("svg", svg.encode()), ("png", png(svg, int(times)))):
                archive.writestr(zipfile.ZipInfo(f"{name}.{kind}", EPOCH), content)
    return download(out.getvalue(), ZIP, f"{file_name(subject.question)}-{form}.zip")


def _all(subject: Subject, form: Form, ground: bool) -> list[tuple[str, str]]:
    """Every picture by its name; curves once for each phone, the race once for each of its minutes."""
    made: list[tuple[str, str]] = []
    for picture in PICTURES:
        if picture in {"battery", "power", "temperature"}:
            for n, phone in enumerate(subject.phones):
                made.append((f"{picture}-{file_name(phone.phone)}-{n + 1}", draw(subject, picture, form, ground, n)))
        elif picture == "race":
            made += [(f"race-{at}-min", draw(subject, "race", form, ground, minute=at)) for at in RACE_AT]
        elif picture != "walk" or subject.packs:
            made.append((picture, draw(subject, picture, form, ground)))
    return made
