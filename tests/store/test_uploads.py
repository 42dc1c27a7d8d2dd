"""Files sent and not yet read: on every server that has the database, kept for a day, named harmlessly."""

import datetime as dt
import os
import shutil
import time
import uuid

import numpy as np
from sqlalchemy import delete, func, select, update

from jaunecharge.core.errors import CannotRead
from jaunecharge.store import models as m
from jaunecharge.store.backup import backup, restore
from jaunecharge.store.errors import NotThere
from jaunecharge.store.runs.uploads import KEPT_S, plain_name, uploads_of
from tests.cases import FolderTest
from tests.object_store import object_store
from tests.serving import fresh_database


class Sent(FolderTest):
    address = None

    def setUp(self):
        super().setUp()
        self.database = self.enterContext(fresh_database())

    def server(self, name="one"):
        """Uploads of a server: its folder is no other's."""
        return uploads_of(self.database, self.folder / name, self.address)

    def send(self, uploads, content=b"x", name="m.csv"):
        upload = uploads.begin(name)
        upload.path.write_bytes(content)
        uploads.keep(upload)
        return upload

    def kept(self):
        with self.database.session() as session:
            return session.scalar(select(func.count()).select_from(m.SentFile))

    def test_another_server_finds_what_one_received(self):
        content = np.random.default_rng(3).bytes(5_300_001)
        sent = self.send(self.server(), content)
        found = self.server("two").find(sent.id)
        self.assertEqual((found.name, found.path.read_bytes()), ("m.csv", content))
        self.assertNotEqual(found.path, sent.path)
        self.assertEqual(self.server().find(sent.id), sent)

    def test_a_copy_that_is_cut_or_gone_is_fetched_again(self):
        sent = self.send(self.server(), b"volts,amps")
        sent.path.write_bytes(b"volts")
        self.assertEqual(self.server().find(sent.id).path.read_bytes(), b"volts,amps")
        shutil.rmtree(self.folder / "one")
        self.assertEqual(self.server().find(sent.id).path.read_bytes(), b"volts,amps")

    def test_an_empty_file_is_one(self):
        sent = self.send(self.server(), b"")
        self.assertEqual(self.server("two").find(sent.id).path.read_bytes(), b"")

    def test_what_did_not_arrive_whole_is_not_found(self):
        uploads = self.server()
        begun = uploads.begin("m.csv")
        for missing in (begun.id, uuid.uuid4()):
            with self.assertRaises(NotThere):
                uploads.find(missing)

    def test_what_one_server_forgets_no_other_has(self):
        sent = self.send(self.server())
        other = self.server("two")
        other.drop(other.find(sent.id))
        with self.assertRaises(NotThere):
            self.server().find(sent.id)
        self.assertEqual(self.kept(), 0)

    def test_what_nobody_read_is_gone_after_a_day(self):
        uploads = self.server()
        old, young = self.send(uploads), self.send(uploads)
        before = time.time() - KEPT_S - 60
        os.utime(old.path.parent, (before, before))
        with self.database.session() as session:
            sent_at = dt.datetime.fromtimestamp(before, dt.UTC)
            session.execute(update(m.SentFile).where(m.SentFile.id == old.id).values(sent_at=sent_at))
        self.send(self.server("two"))
        with self.assertRaises(NotThere):
            uploads.find(old.id)
        self.send(uploads)
        self.assertFalse(old.path.parent.exists())
        self.assertEqual(uploads.find(young.id), young)

    def test_it_is_in_no_backup_and_ends_with_a_restore(self):
        sent = self.send(self.server(), b"a secret log")
        backup(self.database, self.folder / "all.backup")
        restore(self.database, self.folder / "all.backup")
        self.assertEqual(self.kept(), 0)
        with self.assertRaises(NotThere):
            self.server("two").find(sent.id)


class InObjectStore(Sent):
    """The same where the bytes lie in an S3-compatible store."""

    def setUp(self):
        super().setUp()
        self.store, self.address = self.enterContext(object_store())

    def test_the_bytes_are_there_and_not_in_the_database(self):
        content = np.random.default_rng(4).bytes(12_000_000)
        sent = self.send(self.server(), content)
        self.assertEqual(self.store.objects, {f"/bench/sent/{sent.id}": content})
        with self.database.session() as session:
            self.assertEqual(session.scalar(select(func.count()).select_from(m.SentChunk)), 0)
        self.server().drop(sent)
        self.assertEqual([place for place in self.store.objects if not place.endswith("/")], [])

    def test_what_a_restore_left_there_is_gone_after_a_day(self):
        left, young = self.send(self.server()), self.send(self.server())
        self.store.objects["/bench/sent/notes.txt"] = b"of somebody else"
        with self.database.session() as session:
            session.execute(delete(m.SentFile))
        for place in ("/bench/sent/notes.txt", f"/bench/sent/{left.id}"):
            self.store.put_at[place] = dt.datetime.now(dt.UTC) - dt.timedelta(seconds=KEPT_S + 60)
        new = self.send(self.server("two"))
        kept = {place.rsplit("/", 1)[1] for place in self.store.objects if not place.endswith("/")}
        self.assertEqual(kept, {"notes.txt", str(young.id), str(new.id)})

    def test_bytes_that_the_store_lost_are_said_to_be_gone(self):
        sent = self.send(self.server())
        self.store.objects.clear()
        with self.assertRaises(NotThere):
            self.server("two").find(sent.id)

    def test_a_store_that_refuses_keeps_nothing_and_says_so(self):
        uploads = uploads_of(self.database, self.folder / "one", self.address.replace("hutkey", "other"))
        upload = uploads.begin("m.csv")
        upload.path.write_bytes(b"x")
        with self.assertRaises(OSError):
            uploads.keep(upload)
        self.assertEqual((self.kept(), self.store.objects), (0, {}))


class Names(FolderTest):
    def test_names_lose_their_folders_and_controls(self):
        for name, expected in (
            ("../../etc/passwd", "passwd"),
            ("C:\\logs\\m.csv", "m.csv"),
            ("a\nb.csv", "ab.csv"),
            ("x" * 300, "x" * 200),
        ):
            self.assertEqual(plain_name(name), expected)
        with self.assertRaises(CannotRead):
            plain_name("folder/")
