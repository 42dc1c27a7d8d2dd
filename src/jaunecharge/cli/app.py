"""The commands: where each stands, and what it is for. Only the one that is asked for is loaded."""

from collections.abc import Callable
from dataclasses import dataclass
from importlib import import_module
from typing import Any

import typer


@dataclass(frozen=True)
class Command:
    """module : the module of the command; help : what it does, in one sentence."""

    module: str
    help: str


COMMANDS = {
    "backup": Command("serve", "Back up everything that is stored into one file."),
    "carry": Command("carry", "Estimate the curve of another phone of the same acceptance tier from a measured one."),
    "chain": Command("chain", "Check a chain: watts at each link, the bottleneck, what arrives, what to change."),
    "export": Command("package", "Write a data package or a Parquet data set: everything, or a part of it."),
    "import": Command("package", "Bring a data package in; what was changed here and there is told."),
    "openapi": Command("serve", "Print the description of the web API, from which the types of the pages are made."),
    "pack": Command("pack", "Tell what a battery pack promises and gives: from figures, or from a load test's log."),
    "people": Command("people", "Manage who may sign in over the network."),
    "read": Command("read", "Read one run from its files."),
    "rehearse": Command("rehearse", "Simulate a run; write meter.csv, battery.csv, heat.csv, case.json, truth.json."),
    "resolve": Command("schedule", "Find the smallest difference that planned runs would detect (80 % probability)."),
    "restore": Command("serve", "Restore a backup; what is stored now is saved beside it first."),
    "runs": Command("runs", "List the runs that a file holds: a wide table, a row a run, a log of several placings."),
    "schedule": Command("schedule", "Schedule runs: drains, runs and cool-downs that begin while somebody is there."),
    "serve": Command("serve", "Start the database server and serve the application on this machine, until Ctrl-C."),
    "stand-in": Command("stand_in", "Simulate an instrument: SCPI over TCP, or pushes to a lane, until Ctrl-C."),
    "worker": Command("worker", "Do the heavy work of a database's servers, on this machine or another."),
    "versus": Command("versus", "Compare runs over one window: which is faster, by how much, and is the test fair."),
}


def _settings() -> dict[str, Any]:
    return {
        "add_completion": False,
        "no_args_is_help": True,
        "pretty_exceptions_enable": False,
        "rich_markup_mode": None,
        "help": "Measure wireless chargers against phones, and say what the figures allow.",
    }


app = typer.Typer(**_settings())


@app.callback()
def _commands() -> None:
    """Keep the name of each command, however few there are."""


def command(name: str) -> Callable[[Callable[..., None]], Callable[..., None]]:
    """The decorator of a command."""
    return app.command(name, help=COMMANDS[name].help)


def load(name: str) -> typer.Typer:
    """The application with this command in it; only the list of all commands where there is none of that name."""
    if name in COMMANDS:
        import_module(f".{COMMANDS[name].module}", __package__)
        return app
    listed = typer.Typer(**_settings())
    for one, about in COMMANDS.items():
        listed.command(one, help=about.help, short_help=about.help)(_commands)
    return listed
