"""Where the application keeps its state, and on which port it serves."""

import hashlib
import os
from functools import lru_cache
from pathlib import Path

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

PROJECT = Path(__file__).resolve().parents[2]


class Settings(BaseSettings):
    """Read from the environment, each under its name with JAUNECHARGE_ before it.

    uploads_url names an S3-compatible store for files that are sent, as s3://KEY:SECRET@bucket/folder?endpoint_override=
    host:port; without one they lie in the database. database_read_url names a copy that follows the database, for pages
    that only read. proxies are the machines, with commas between, whose word is taken for where a request comes from,
    behind a proxy.
    """

    model_config = SettingsConfigDict(env_prefix="JAUNECHARGE_")

    port: int = Field(8417, ge=1, le=65535)
    state: Path = PROJECT / ".state"
    database_url: str | None = None
    database_read_url: str | None = None
    uploads_url: str | None = None
    proxies: str = "127.0.0.1"

    @property
    def uploads(self) -> Path:
        """This machine's copies of files that were sent."""
        return self.state / "uploads"

    @property
    def cluster(self) -> Path:
        """The private database cluster: in the state folder; beside it where root runs the application.

        PostgreSQL refuses root, and its own user may not enter a folder that is root's alone.
        """
        inside = self.state / "postgres"
        if os.geteuid() != 0 or (inside / "data").exists():
            return inside
        digest = hashlib.sha256(str(self.state).encode()).hexdigest()[:8]
        return Path("/var/lib") / f"jaunecharge-{digest}" / "postgres"

    def make_state(self) -> None:
        """Make the state folder, open to nobody else, and whatever this process writes from now on as well.

        Where a cluster of before lies in it that another user serves, that user may pass through.
        """
        os.umask(0o077)
        self.state.mkdir(parents=True, exist_ok=True)
        passes = os.geteuid() == 0 and self.cluster.is_relative_to(self.state)
        self.state.chmod(0o711 if passes else 0o700)
        self.uploads.mkdir(exist_ok=True)
        self.uploads.chmod(0o700)
        for file in self.state.glob("waiting.sqlite3*"):
            file.chmod(0o600)


@lru_cache
def settings() -> Settings:
    """The settings of this process."""
    values = Settings()
    return values.model_copy(update={"state": values.state.resolve()})
