"""Files sent and not yet read: kept for a day, shared by processes, named harmlessly."""

import os
import time
import uuid

from jaunecharge.core.errors import CannotRead
from jaunecharge.store.errors import NotThere
from jaunecharge.store.runs.uploads import KEPT_S, Uploads, plain_name
from tests.cases import FolderTest


class Sent(FolderTest):
    def send(self, uploads, name="m.csv"):
        upload = uploads.begin(name)
        upload.path.write_text("x")
        uploads.keep(upload)
        return upload

    def test_another_process_finds_what_one_received(self):
        sent = self.send(Uploads(self.folder))
        self.assertEqual(Uploads(self.folder).find(sent.id), sent)

    def test_what_did_not_arrive_whole_is_not_found(self):
        uploads = Uploads(self.folder)
        begun = uploads.begin("m.csv")
        with self.assertRaises(NotThere):
            uploads.find(begun.id)
        with self.assertRaises(NotThere):
            uploads.find(uuid.uuid4())

    def test_what_nobody_read_is_gone_after_a_day(self):
        uploads = Uploads(self.folder)
        old, young = self.send(uploads), self.send(uploads)
        before = time.time() - KEPT_S - 60
        os.utime(old.path.parent, (before, before))
        self.send(uploads)
        with self.assertRaises(NotThere):
            uploads.find(old.id)
        self.assertEqual(uploads.find(young.id), young)

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
