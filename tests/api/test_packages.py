"""Data packages over the API: written with progress, fetched, brought in, conflicts told."""

import io
import json
import zipfile

from sqlalchemy import text

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.formats.package.rows import VERSION
from jaunecharge.store.kit import add_all
from tests.serving import ServedTest

LINES = {"Accept": "application/x-ndjson"}


class Packages(ServedTest):
    @classmethod
    def fill(cls):
        with cls.database.session() as session:
            add_all(session, [kit_from_line("charger Disc mpp claims 15W")], "Ana")

    def lines(self, path, **body):
        answer = self.web.post(path, json=body, headers=LINES)
        self.assertEqual(answer.status_code, 200, answer.text)
        return [json.loads(line) for line in answer.text.splitlines()]

    def written(self):
        told = self.lines("/api/packages")
        self.assertEqual(told[-1]["step"], "done")
        answer = self.web.get(f"/api/packages/{told[-1]['package']}")
        self.assertIn('filename="bench.zip"', answer.headers["content-disposition"])
        return answer.content

    def bring_in(self, content, take=""):
        sent = self.web.post("/api/packages/uploads", params={"name": "bench.zip"}, content=content)
        self.assertEqual(sent.status_code, 201, sent.text)
        return self.lines("/api/packages/imports", upload=sent.json()["id"], take=take)[-1]

    def test_out_and_in_again(self):
        content = self.written()
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            self.assertIn("datapackage.json", archive.namelist())
        done = self.bring_in(content)
        self.assertEqual((done["step"], done["new"], done["equal"]), ("done", {}, {"kit": 1}))

    def test_conflicts_are_told_and_settled(self):
        content = self.written()
        with self.database.session() as session:
            session.execute(text("UPDATE kit SET facts = jsonb_set(facts, '{note}', '\"x\"'), revision = revision + 1"))
        done = self.bring_in(content)
        self.assertEqual([(c["table"], c["label"]) for c in done["conflicts"]], [("kit", "Disc")])
        self.assertEqual(self.bring_in(content, "theirs")["taken"], {"kit": 1})
        self.assertEqual(self.bring_in(content)["conflicts"], [])

    def test_what_is_none_is_refused_in_its_last_line(self):
        done = self.bring_in(b"PK no package")
        self.assertEqual(done["step"], "refused")
        self.assertIn("no data package", done["problem"]["detail"])

    def test_the_schema_is_given_out(self):
        schema = self.web.get("/api/packages/schema.json").json()
        self.assertEqual(schema["version"], VERSION)
        self.assertIn("runs", schema["properties"])
