"""The command line: one thin command per use, on files, without a server or a database."""

import sys
from typing import Any, NoReturn

import typer

from ..core.errors import CannotRead, Impossible
from ..postgres import CannotServe
from ..secured import AUTO
from .app import load

__all__ = ["main"]

# What Typer raises for a wrong call: the base of the one such error that it gives out by name.
UsageError: Any = typer.BadParameter.__mro__[1]
BAD_INPUT = 2
CANNOT_SERVE = 1
IMPOSSIBLE = 3


def main() -> None:
    """The command `jaunecharge`; bad input is one line on standard error and exit 2."""
    sys.argv[1:] = _whole_tls(sys.argv[1:])
    try:
        raise SystemExit(load(sys.argv[1] if len(sys.argv) > 1 else "")(standalone_mode=False) or 0)
    except UsageError as error:
        if not (message := error.format_message().rstrip(".")):
            raise SystemExit(BAD_INPUT) from None
        command = error.ctx.command_path if error.ctx else "jaunecharge"
        _refuse(f"{command}: {message}; see {command} --help", BAD_INPUT)
    except CannotRead as error:
        _refuse(str(error), BAD_INPUT)
    except Impossible as error:
        _refuse(str(error), IMPOSSIBLE)
    except CannotServe as error:
        _refuse(str(error), CANNOT_SERVE)
    except typer.Abort:
        raise SystemExit(1) from None


def _whole_tls(arguments: list[str]) -> list[str]:
    """`--tls auto` as the pair that the option takes."""
    whole: list[str] = []
    for argument in arguments:
        alone = argument == "auto" and whole[-1:] == ["--tls"]
        whole += ["--tls", AUTO, AUTO] if argument == "--tls=auto" else [AUTO, AUTO] if alone else [argument]
    return whole


def _refuse(message: str, code: int) -> NoReturn:
    print(" ".join(message.split()), file=sys.stderr)
    raise SystemExit(code) from None
