"""Readings of stored runs: decisions of a reader, the reference run, notes as evidence, reading anew."""

import threading
import unittest
from pathlib import Path

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.reading.decisions import Decision
from jaunecharge.core.reading.read_run import READER_VERSION
from jaunecharge.core.reading.standby import Habits
from jaunecharge.documents.case import Case
from jaunecharge.jobs import Worker, again
from jaunecharge.store import models as m
from jaunecharge.store import settings
from jaunecharge.store.errors import ChangedMeanwhile, NotThere
from jaunecharge.store.runs import runs as store
from jaunecharge.store.runs.copies import repeats_of
from jaunecharge.store.runs.decisions import overrule, set_aside
from jaunecharge.store.runs.logs import load_log
from jaunecharge.store.runs.readings import conditions_of, reading_of, stale
from jaunecharge.store.runs.remarks import add_note, lay_aside
from jaunecharge.store.runs.uploads import uploads_of
from tests.core.small_runs import FULL, PLACED, cycles, falling, follow, read, rising
from tests.serving import fresh_database
from tests.working import read_waiting

HEATED = [PLACED, *cycles(15.0, 8.0), *falling(50, 15, 1), FULL]


class ReadingsTest(unittest.TestCase):
    def setUp(self):
        self.database = self.enterContext(fresh_database())

    def add(self, levels=HEATED, heat=True, label="a run", **more):
        log = read(levels, rising(150), follow(levels) if heat else None).log
        with self.database.session() as session:
            run = store.add_run(session, store.NewRun(label, log, Case(capacity_mah=4400, nominal_v=3.87), **more))
            session.expunge(run)
            return run

    def reading(self, run_id):
        with self.database.session() as session:
            run = store.get_run(session, run_id)
            return reading_of(session, run, load_log(session, run))


class Decisions(ReadingsTest):
    def decide(self, run, **more):
        first = self.reading(run.id).judged.dips[0]
        decision = Decision("dip", first.start_s, first.end_s, by="Ida", **more)
        with self.database.session() as session:
            return overrule(session, run.id, run.revision, decision)

    def test_a_decision_is_kept_read_with_and_can_be_undone(self):
        run = self.add()
        before = self.reading(run.id).throttle.cycles
        changed = self.decide(run, cause="contact", why="lifted")
        self.assertEqual(self.reading(run.id).throttle.cycles, before - 1)
        self.assertIn("contact", {mark.what for mark in changed.summary.ribbon.marks})
        kept = changed.decisions[0]
        self.assertEqual((kept.by, kept.why, kept.cause), ("Ida", "lifted", "contact"))
        with self.database.session() as session:
            undone = set_aside(session, run.id, changed.revision, kept.id, True, "Ben")
            self.assertEqual(undone.decisions[0].undone_by, "Ben")
        self.assertEqual(self.reading(run.id).throttle.cycles, before)
        with self.database.session() as session:
            set_aside(session, run.id, undone.revision, kept.id, False, "Ben")
        self.assertEqual(self.reading(run.id).throttle.cycles, before - 1)

    def test_a_second_window_is_told(self):
        run = self.add()
        self.decide(run, cause="contact")
        with self.assertRaises(ChangedMeanwhile):
            self.decide(run, cause="restart")

    def test_what_cannot_be_is_refused_and_nothing_kept(self):
        run = self.add()
        with self.assertRaises(CannotRead):
            self.decide(run, new_start_s=500.0, new_end_s=400.0)
        with self.database.session() as session:
            self.assertEqual(store.get_run(session, run.id).decisions, ())
            with self.assertRaises(NotThere):
                set_aside(session, run.id, run.revision, run.id, True, "")


class Evidence(ReadingsTest):
    def test_a_note_that_it_was_moved_counts_and_so_does_laying_it_aside(self):
        run = self.add([PLACED, *cycles(15.0, 0.5, 43.0, 40.0), *falling(50, 15, 1), FULL], heat=False)
        first = self.reading(run.id).judged.dips[0]
        self.assertEqual(first.cause, "unexplained")
        with self.database.session() as session:
            note = add_note(session, run.id, "Ida moved it", first.start_s + 20, "Ida")
        with self.database.session() as session:
            marks = store.get_run(session, run.id).summary.ribbon.marks
            self.assertEqual(marks[0].what, "contact")
            self.assertEqual(store.get_run(session, run.id).revision, run.revision)
            lay_aside(session, m.Note, note.id, True, "Ida")
            self.assertEqual(store.get_run(session, run.id).summary.ribbon.marks[0].what, "unexplained")

    def test_the_phones_limit_and_the_cards_start_come_from_what_was_used(self):
        kit = {
            "phone": {
                "kind": "phone",
                "label": "Tarn 9",
                "capacity_mah": 4400,
                "accepts": [{"name": "bpp", "watts": 5}],
            },
            "charger": {
                "kind": "charger",
                "label": "Kar",
                "pads": [{"place": "", "gives": [{"name": "epp", "watts": 15}]}],
            },
        }
        run = self.add(factors={"phone": "Tarn 9", "charger": "Kar", "method": "From ten to full"})
        with self.database.session() as session:
            kept = store.get_run(session, run.id)
            kept.kit = kit
            found = conditions_of(session, kept)
        self.assertEqual(found.phone_limit_w, 5.0)
        self.assertEqual(found.method_start, (5.0, 15.0))

    def test_repeats_are_of_the_same_factors(self):
        same = {"phone": "Tarn 9", "charger": "Kar"}
        first = self.add(factors=same)
        with self.database.session() as session:
            self.assertEqual(repeats_of(session, first), 0)
        self.add(factors=same)
        with self.database.session() as session:
            self.assertEqual(repeats_of(session, first), 0, "the same recording, read twice, repeats nothing")
        second = self.add([PLACED, *cycles(14.6, 8.0), *falling(50, 15, 1), FULL], factors=same)
        self.add([PLACED, *cycles(14.2, 8.0), *falling(50, 15, 1), FULL], factors={**same, "case": "thin"})
        with self.database.session() as session:
            # What was simulated repeats nothing.
            other = self.add([PLACED, *cycles(14.8, 8.0), *falling(50, 15, 1), FULL], factors=same)
            simulated = store.get_run(session, other.id)
            simulated.case = simulated.case.model_copy(update={"simulated": True})
        with self.database.session() as session:
            self.assertEqual(repeats_of(session, first), 1)
            self.assertEqual(repeats_of(session, second), 1)


