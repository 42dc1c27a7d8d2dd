"""Logs as packed series: whole and in part, corrected, and packed from the rows that versions before had."""

import os
import subprocess
import sys
import time
import uuid
from dataclasses import fields

import numpy as np
from sqlalchemy import select, text

from jaunecharge.core.log import HeatLog, Surface, besides, power_trace
from jaunecharge.core.reading import RunLog
from jaunecharge.demo import hut
from jaunecharge.documents.case import Case
from jaunecharge.store import models as m
from jaunecharge.store.backup import backup, restore
from jaunecharge.store.runs import changes, rows, series
from jaunecharge.store.runs.logs import load_log, minutes_of, pack, samples_between
from jaunecharge.store.runs.readings import reading_of
from jaunecharge.store.runs.runs import NewRun, add_run, get_run, list_runs
from jaunecharge.store.runs.stretches import stretch_of
from tests.cases import FolderTest, checkins
from tests.old_rows import unpack_all
from tests.serving import fresh_database
from tests.working import read_waiting

RUNS = int(os.environ.get("UPGRADE_RUNS", "0"))
"""Runs of the version before that are upgraded: those of the demonstration, or so many."""

PACKER = """
import sys
from jaunecharge.jobs.rereading import again
from jaunecharge.store.database import Database
from jaunecharge.store.runs.rows import rows_of_runs
database = Database(sys.argv[1])
with database.session() as session:
    waiting = rows_of_runs(session, 100_000)
print("begun", flush=True)
for run_id in waiting:
    again(database, run_id)
"""


