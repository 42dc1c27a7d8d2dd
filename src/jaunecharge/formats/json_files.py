"""JSON documents read from files, with refusals that a person can mend."""

import json
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from ..core.errors import CannotRead
from ..documents.case import Case
from ..documents.document import said


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
    document = read_json(path)
    try:
        return Case.model_validate(document)
    except ValidationError as error:
        what, mend = said(error)
        raise CannotRead(what, mend, file=path.name) from error