class Settings(ReadingsTest):
    def test_habits_are_kept_with_their_revision(self):
        with self.database.session() as session:
            self.assertEqual(settings.habits(session), (Habits(), 0))
            settings.change_habits(session, Habits(9, 4, 0.4, "CHF"), 0, "Ida")
        with self.database.session() as session:
            self.assertEqual(settings.habits(session), (Habits(9, 4, 0.4, "CHF"), 1))
            with self.assertRaises(ChangedMeanwhile):
                settings.change_habits(session, Habits(), 0, "Ben")
            for wrong in (Habits(night_h=4, full_h=5), Habits(tariff=-1), Habits(currency=" ")):
                with self.assertRaises(CannotRead):
                    settings.change_habits(session, wrong, 1, "Ben")

    def test_a_reference_gives_its_ratio_to_every_run(self):
        run, other = self.add(label="the reference"), self.add()
        usual = self.reading(other.id).output.estimates[0].watts
        with self.database.session() as session:
            settings.name_reference(session, store.get_run(session, run.id), self.reading(run.id), 12.0, 0, "Ida")
            self.assertEqual(stale(session), 2)
        found = self.reading(other.id).output
        self.assertAlmostEqual(found.ratio.value.value, 15.0 / 12.0, places=3)
        self.assertIn("the reference", found.ratio.source)
        self.assertTrue(found.ratio.own)
        self.assertLess(found.estimates[0].watts.expanded, usual.expanded)
        with self.database.session() as session:
            settings.drop_reference(session, 1, "Ida")
        self.assertFalse(self.reading(other.id).output.ratio.own)

    def test_more_than_was_drawn_cannot_be_delivered(self):
        run = self.add()
        with self.database.session() as session, self.assertRaises(CannotRead):
            settings.name_reference(session, store.get_run(session, run.id), self.reading(run.id), 40.0, 0, "")


class ReadAnew(ReadingsTest):
    def test_the_old_reading_stays_until_the_new_is_there(self):
        run = self.add()
        with self.database.session() as session:
            kept = store.get_run(session, run.id)
            kept.reader_version, kept.summary = 1, kept.summary.model_copy(update={"headline": "the old one"})
            before = kept.updated_at
        with self.database.session() as session:
            self.assertEqual(store.get_run(session, run.id).summary.headline, "the old one")
        self.assertEqual(read_waiting(self.database), 1)
        with self.database.session() as session:
            kept = store.get_run(session, run.id)
            self.assertEqual(kept.reader_version, READER_VERSION)
            self.assertIn("heat cost", kept.summary.headline)
            self.assertEqual(kept.revision, run.revision)
            self.assertGreaterEqual(kept.updated_at, before)

    def test_one_that_cannot_be_read_keeps_its_old_reading_and_says_why(self):
        run = self.add()
        with self.database.session() as session:
            kept = store.get_run(session, run.id)
            kept.reader_version = 1
            kept.case = kept.case.model_copy(update={"placed_s": 1e9})
        self.assertEqual(read_waiting(self.database), 1)
        self.assertEqual(read_waiting(self.database), 0)
        with self.database.session() as session:
            kept = store.get_run(session, run.id)
            self.assertIn("placed", kept.summary.kept_old)
            self.assertIn("heat cost", kept.summary.headline)

    def test_two_processes_share_the_work_and_read_each_run_once(self):
        for _ in range(6):
            self.add([PLACED, (3600, 12.0)], heat=False)
        with self.database.session() as session:
            runs = [run.id for run in store.list_runs(session)]
            for run in store.list_runs(session):
                run.reader_version = 0
        done = []

        def work():
            for run_id in runs:
                if again(self.database, run_id):
                    done.append(run_id)

        threads = [threading.Thread(target=work) for _ in range(2)]
        for t in threads:
            t.start()
        for t in threads:
            t.join()
        self.assertEqual(sorted(done), sorted(runs))
        with self.database.session() as session:
            self.assertEqual(stale(session), 0)

    def test_in_the_background_with_its_progress(self):
        self.add([PLACED, (3600, 12.0)], heat=False)
        with self.database.session() as session:
            for run in store.list_runs(session):
                run.reader_version = 0
        worker = Worker(self.database, uploads_of(self.database, Path("unused"), None))
        worker.start()
        try:
            for _ in range(600):
                with self.database.session() as session:
                    if stale(session) == 0:
                        break
                threading.Event().wait(0.05)
            with self.database.session() as session:
                self.assertEqual(stale(session), 0)
        finally:
            worker.stop()
        self.assertFalse(worker.alive)


if __name__ == "__main__":
    unittest.main()
