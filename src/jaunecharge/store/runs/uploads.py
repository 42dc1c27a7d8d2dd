"""Files that were sent but are not yet part of a run: in the state folder, gone after a day."""

import re
import time
import uuid
from dataclasses import dataclass
from pathlib import Path

from ...core.errors import CannotRead
from ..errors import NotThere

KEPT_S = 24 * 3600.0


@dataclass(frozen=True)
class Upload:
    """A file that was sent: its id, where it lies, and the name that it came with."""

    id: uuid.UUID
    path: Path
    name: str


class Uploads:
    """The folder of files sent; every process of the application on this machine shares it."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def begin(self, name: str) -> Upload:
        """Room for a file about to arrive."""
        self._tidy()
        upload_id = uuid.uuid4()
        place = self.folder / str(upload_id)
        place.mkdir(parents=True)
        return Upload(upload_id, place / "content", plain_name(name))

    def keep(self, upload: Upload) -> None:
        """Note the name of a file that arrived whole."""
        (upload.path.parent / "name").write_text(upload.name)

    def find(self, upload_id: uuid.UUID) -> Upload:
        """A file that was sent before.

        Raises
        ------
        NotThere
        """
        place = self.folder / str(upload_id)
        try:
            return Upload(upload_id, place / "content", (place / "name").read_text())
        except OSError as error:
            raise NotThere("the file that was sent is no longer here: drop it again") from error

    def drop(self, upload: Upload) -> None:
        """Forget a file that was sent."""
        for leftover in upload.path.parent.glob("*"):
            leftover.unlink(missing_ok=True)
        upload.path.parent.rmdir()

    def _tidy(self) -> None:
        self.folder.mkdir(parents=True, exist_ok=True)
        for place in self.folder.iterdir():
            if place.is_dir() and time.time() - place.stat().st_mtime > KEPT_S:
                self.drop(Upload(uuid.UUID(int=0), place / "content", ""))


def plain_name(name: str) -> str:
    """A file's name without folders and control characters.

    Raises
    ------
    CannotRead
    """
    bare = re.sub(r"[\x00-\x1f\x7f]", "", name.replace("\\", "/").rsplit("/", 1)[-1]).strip()
    if not bare:
        raise CannotRead("the file has no name", "send its name with it", file="upload")
    return bare[-200:]
