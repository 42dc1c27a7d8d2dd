"""`jaunecharge worker`: does the jobs of a database, beside its servers or on another machine."""

import os
import signal
import sys
import threading
from typing import Annotated

import typer

from .app import command

MOST_JOBS = 64


@command("worker")
def work(
    jobs: Annotated[int, typer.Option(min=1, max=MOST_JOBS, help="processes that do jobs, one a core")] = 1,
    beside: Annotated[bool, typer.Option(hidden=True, help="end with the process that started it")] = False,
) -> None:
    from ..service import kept_alive, ready_database
    from ..settings import settings

    over = threading.Event()
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, lambda *_: over.set())
    if beside:
        threading.Thread(target=_with_parent, args=(over,), daemon=True).start()
    where = settings()
    with ready_database(where, lambda line: None if beside else typer.echo(line)) as database, kept_alive(where):
        from ..jobs.worker import Worker, own_name
        from ..jobs.workforce import Beside
        from ..jobs.workforce import beside as one_beside
        from ..store.runs.uploads import uploads_of

        hands: list[Worker | Beside]
        if jobs == 1:
            hands = [Worker(database, uploads_of(database, where.uploads, where.uploads_url))]
        else:
            hands = [one_beside(database.url) for _ in range(jobs)]
        for hand in hands:
            hand.start()
        if not beside:
            typer.echo(f"worker {own_name()}: {jobs} at a time (Ctrl-C stops it)")
        over.wait()
        for hand in hands:
            hand.stop()


def _with_parent(over: threading.Event) -> None:
    """The parent holds the other end of standard input: it closes when that process ends, however it ends."""
    while os.read(sys.stdin.fileno(), 1):
        pass
    over.set()
