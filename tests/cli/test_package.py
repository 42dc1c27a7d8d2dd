"""`jaunecharge export` and `import` on a database that the settings name."""

import os
import shutil
import tempfile
import unittest
import uuid
from pathlib import Path
from unittest import mock

from sqlalchemy import text

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.settings import settings
from jaunecharge.store.kit import add_all
from tests.commands import command
from tests.serving import fresh_database


class Packages(unittest.TestCase):
    def setUp(self):
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder)
        self.here, self.there = (self.enterContext(fresh_database()) for _ in range(2))
        with self.there.session() as session:
            add_all(session, [kit_from_line("charger Disc mpp claims 15W")], "Ana")

    def on(self, database, *arguments):
        address = {"JAUNECHARGE_DATABASE_URL": database.url, "JAUNECHARGE_STATE": str(self.folder / "state")}
        settings.cache_clear()
        self.addCleanup(settings.cache_clear)
        with mock.patch.dict(os.environ, address):
            return command(*arguments)

    def test_out_of_one_and_into_another_and_again(self):
        done = self.on(self.there, "export", "--package", self.folder / "bench.zip", "--all", "--json")
        self.assertEqual((done.code, done.document["files"]), (0, 1), done.err)
        done = self.on(self.here, "import", self.folder / "bench.zip", "--json")
        self.assertEqual((done.code, done.document["new"]), (0, {"kit": 1}), done.err)
        done = self.on(self.here, "import", self.folder / "bench.zip")
        self.assertEqual((done.code, done.out.splitlines()[:2]), (0, ["new: nothing", "equal: 1 kit"]))

    def test_conflicts_end_with_4_until_they_are_settled(self):
        self.on(self.there, "export", "--package", self.folder / "a")
        self.on(self.here, "import", self.folder / "a")
        with self.here.session() as session:
            session.execute(text("UPDATE kit SET facts = jsonb_set(facts, '{note}', '\"x\"'), revision = 2"))
        done = self.on(self.here, "import", self.folder / "a")
        self.assertEqual(done.code, 4)
        self.assertIn("changed here and there: kit, Disc (facts, revision)", done.out)
        self.assertIn("--take theirs", done.err)
        self.assertEqual(self.on(self.here, "import", self.folder / "a", "--take", "mine").code, 0)
        self.assertEqual(
            self.on(self.here, "import", self.folder / "a", "--take", "theirs", "--json").document["taken"], {"kit": 1}
        )

    def test_a_data_set_for_analysts(self):
        done = self.on(self.there, "export", "--parquet", self.folder / "data", "--since", "2026-01-01", "--json")
        self.assertEqual((done.code, done.document["runs"], done.document["files"]), (0, 0, 1), done.err)
        done = self.on(self.there, "export", "--parquet", self.folder / "other")
        self.assertRegex(done.out, r"other: 0 runs; [\d,]+ bytes")

    def test_what_cannot_be_is_one_line_and_2(self):
        for arguments, why in (
            (("import", self.folder / "none"), "no such file or folder"),
            (("export", "--package", self.folder / "x", "--finding", "abc"), "is no id"),
            (("export", "--parquet", self.folder / "x", "--run", "abc"), "is no id"),
            (("export", "--parquet", self.folder / "x", "--since", "yesterday"), "is no moment"),
            (("export", "--package", self.folder / "x", "--phone", "Tarn 9"), "--parquet"),
            (("export", "--package", self.folder / "x", "--parquet", self.folder / "y"), "exclude each other"),
            (("export", "--all"), "give one of them"),
            (("export", "--package", self.folder / "x", "--finding", str(uuid.uuid4())), "no finding"),
            (("export", "--package", self.folder / "no" / "x"), "no such folder"),
            (("export", "--package", self.folder, "--all"), "is there already"),
        ):  # fmt: skip
            done = self.on(self.here, *arguments)
            self.assertEqual((done.code, done.out), (2, ""), (arguments, done.err))
            self.assertIn(why, done.err)
            self.assertEqual(len(done.err.strip().splitlines()), 1, done.err)
