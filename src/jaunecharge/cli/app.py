"""The command that the others hang on."""

import typer

app = typer.Typer(
    add_completion=False,
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    help="Measure wireless chargers against phones, and say what the figures allow.",
)


@app.callback()
def _commands() -> None:
    """Keep the name of each command, however few there are."""
