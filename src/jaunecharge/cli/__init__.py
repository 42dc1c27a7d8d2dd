"""The command line: one thin command per use, on files, without a server or a database."""

import sys
from importlib import import_module
from typing import Any, NoReturn

import typer

from ..core.errors import CannotRead
from ..core.schedule import Impossible
from ..postgres import CannotServe
from .app import app

__all__ = ["app", "load", "main"]

MODULES = {
    "backup": "serve", "carry": "carry", "chain": "chain", "openapi": "serve", "people": "people", "read": "read",
    "rehearse": "rehearse", "restore": "serve", "schedule": "schedule", "serve": "serve", "stand-in": "stand_in",
    "versus": "versus",
}  # fmt: skip
"""Where each command stands: only that of the one that is asked for is loaded."""

# What Typer raises for a wrong call: the base of the one such error that it gives out by name.
UsageError: Any = typer.BadParameter.__mro__[1]
BAD_INPUT = 2
CANNOT_SERVE = 1
IMPOSSIBLE = 3


def load(command: str = "") -> None:
    """Load a command; all of them where it is none."""
    for name in [MODULES[command]] if command in MODULES else dict.fromkeys(MODULES.values()):
        import_module(f".{name}", __name__)


def main() -> None:
    """The command `jaunecharge`; bad input is one line on standard error and exit 2."""
    load(sys.argv[1] if len(sys.argv) > 1 else "")
    try:
        raise SystemExit(app(standalone_mode=False) or 0)
    except UsageError as error:
        if not (said := error.format_message().rstrip(".")):
            raise SystemExit(BAD_INPUT) from None
        command = error.ctx.command_path if error.ctx else "jaunecharge"
        _refuse(f"{command}: {said}; see {command} --help", BAD_INPUT)
    except CannotRead as error:
        _refuse(str(error), BAD_INPUT)
    except Impossible as error:
        _refuse(str(error), IMPOSSIBLE)
    except CannotServe as error:
        _refuse(str(error), CANNOT_SERVE)
    except typer.Abort:
        raise SystemExit(1) from None


def _refuse(said: str, code: int) -> NoReturn:
    print(" ".join(said.split()), file=sys.stderr)
    raise SystemExit(code) from None
