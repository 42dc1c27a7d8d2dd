"""Findings as files through the API: every kind, the figures of the page in the PDF, pictures, what is refused."""

import io
import re
import uuid
import zipfile

from PIL import Image
from pypdf import PdfReader

from tests.api.test_findings import FindingsTest


class Files(FindingsTest):
    def file(self, path, status=200, **params):
        answer = self.web.get(f"/api/findings/{self.id}/{path}", params=params)
        self.assertEqual(answer.status_code, status, answer.text[:300])
        return answer

    def test_every_kind_is_a_file_with_a_name(self):
        name = "which-disc-is-fastest-to-80-in-the-bunk-rooms-and-stays-unde"
        for file, begins in (
            ("page.html", b"<!doctype html>"), ("report.pdf", b"%PDF-"), ("tables.xlsx", b"PK"),
            ("table.csv", b"phone,"),
            ("short.txt", b"Which disc"), ("long.txt", b"Which disc"), ("post.md", b"# Which disc"),
        ):  # fmt: skip
            answer = self.file(f"files/{file}")
            self.assertTrue(answer.content.startswith(begins), file)
            kind = file.rpartition(".")[2]
            self.assertIn(f'filename="{name}.{kind}"', answer.headers["content-disposition"])
        self.file("files/finding.doc", 422)
        self.assertEqual(self.web.get(f"/api/findings/{uuid.uuid4()}/files/page.html").status_code, 404)

    def test_every_figure_of_the_finding_stands_in_the_text_of_its_pdf(self):
        read = PdfReader(io.BytesIO(self.file("files/report.pdf").content))
        text = re.sub(r"\s+", "", "".join(p.extract_text() for p in read.pages))
        draft, seen = self.shown()["draft"], 0
        told = [*draft["answer"], *(r["verdict"] for b in draft["blocks"] for r in b["rows"]), *draft["packs"],
                *(c["sentence"] for c in draft["claims"])]  # fmt: skip
        for sentence in told:
            for figure in sentence["figures"]:
                self.assertIn(re.sub(r"\s+", "", figure["text"]), text, sentence["words"])
                seen += 1
        self.assertGreater(seen, 20)

    def test_drawings_as_svg_and_png(self):
        svg = self.file("drawings/ribbons.svg").text
        self.assertIn("Cairn disc 15, place 1", svg)
        png = Image.open(io.BytesIO(self.file("drawings/battery.png", times=2, form="square", phone=1).content))
        self.assertEqual(png.size, (2160, 2160))
        self.file("drawings/battery.svg", 422, phone=99)
        self.file("drawings/battery.png", 422, times=3)
        self.file("drawings/pie.svg", 422)

    def test_all_pictures_come_in_one_zip(self):
        with zipfile.ZipFile(io.BytesIO(self.file("pictures.zip", times=1).content)) as archive:
            names = set(archive.namelist())
        self.assertLessEqual({f"race-{m}-min.png" for m in (15, 30, 45, 60)}, names)
        self.assertLessEqual({"ribbons.svg", "walk.png", "chain.svg", "price.png"}, names)
        self.assertIn("battery-tarn-9-2.svg", names)

    def test_edited_words_and_what_is_out_of_date_go_out_with_it(self):
        key = self.shown()["draft"]["method"][0]["key"]
        self.call("PUT", "words", key=key, words="Three evenings in the bunk room")
        self.assertIn("Three evenings in the bunk room", self.file("files/long.txt").text)
        self.call("PUT", "words", key=key, words=None)
        self.assertNotIn("Out of date", self.file("files/short.txt").text)
