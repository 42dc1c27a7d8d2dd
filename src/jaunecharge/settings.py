"""Where the application keeps its state, and on which port it serves."""

import hashlib
import os
from functools import lru_cache
from pathlib import Path

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

PROJECT = Path(__file__).resolve().parents[2]


class Settings(BaseSettings):
    """Read from the environment: JAUNECHARGE_PORT, JAUNECHARGE_STATE, JAUNECHARGE_DATABASE_URL."""

    model_config = SettingsConfigDict(env_prefix="JAUNECHARGE_")

    port: int = Field(8417, ge=1, le=65535)
    state: Path = PROJECT / ".state"
    database_url: str | None = None

    @property
    def uploads(self) -> Path:
        """Files that were sent and are not yet part of a run."""
        return self.state / "uploads"

    @property
    def cluster(self) -> Path:
        """The private database cluster; apart from the state where PostgreSQL's user could not reach it."""
        if os.geteuid() != 0 or _others_can_enter(self.state.parent):
            return self.state / "postgres"
        digest = hashlib.sha256(str(self.state).encode()).hexdigest()[:8]
        return Path("/var/lib") / f"jaunecharge-{digest}" / "postgres"


def _others_can_enter(folder: Path) -> bool:
    """Whether any user may pass through every folder down to this one (those that exist)."""
    folder = folder.resolve()
    return all(part.stat().st_mode & 0o001 for part in (folder, *folder.parents) if part.exists())


@lru_cache
def settings() -> Settings:
    """The settings of this process."""
    found = Settings()
    return found.model_copy(update={"state": found.state.resolve()})
