"""Findings in the store: an older database gets their table; a look at the list reads no run that was not touched."""

import datetime as dt
import tempfile
import unittest
import zipfile
from pathlib import Path

from sqlalchemy import event, text

from jaunecharge.demo import hut
from jaunecharge.documents.finding import FindingDocument
from jaunecharge.store.backup import backup, restore
from jaunecharge.store.finding_models import Finding
from jaunecharge.store.findings import findings as store
from jaunecharge.store.findings.links import link_of, share, shared_by
from tests.serving import fresh_database

NOW = dt.datetime(2027, 3, 1, tzinfo=dt.UTC)


class Upgraded(unittest.TestCase):
    def test_a_database_with_runs_gets_findings_and_answers_from_its_runs(self):
        with fresh_database("0013") as database:
            database.migrate()
            hut.load(database)
            with database.session() as session:
                self.assertEqual(len(store.list_findings(session)), 3)
                tables = session.scalars(text("SELECT tablename FROM pg_tables WHERE tablename = 'findings'")).all()
                self.assertEqual(tables, ["findings"])


class Kept(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.database = cls.enterClassContext(fresh_database(with_demo=True))

    def test_one_that_is_up_to_date_is_known_without_reading_its_runs(self):
        with self.database.session() as session:
            found = store.list_findings(session)[0]
            asked = []
            engine = session.get_bind()
            event.listen(engine, "before_cursor_execute", lambda *a: asked.append(a[2]))
            self.assertEqual(store.changes(session, found), [])
            self.assertFalse([q for q in asked if "runs.summary" in q])

    def test_it_says_by_what_it_was_drawn_up(self):
        with self.database.session() as session:
            found = session.get(Finding, store.list_findings(session)[0].id)
            found.software = "Jaunecharge 0.0.1, reader 1"
            self.assertIn("drawn up by Jaunecharge 0.0.1", store.changes(session, found)[0].said)
            session.rollback()

    def test_a_finding_of_packs_alone_has_its_packs(self):
        with self.database.session() as session:
            found = store.add_finding(session, FindingDocument(question="Which pack?", packs=["col bank 10"]), NOW, "")
            self.assertEqual(found.draft.packs[0].key, "pack|col bank 10")
            self.assertEqual(found.draft.state, "nothing to compare yet")
            session.rollback()

    def test_a_link_is_in_no_backup_and_ends_when_one_is_restored(self):
        with self.database.session() as session:
            finding = store.list_findings(session)[0].id
            token = share(session, finding, NOW, "Ana").token
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "bench.zip"
            backup(self.database, file)
            self.assertFalse([n for n in zipfile.ZipFile(file).namelist() if "link" in n])
            restore(self.database, file)
        with self.database.session() as session:
            self.assertIsNone(shared_by(session, token))
            self.assertIsNone(link_of(session, finding))
            self.assertEqual(store.get_finding(session, finding).id, finding)