def long_log(count=200_000, step_s=0.5, seed=5, **more):
    rng = np.random.default_rng(seed)
    time_s = np.arange(count) * step_s
    time_s[count // 3 :] += 900.0
    volts, amps = np.round(9 + rng.normal(0, 0.005, count), 4), np.round(1.5 + rng.normal(0, 0.003, count), 4)
    amps[:100] = 0.05
    return RunLog(power_trace(time_s, volts * amps, volts, amps), **more)


def every_series(count=900):
    """A log with each kind of series."""
    time_s = np.arange(count, dtype=float)
    watts = np.where(time_s < 60, 0.5, 14.0) + np.round(np.sin(time_s), 2)
    surfaces = tuple(
        Surface(place, time_s[::7], np.round(30 + np.sqrt(time_s[::7]) / k, 1))
        for k, place in enumerate(("Back: left", "back", "front"), 2)
    )
    heat = HeatLog(surfaces, Surface("ambient", time_s[::300], np.array([22.5, 22.6, 22.8])))
    said = besides(
        [(90.0, 9.1), (600.0, 9.4)], [(61.0, True), (500.0, False)], [(62.0, True), (700.0, False)],
        [(0.0, 41.0), (800.0, 43.5)],
    )  # fmt: skip
    socket = power_trace(time_s, watts * 1.2, np.full(count, 230.0), watts * 1.2 / 230.0)
    trace = power_trace(time_s, watts)
    return RunLog(trace, checkins((1, 10), (8, 31), (15, 52)), heat, besides=said, socket=socket)


def flat(thing):
    """A log as plain values, to the last bit."""
    if isinstance(thing, np.ndarray):
        return thing.astype(float).view(np.int64).tolist()
    if hasattr(thing, "__dataclass_fields__"):
        return {f.name: flat(getattr(thing, f.name)) for f in fields(thing)}
    return [flat(x) for x in thing] if isinstance(thing, tuple | list) else thing


def pack_one(session):
    """Pack the log of one run; whether there was one."""
    waiting = rows.rows_of_runs(session, 1)
    if waiting:
        pack(session, rows.claim_unpacked(session, waiting[0]))
    return bool(waiting)


def cloned(session, runs):
    """Copy the runs that there are, with their logs, until there are so many."""
    known = [r.id for r in list_runs(session)]
    columns = ", ".join(
        session.scalars(
            text("SELECT column_name FROM information_schema.columns WHERE table_name = 'runs' AND column_name <> 'id'")
        )
    )
    for n in range(max(0, runs - len(known))):
        ids = {"new": uuid.uuid4(), "old": known[n % len(known)]}
        session.execute(text(f"INSERT INTO runs (id, {columns}) SELECT :new, {columns} FROM runs WHERE id = :old"), ids)
        own = "name, n, rows, first_s, last_s, bytes"
        session.execute(
            text(f"INSERT INTO series (run_id, {own}) SELECT :new, {own} FROM series WHERE run_id = :old"), ids
        )


class SeriesTest(FolderTest):
    def setUp(self):
        super().setUp()
        self.database = self.enterContext(fresh_database())

    def add(self, log, **more):
        with self.database.session() as session:
            case = Case(capacity_mah=4400, nominal_v=3.87)
            return add_run(session, NewRun("a run", log, case, **more)).id

    def rows(self):
        """Rows of logs that are not packed, over all tables."""
        with self.database.session() as session:
            return sum(session.scalar(text(f"SELECT count(*) FROM {t.name}")) for t in rows.ROWS.values())


class Kept(SeriesTest):
    def test_every_series_comes_back_to_the_last_bit(self):
        for log in (every_series(), long_log(), RunLog(power_trace(np.arange(99) / 3, np.sin(np.arange(99.0)) + 2))):
            run_id = self.add(log)
            with self.database.session() as session:
                self.assertEqual(flat(load_log(session, get_run(session, run_id))), flat(log))
        self.assertEqual(self.rows(), 0)

    def test_watts_that_are_volts_times_amps_are_not_stored(self):
        run_id = self.add(long_log(1000))
        other = self.add(every_series())
        with self.database.session() as session:
            stored = series.load_series(session, run_id)
            self.assertEqual(sorted(stored["samples"]), ["amps", "t_s", "volts"])
            self.assertEqual(sorted(series.load_series(session, other)["samples"]), ["t_s", "watts"])

    def test_watts_that_are_it_but_for_the_sign_of_nothing_are(self):
        """A meter at rest may write −0.000 A, and 0.000 W."""
        volts, amps = np.full(50, 9.0), np.where(np.arange(50) < 9, -0.0, 1.5)
        log = RunLog(power_trace(np.arange(50.0), np.abs(volts * amps), volts, amps))
        run_id = self.add(log)
        with self.database.session() as session:
            self.assertEqual(flat(load_log(session, get_run(session, run_id))), flat(log))
            unpack_all(session)
            self.assertTrue(pack_one(session))
            self.assertEqual(flat(load_log(session, get_run(session, run_id))), flat(log))

    def test_a_stretch_needs_only_its_chunks(self):
        log = long_log()
        run_id = self.add(log)
        with self.database.session() as session:
            run = get_run(session, run_id)
            times = log.trace.time_s
            chunks = session.execute(
                select(m.SeriesChunk.n, m.SeriesChunk.rows).where(m.SeriesChunk.name == "samples").order_by("n")
            ).all()
            self.assertEqual([tuple(c) for c in chunks], [(0, 65536), (1, 65536), (2, 65536), (3, 3392)])
            for from_s, to_s, held in (
                (10.0, 20.0, {0}), (times[65536], times[65600], {1}), (times[65536] - 0.1, times[65600], {0, 1}),
                (times[70000], times[150000], {1, 2}), (-5.0, -1.0, {0}), (1e9, 2e9, {3}),
                (-np.inf, np.inf, {0, 1, 2, 3}),
            ):  # fmt: skip
                part = samples_between(session, run, from_s, to_s)
                first, last = min(held) * 65536, min(len(times), (max(held) + 1) * 65536)
                self.assertEqual(flat(part["t_s"]), flat(times[first:last]), (from_s, to_s))

    def test_a_stretch_is_the_same_from_the_store_as_from_the_log_at_hand(self):
        log = long_log()
        run_id = self.add(log)
        with self.database.session() as session:
            run = get_run(session, run_id)
            for from_s, to_s in ((0.0, 50.0), (30_000.0, 34_500.0), (-np.inf, 900.0), (99_000.0, np.inf)):
                at_hand = stretch_of(session, run, log, from_s, to_s, 1500)
                stored = stretch_of(session, run, None, from_s, to_s, 1500)
                self.assertEqual((at_hand.samples, at_hand.holes), (stored.samples, stored.holes))
                self.assertEqual(flat(at_hand.time_s), flat(stored.time_s))
                self.assertEqual(flat(at_hand.watts), flat(stored.watts))

    def test_a_long_one_is_shown_by_its_minutes_extremes_and_holes_as_they_are(self):
        log = long_log()
        run_id = self.add(log)
        with self.database.session() as session:
            run = get_run(session, run_id)
            short = stretch_of(session, run, None, -np.inf, np.inf, 500)
            self.assertEqual(len(short.time_s), 2 * len(minutes_of(session, run).start_s))
            self.assertEqual(short.holes, log.trace.holes)
            self.assertEqual(short.samples, len(log.trace.time_s))
            watts = np.round(log.trace.power_w, 4)
            self.assertEqual((short.watts.min(), short.watts.max()), (watts.min(), watts.max()))
            known = dict(zip(log.trace.time_s.tolist(), watts.tolist(), strict=True))
            self.assertTrue(all(known[t] == w for t, w in zip(short.time_s, short.watts, strict=True)))

    def test_corrections_replace_what_they_correct_and_nothing_else(self):
        run_id = self.add(every_series())
        with self.database.session() as session:
            run = changes.change_checkins(session, run_id, 1, checkins((2, 12), (9, 40)), "Ada")
            changes.shift_run(session, run_id, run.revision, "temperatures", 30.0, 60.0, "Ada")
        with self.database.session() as session:
            log, was = load_log(session, get_run(session, run_id)), every_series()
        self.assertEqual(log.readings.percent.tolist(), [12.0, 40.0])
        self.assertEqual([s.position for s in log.heat.surfaces], ["Back: left", "back", "front"])
        self.assertEqual(log.heat.surfaces[1].time_s.tolist(), (was.heat.surfaces[1].time_s + 30).tolist())
        self.assertEqual(flat(log.trace), flat(was.trace))
        self.assertEqual(flat(log.socket), flat(was.socket))


class Packed(SeriesTest):
    """Logs that a version before laid down in rows."""

    def unpacked(self, *logs):
        ids = [self.add(log) for log in logs]
        with self.database.session() as session:
            unpack_all(session)
        return ids

    def test_the_same_to_the_last_bit_before_and_after(self):
        logs = every_series(), long_log(70_000), RunLog(power_trace(np.arange(9.0), np.full(9, 3.3)))
        ids = self.unpacked(*logs)
        self.assertGreater(self.rows(), 70_000)
        for step in range(2):
            with self.database.session() as session:
                for run_id, log in zip(ids, logs, strict=True):
                    run = get_run(session, run_id)
                    self.assertEqual(flat(load_log(session, run)), flat(log))
                    self.assertEqual(run.packed, bool(step))
            with self.database.session() as session:
                while pack_one(session):
                    pass
        self.assertEqual(self.rows(), 0)
        with self.database.session() as session:
            self.assertEqual(get_run(session, ids[1]).step_s, 0.5)

    def test_a_reader_that_began_before_it_was_packed_loses_nothing(self):
        [run_id] = self.unpacked(every_series())
        with self.database.session() as reader:
            run = get_run(reader, run_id)
            self.assertFalse(run.packed)
            with self.database.session() as session:
                self.assertTrue(pack_one(session))
            self.assertEqual(flat(load_log(reader, run)), flat(every_series()))

    def test_a_correction_packs_it_first(self):
        [run_id] = self.unpacked(every_series())
        with self.database.session() as session:
            changes.change_checkins(session, run_id, 1, checkins((2, 12), (9, 40)), "Ada")
        self.assertEqual(self.rows(), 0)
        with self.database.session() as session:
            log = load_log(session, get_run(session, run_id))
        self.assertEqual(log.readings.percent.tolist(), [12.0, 40.0])
        self.assertEqual(flat(log.trace), flat(every_series().trace))

    def test_nobody_is_told_that_it_changed(self):
        [run_id] = self.unpacked(every_series())

        def state():
            with self.database.session() as session:
                run = get_run(session, run_id)
                return run.revision, run.updated_at, run.summary_json

        before = state()
        with self.database.session() as session:
            pack_one(session)
        self.assertEqual(state(), before)

    def test_one_that_would_come_back_otherwise_is_left_in_rows(self):
        [run_id] = self.unpacked(every_series())
        kept, packed = series.packed, []

        def spoils(columns):
            packed.append(columns)
            first = next(iter(columns))
            return kept({**columns, first: columns[first] + 1e-9})

        series.packed = spoils
        self.addCleanup(setattr, series, "packed", kept)
        before = self.rows()
        with self.assertRaises(AssertionError), self.database.session() as session:
            pack(session, get_run(session, run_id))
        self.assertTrue(packed)
        self.assertEqual(self.rows(), before)
        series.packed = kept
        with self.database.session() as session:
            self.assertEqual(flat(load_log(session, get_run(session, run_id))), flat(every_series()))

    def test_one_that_cannot_be_packed_or_read_spoils_no_other(self):
        first, broken, last = self.unpacked(*(long_log(3000 + k) for k in range(3)))
        with self.database.session() as session:
            session.execute(
                text("UPDATE power_samples SET volts = 'Infinity', watts = 'NaN' WHERE run_id = :id"), {"id": broken}
            )
            session.execute(text("UPDATE runs SET reader_version = 0"))
        with self.assertLogs("jaunecharge.jobs", "ERROR"):
            read_waiting(self.database)
        with self.database.session() as session:
            found = {r.id: (r.packed, r.reader_version > 0) for r in list_runs(session)}
        self.assertEqual((found[first], found[last]), ((True, True), (True, True)))
        self.assertFalse(found[broken][1])

    def test_a_backup_of_rows_is_read_and_packed(self):
        self.unpacked(every_series(), long_log(3000))
        backup(self.database, self.folder / "rows.backup")
        with self.database.session() as session:
            while pack_one(session):
                pass
        restore(self.database, self.folder / "rows.backup")
        with self.database.session() as session:
            first, second = sorted(list_runs(session), key=lambda r: r.samples)
            self.assertEqual((first.packed, second.packed), (False, False))
            self.assertEqual(flat(load_log(session, first)), flat(every_series()))
        read_waiting(self.database)
        backup(self.database, self.folder / "packed.backup")
        restore(self.database, self.folder / "packed.backup")
        with self.database.session() as session:
            first, second = sorted(list_runs(session), key=lambda r: r.samples)
            self.assertEqual((first.packed, second.packed), (True, True))
            self.assertEqual(flat(load_log(session, second)), flat(long_log(3000)))
        self.assertEqual(self.rows(), 0)


class Upgrade(FolderTest):
    def test_the_demonstration_of_the_version_before_killed_five_times_on_the_way(self):
        """Every log and every reading is the same to the last digit, and nothing is left in rows."""
        database = self.enterContext(fresh_database())
        hut.load(database)
        with database.session() as session:
            cloned(session, RUNS)

        def documents():
            with database.session() as session:
                found = {}
                for run in list_runs(session):
                    log = load_log(session, run)
                    found[run.id] = flat(log), run.summary_json, repr(reading_of(session, run, log).milestones)
                return found

        before = documents()
        with database.session() as session:
            count = unpack_all(session)
        self.assertEqual(count, len(before))
        url = database.engine.url.render_as_string(hide_password=False)
        left = [count]
        for _ in range(5):
            packer = subprocess.Popen([sys.executable, "-c", PACKER, url], stdout=subprocess.PIPE)
            packer.stdout.readline()
            until = time.monotonic() + 60
            while left[-1] - self.unpacked(database) < max(2, count // 8) and time.monotonic() < until:
                pass
            packer.kill()
            packer.wait()
            packer.stdout.close()
            left.append(self.unpacked(database))
        self.assertEqual(sorted(left, reverse=True), left)
        self.assertGreater(left[-1], 0, "it was ended before it was done")
        self.assertEqual(documents(), before)
        while read_waiting(database):
            pass
        self.assertEqual(self.unpacked(database), 0)
        self.assertEqual(documents(), before)
        with database.session() as session:
            for table in rows.ROWS.values():
                self.assertEqual(session.scalar(text(f"SELECT count(*) FROM {table.name}")), 0)

    def unpacked(self, database):
        with database.session() as session:
            return rows.unpacked_runs(session)


class Spread(SeriesTest):
    def test_runs_are_spread_over_partitions_and_a_run_lies_in_one(self):
        ids = [self.add(RunLog(power_trace(np.arange(9.0), np.full(9, 3.3)))) for _ in range(40)]
        with self.database.session() as session:
            places = session.execute(text("SELECT run_id, tableoid::regclass::text FROM series")).all()
        self.assertEqual({uuid.UUID(str(r)) for r, _ in places}, set(ids))
        self.assertGreater(len({p for _, p in places}), 6)
        self.assertEqual(len(set(places)), len({r for r, _ in places}))
