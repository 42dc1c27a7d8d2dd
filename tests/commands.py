"""Running a command as it would be called, without a process of its own."""

import contextlib
import io
import json
import sys
from dataclasses import dataclass
from unittest import mock

from jaunecharge.cli import main


@dataclass(frozen=True)
class Done:
    """How a command ended."""

    code: int
    out: str
    err: str

    @property
    def document(self):
        return json.loads(self.out)


def command(*arguments) -> Done:
    """The exit code and what was written."""
    out, err = io.StringIO(), io.StringIO()
    code = 0
    called = mock.patch.object(sys, "argv", ["jaunecharge", *map(str, arguments)])
    with called, contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        try:
            main()
        except SystemExit as end:
            code = end.code or 0
    return Done(code, out.getvalue(), err.getvalue())
