"""JSON documents read from files, with refusals that a person can mend."""

import json
from pathlib import Path
from typing import Any

from ..core.errors import CannotRead


def read_json(path: Path) -> Any:
    """What a JSON file holds.

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
