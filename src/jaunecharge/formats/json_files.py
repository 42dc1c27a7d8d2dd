"""JSON documents read from files, with refusals that a person can mend."""

import json
from pathlib import Path
from typing import Any, TypeVar

from pydantic import ValidationError

from ..core.errors import CannotRead
from ..documents.case import Case
from ..documents.document import Document, said
from ..documents.pack_case import PackCase

Kind = TypeVar("Kind", bound=Document)


def read_json(path: Path) -> Any:
    """Content of a JSON file.

    Raises
    ------
    CannotRead
    """
    try:
        return json.loads(path.read_text(encoding="utf-8-sig"))
    except OSError as error:
        raise CannotRead("there is no such file", "check its name and folder", file=path.name) from error
    except UnicodeDecodeError as error:
        raise CannotRead("it is not text in UTF-8", "save it as UTF-8", file=path.name) from error
    except (json.JSONDecodeError, RecursionError) as error:
        reason = f" ({error.msg})" if isinstance(error, json.JSONDecodeError) else ""
        raise CannotRead(
            f"it is not JSON{reason}", "check the line", path.name, getattr(error, "lineno", None)
        ) from error


def read_case(path: Path) -> Case:
    """The case of a JSON file.

    Raises
    ------
    CannotRead
    """
    return _read(path, Case)


def read_pack_case(path: Path) -> PackCase:
    """The case of a load test, from a JSON file.

    Raises
    ------
    CannotRead
    """
    return _read(path, PackCase)


def _read(path: Path, kind: type[Kind]) -> Kind:
    document = read_json(path)
    try:
        return kind.model_validate(document)
    except ValidationError as error:
        what, mend = said(error)
        raise CannotRead(what, mend, file=path.name) from error
