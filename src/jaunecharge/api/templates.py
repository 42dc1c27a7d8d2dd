"""Pages that are made here, without a script: their templates."""

from functools import lru_cache
from pathlib import Path

from jinja2 import Environment, FileSystemLoader, StrictUndefined, Template


@lru_cache
def template(name: str) -> Template:
    """A template beside this file; what it is given is escaped."""
    environment = Environment(
        loader=FileSystemLoader(Path(__file__).parent), autoescape=True, undefined=StrictUndefined, trim_blocks=True,
        lstrip_blocks=True,
    )  # fmt: skip
    return environment.get_template(name)
