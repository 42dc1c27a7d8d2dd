"""Notes and pictures of a run; laid aside rather than destroyed."""

import datetime as dt
import uuid
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import CannotRead
from .. import models as m
from ..errors import NotThere
from .files import keep_file
from .logs import load_log
from .readings import keep_reading
from .runs import get_run

LONGEST_NOTE = 4000
MOST_PHOTO_BYTES = 20_000_000
PICTURES = {b"\x89PNG\r\n\x1a\n": "image/png", b"\xff\xd8\xff": "image/jpeg", b"RIFF": "image/webp"}


def add_note(session: Session, run_id: uuid.UUID, text: str, t_s: float | None, by: str) -> m.Note:
    """A note on a run.

    Raises
    ------
    CannotRead, NotThere
    """
    get_run(session, run_id)
    text = text.strip()
    if not text or len(text) > LONGEST_NOTE or "\0" in text:
        raise CannotRead("the note is empty or too long", f"write up to {LONGEST_NOTE} characters", file="note")
    note = m.Note(id=uuid.uuid4(), run_id=run_id, text=text, t_s=t_s, created_by=by)
    session.add(note)
    session.flush()
    _read_with_notes(session, run_id)
    return note


def add_photo(session: Session, run_id: uuid.UUID, path: Path, name: str, caption: str, by: str) -> m.Photo:
    """A picture of a run.

    Raises
    ------
    CannotRead, NotThere
    """
    get_run(session, run_id)
    head = path.read_bytes()[:12]
    media_type = next((kind for magic, kind in PICTURES.items() if head.startswith(magic)), None)
    if media_type is None or (media_type == "image/webp" and head[8:] != b"WEBP"):
        raise CannotRead("it is not a picture", "PNG, JPEG and WebP can be kept", file=name)
    if path.stat().st_size > MOST_PHOTO_BYTES:
        raise CannotRead("the picture is larger than 20 MB", "save it smaller", file=name)
    file = keep_file(session, path, name, media_type)
    photo = m.Photo(id=uuid.uuid4(), run_id=run_id, file_id=file.id, caption=caption.strip()[:200], created_by=by)
    session.add(photo)
    session.flush()
    return photo


def notes_of(session: Session, run_id: uuid.UUID) -> list[m.Note]:
    """Notes of a run, in order."""
    query = select(m.Note).where(m.Note.run_id == run_id, m.Note.deleted_at.is_(None))
    return list(session.scalars(query.order_by(m.Note.created_at)))


def photos_of(session: Session, run_id: uuid.UUID) -> list[m.Photo]:
    """Pictures of a run, in order."""
    query = select(m.Photo).where(m.Photo.run_id == run_id, m.Photo.deleted_at.is_(None))
    return list(session.scalars(query.order_by(m.Photo.created_at)))


def lay_aside(session: Session, kind: type[m.Note] | type[m.Photo], record_id: uuid.UUID, aside: bool, by: str) -> None:
    """Delete a note or a picture, or bring it back.

    Raises
    ------
    NotThere
    """
    record = session.get(kind, record_id)
    if not isinstance(record, m.Note | m.Photo):
        raise NotThere(f"there is no such {kind.__name__.lower()}")
    record.deleted_at, record.deleted_by = (dt.datetime.now(dt.UTC), by) if aside else (None, "")
    if isinstance(record, m.Note):
        session.flush()
        _read_with_notes(session, record.run_id)


def _read_with_notes(session: Session, run_id: uuid.UUID) -> None:
    """A note may say why power fell: its run is read anew, without counting as changed by somebody."""
    run = session.get(m.Run, run_id)
    if run is not None:
        keep_reading(session, run, load_log(session, run))
