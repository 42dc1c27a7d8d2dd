"""Jobs done here and now, one after another: as a worker does them, without its engine."""

import contextlib
from pathlib import Path

from jaunecharge.jobs.doing import Again, Workshop, do
from jaunecharge.jobs.rereading import deal_out
from jaunecharge.jobs.works import WORKS
from jaunecharge.store.jobs import jobs as store
from jaunecharge.store.runs.uploads import uploads_of


def workshop(database, folder="unused", worker="a worker"):
    return Workshop(database, uploads_of(database, Path(folder), None), worker)


def do_waiting(database, folder="unused"):
    """Do each job that waits, once; how many there were."""
    done = 0
    seen = set()
    while True:
        with database.session() as session:
            waiting = [job.id for job in store.jobs_in(session, "waiting", 1000) if job.id not in seen]
        if not waiting:
            return done
        for job_id in waiting:
            seen.add(job_id)
            with contextlib.suppress(Again):
                do(workshop(database, folder), job_id, WORKS)
            done += 1


def read_waiting(database):
    """Read and pack whatever waits for it; how many runs were dealt out at first."""
    with database.session() as session:
        dealt = deal_out(session)
    do_waiting(database)
    return dealt
