"""The version before logs were packed, out of this repository's history, as a yardstick: what it takes for the same on
this machine just now.

Where the history is not there (an export without it) there is no such yardstick.
"""

import os
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

ROOT = Path(__file__).parents[1]
VERSION = "f24848fb58130f72402af2fa4946095661b29de9"
READ_ONCE = "from benchmarks.reading import read_once\nprint(read_once(10_800, 1.0))"
REREAD = """
import benchmarks.reading as reading
from tests.serving import fresh_database
reading.STORED = 100
with fresh_database() as database:
    print(reading.reread(database) / reading.STORED)
"""


@contextmanager
def version_before() -> Iterator[Path | None]:
    """Its tree in a folder of its own; None where it cannot be had."""
    with tempfile.TemporaryDirectory(prefix="jaunecharge-before-") as name:
        folder = Path(name)
        folder.chmod(0o755)
        command = ["git", "archive", "--format=tar", VERSION, "src", "tests", "benchmarks"]
        kept = subprocess.run(command, cwd=ROOT, capture_output=True, check=False)
        if kept.returncode:
            yield None
            return
        subprocess.run(["tar", "-x", "-C", folder], input=kept.stdout, check=True)
        yield folder


def took(tree: Path | None, program: str) -> float | None:
    """Seconds that a program of that version prints."""
    if tree is None:
        return None
    environment = {**os.environ, "PYTHONPATH": f"{tree / 'src'}:{tree}"}
    done = subprocess.run(
        [sys.executable, "-c", program], cwd=tree, env=environment, capture_output=True, text=True, check=True
    )
    return float(done.stdout.split()[-1])
