"""The shelf: kit entered, changed, retired, imported and exported."""

import uuid
from typing import Annotated, Literal

from fastapi import Body, Query, Request, Response
from sqlalchemy.orm import Session

from ...core.errors import CannotRead
from ...core.kit import (
    FIELDS,
    GRAMMAR,
    TRANSFER_WATTS,
    Charger,
    Flawed,
    Kit,
    Transfer,
    in_words,
    item_from,
    texts_of,
    transmits,
    typed_kit,
)
from ...core.kit import item_of as item_of_line
from ...formats.kit import LARGEST, kit_csv, kit_from_text, kit_json
from ...store import kit as store
from ...store import models as m
from ...store.bench.checks import latest_checks, said_of_check
from ...store.bench_models import MeterCheck
from ...store.fits import fit_to_run
from ...store.runs import runs as run_store
from ..context import Context, about, context_of, name_of
from ..downloads import answers, download
from ..strict import make_router
from . import shapes
from .chains import fit_shape

router = make_router("kit", "/api/kit")


def piece_shape(piece: m.Kit, check: MeterCheck | None = None) -> shapes.KitShape:
    """A piece for the front end."""
    item = store.item_of(piece)
    return shapes.KitShape(
        id=piece.id,
        kind=item.kind,
        label=piece.label,
        said=in_words(item),
        fields=texts_of(item),
        places=[p.place for p in item.pads] if isinstance(item, Charger) else [""],
        wireless=transmits(item),
        revision=piece.revision,
        retired_at=piece.retired_at,
        retired_by=piece.retired_by,
        fit=None if piece.fit is None else fit_shape(piece.fit),
        checked="" if check is None else f"checked {check.at:%Y-%m-%d}: {said_of_check(check)}",
    )


@router.get("")
def list_kit(request: Request, retired: bool = False) -> list[shapes.KitShape]:
    """All kit in use, or all that is retired."""
    with context_of(request).database.session() as session:
        latest = latest_checks(session)
        return [piece_shape(piece, latest.get(piece.label.lower())) for piece in store.shelf(session, retired)]


@router.get("/kinds")
def list_kinds() -> list[shapes.KitKindShape]:
    """The kinds of kit with their fields, from which the forms are made."""
    return [
        shapes.KitKindShape.model_validate(
            {"kind": kind, "fields": [shapes.KitField.model_validate(f, from_attributes=True) for f in entries]}
        )
        for kind, entries in FIELDS.items()
    ]


@router.get("/standards")
def list_standards() -> list[shapes.StandardShape]:
    """The standards of wireless charging, by name, for the forms."""
    return [
        shapes.StandardShape(name=name, said=Transfer(name, watts).said, watts=watts, phone=name != "magnet-only")
        for name, watts in TRANSFER_WATTS.items()
    ]


@router.post("", status_code=201)
def add_kit(request: Request, new: shapes.NewKit) -> shapes.KitShape:
    """Put kit on the shelf; every field that is wrong is named."""
    item = item_from(new.kind, new.fields)
    about(request, item.label)
    with context_of(request).database.session() as session:
        return piece_shape(store.add_piece(session, item, name_of(request)))


@router.post("/line")
def add_kit_line(request: Request, typed: shapes.KitLine) -> shapes.UnderstoodKit:
    """Put kit on the shelf as typed in one line: kept only if asked to, else it is said what was understood."""
    about(request, None)
    try:
        parsed = typed_kit(typed.line)
    except CannotRead as error:
        summary = GRAMMAR if not typed.line.strip() else f"{error.what}; {error.mend}"
        return shapes.UnderstoodKit(kind=None, label="", said="", fields={}, problem=summary, kept=None)
    kind, texts = parsed.kind, parsed.texts
    label, item, problem = texts.get("label", ""), None, ""
    try:
        item = item_of_line(parsed)
        with context_of(request).database.session() as session:
            stored = piece_shape(store.add_piece(session, item, name_of(request)))
            if not typed.keep:
                session.rollback()
        about(request, item.label if typed.keep else None)
    except Flawed as error:
        problem = " ".join(f"{f.what} {f.mend}".strip() for f in error.flaws)
        stored = None
    summary = in_words(item) if item is not None else ", ".join(f"{name} {text}" for name, text in texts.items())
    return shapes.UnderstoodKit.model_validate(
        {
            "kind": kind,
            "label": label,
            "said": summary,
            "fields": texts,
            "problem": problem,
            "kept": stored if typed.keep else None,
        }
    )


@router.put("/{piece_id}")
def change_kit(request: Request, piece_id: uuid.UUID, change: shapes.KitChange) -> shapes.KitShape:
    """Change kit; runs keep the facts that they were made with."""
    with context_of(request).database.session() as session:
        kind = store.get_piece(session, piece_id).kind
        piece = store.change_piece(session, piece_id, change.revision, item_from(kind, change.fields))
        return piece_shape(piece)


@router.post("/{piece_id}/retired")
def retire_kit(request: Request, piece_id: uuid.UUID) -> shapes.KitShape:
    """Take kit out of use; it stays in its runs and can be brought back."""
    with context_of(request).database.session() as session:
        return piece_shape(store.retire(session, piece_id, name_of(request)))


@router.delete("/{piece_id}/retired")
def bring_back_kit(request: Request, piece_id: uuid.UUID) -> shapes.KitShape:
    """Put retired kit back in use."""
    with context_of(request).database.session() as session:
        return piece_shape(store.bring_back(session, piece_id))


@router.post("/{piece_id}/fit")
def fit_kit(request: Request, piece_id: uuid.UUID, wanted: shapes.FitRequest) -> shapes.FitShape:
    """Fit a phone's figures to a measured run: kept only if asked to."""
    context = context_of(request)
    if not wanted.keep:
        about(request, None)
    with context.database.session() as session:
        return _fit(session, context, piece_id, wanted)


def _fit(session: Session, context: Context, piece_id: uuid.UUID, wanted: shapes.FitRequest) -> shapes.FitShape:
    piece = store.get_piece(session, piece_id)
    run = run_store.get_run(session, wanted.run)
    result = fit_to_run(piece, run, context.reading(session, run))
    if wanted.keep:
        store.keep_fit(session, piece_id, result, run.id)
    return fit_shape(store.fit_document(result, run.id))


@router.delete("/{piece_id}/fit")
def drop_fit(request: Request, piece_id: uuid.UUID) -> shapes.KitShape:
    """Go back to the presets for a phone."""
    with context_of(request).database.session() as session:
        return piece_shape(store.keep_fit(session, piece_id, None))


@router.get("/export", response_class=Response, responses=answers("application/json", "text/csv"))
def export_kit(request: Request, form: Annotated[Literal["json", "csv"], Query(alias="format")] = "json") -> Response:
    """The shelf as JSON or CSV, to be imported elsewhere."""
    with context_of(request).database.session() as session:
        items: list[Kit] = [store.item_of(piece) for piece in store.shelf(session)]
    text, media = (kit_json(items), "application/json") if form == "json" else (kit_csv(items), "text/csv")
    return download(text, media, f"shelf.{form}")


@router.post("/import")
def import_kit(
    request: Request, text: Annotated[str, Body(media_type="text/plain", max_length=LARGEST)], name: str = "the file"
) -> shapes.ImportedKit:
    """Put the kit of a JSON or CSV text on the shelf, all of it or nothing; labels that are taken are left alone."""
    items = kit_from_text(text, name)
    with context_of(request).database.session() as session:
        added, left = store.add_all(session, items, name_of(request))
        return shapes.ImportedKit(added=[piece_shape(p) for p in added], left=left)
