"""The data package: out and in again, equal file by file; merged with another bench; refused where it cannot be."""

import datetime as dt
import hashlib
import json
import os
import shutil
import tempfile
import unittest
import uuid
import zipfile
from pathlib import Path

import duckdb
import numpy as np
import pyarrow.csv
import pyarrow.parquet
from frictionless import validate
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import text

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.core.log.check_ins import make_check_ins
from jaunecharge.core.log.trace import power_trace
from jaunecharge.core.reading.read_run import RunLog
from jaunecharge.documents.case import Case
from jaunecharge.documents.finding import FindingDocument
from jaunecharge.documents.pack_test import LoadSeen
from jaunecharge.formats.package.opened import entries
from jaunecharge.formats.package.rows import SINCE
from jaunecharge.store import models as m
from jaunecharge.store.findings.findings import add_finding, list_findings
from jaunecharge.store.kit import add_all, shelf
from jaunecharge.store.packages.coming_in import import_package
from jaunecharge.store.packages.going_out import export_package
from jaunecharge.store.packs import keep, of_pack, pack_of
from jaunecharge.store.runs.remarks import add_note
from jaunecharge.store.runs.runs import NewRun, add_run
from tests.serving import fresh_database

AT = dt.datetime(2027, 3, 1, tzinfo=dt.UTC)
TABLES = (
    "findings, pack_tests, pack_plans, slots, plans, notes, photos, corrections, run_files, runs, kit, cards, files,"
    " settings, meter_checks"
)
WORDS = st.text(st.characters(exclude_categories=("Cs", "Cc")), max_size=40)


def contents(folder):
    return {str(p.relative_to(folder)): p.read_bytes() for p in folder.rglob("*") if p.is_file()}


class PackageTest(unittest.TestCase):
    def setUp(self):
        self.folder = Path(tempfile.mkdtemp(prefix="jaunecharge-package-"))
        self.addCleanup(shutil.rmtree, self.folder)

    def out(self, database, name="a", **more):
        target = self.folder / name
        shutil.rmtree(target, ignore_errors=True)
        export_package(database, target, **more)
        return target


class RoundTrip(PackageTest):
    @classmethod
    def setUpClass(cls):
        cls.bench = cls.enterClassContext(fresh_database(with_demo=True))

    def test_the_demonstration_comes_back_equal_and_twice_changes_nothing(self):
        first = self.out(self.bench, "first")
        with fresh_database() as other:
            done = import_package(other, first)
            self.assertGreater(done.new["runs"], 15)
            self.assertEqual((done.equal, done.conflicts), ({}, []))
            self.assertEqual(contents(self.out(other, "second")), contents(first))
            again = import_package(other, first)
            self.assertEqual((again.new, again.conflicts), ({}, []))
            with other.session() as session:
                shown = {f.id: f.draft_json for f in list_findings(session)}
        with self.bench.session() as session:
            self.assertEqual(shown, {f.id: f.draft_json for f in list_findings(session)})

    def test_a_zip_holds_the_same_and_has_the_same_bytes_each_time(self):
        for name in ("one.zip", "two.zip"):
            export_package(self.bench, self.folder / name)
        self.assertEqual((self.folder / "one.zip").read_bytes(), (self.folder / "two.zip").read_bytes())
        with zipfile.ZipFile(self.folder / "one.zip") as archive:
            held = {n: archive.read(n) for n in archive.namelist()}
        self.assertEqual(held, contents(self.out(self.bench)))

    def test_one_finding_takes_all_that_it_rests_on_and_nothing_else(self):
        with self.bench.session() as session:
            found = list_findings(session)[-1]
        package = self.out(self.bench, finding=found.id)
        runs = [json.loads(line) for line in (package / "runs.jsonl").read_text().splitlines()]
        self.assertEqual({r["factors"]["charger"] for r in runs}, {"Serac dock 15"})
        with fresh_database() as other:
            import_package(other, package)
            with other.session() as session:
                (there,) = list_findings(session)
                self.assertEqual(there.draft_json, found.draft_json)

    def test_it_is_a_valid_data_package_and_parquet_equals_csv(self):
        with self.bench.session() as session:
            found = list_findings(session)[-1]
        package = self.out(self.bench, finding=found.id)
        checked = validate(str(package / "datapackage.json"))
        errors = [(t.name, e.message) for t in checked.tasks for e in t.errors][:3]
        self.assertTrue(checked.valid, errors)
        described = json.loads((package / "datapackage.json").read_text())
        units = {
            f["name"]: f.get("unit")
            for r in described["resources"]
            if r["name"] == "samples"
            for f in r["schema"]["fields"]
        }
        self.assertEqual(units, {"run_id": None, "t_s": "s", "watts": "W", "volts": "V", "amps": "A"})
        csv = pyarrow.csv.read_csv(package / "samples.csv")
        parquet = pyarrow.parquet.read_table(package / "samples.parquet")
        self.assertEqual(parquet.to_pylist(), csv.to_pylist())
        by_duck = duckdb.sql(f"SELECT * FROM '{package}/samples.parquet' ORDER BY run_id, t_s").fetchall()
        self.assertEqual(by_duck, [tuple(r.values()) for r in csv.to_pylist()])


class Merged(PackageTest):
    def filled(self, label="Disc", watts=15.0):
        database = self.enterContext(fresh_database())
        with database.session() as session:
            add_all(session, [kit_from_line(f"charger {label} mpp claims {watts:g}W")], "Ana")
        return database

    def test_two_benches_merge_and_what_both_changed_is_told_and_left(self):
        here, there = self.filled("Disc"), self.filled("Pad")
        done = import_package(here, self.out(there))
        self.assertEqual((done.new["kit"], done.left), (1, False))
        package = self.out(here)
        import_package(there, package)
        with there.session() as session:
            session.execute(
                text(
                    "UPDATE kit SET facts = jsonb_set(facts, '{note}', '\"theirs\"'), revision = 2 WHERE label = 'Disc'"
                )
            )
        with here.session() as session:
            session.execute(
                text("UPDATE kit SET facts = jsonb_set(facts, '{note}', '\"mine\"'), revision = 2 WHERE label = 'Disc'")
            )
        changed = self.out(there)
        for take, note in (("", "mine"), ("mine", "mine"), ("theirs", "theirs")):
            done = import_package(here, changed, take)
            self.assertEqual(
                [(c.table, c.label, c.differs) for c in done.conflicts],
                [("kit", "Disc", ("facts",))] if not take else [],
            )
            with here.session() as session:
                self.assertEqual({p.label: p.facts.get("note") for p in shelf(session)}["Disc"], note)
        self.assertEqual(import_package(here, changed).conflicts, [])

    def test_kit_of_one_name_and_other_facts_is_a_conflict_and_equal_kit_is_none(self):
        self.assertEqual(import_package(self.filled(), self.out(self.filled())).conflicts, [])
        done = import_package(self.filled(), self.out(self.filled(watts=10.0)))
        self.assertEqual([c.table for c in done.conflicts], ["kit"])

    def test_a_corrected_run_is_a_conflict_and_taken_with_its_series(self):
        here = self.enterContext(fresh_database())
        with here.session() as session:
            run_id = add_small_run(session, "Run", 10).id
        package = self.out(here, "before")
        with here.session() as session:
            session.execute(text("UPDATE runs SET label = 'Renamed', revision = 2"))
            session.execute(text("DELETE FROM checkins WHERE t_s > 1000"))
        done = import_package(here, package)
        self.assertEqual([(c.table, set(c.differs)) for c in done.conflicts], [("runs", {"label", "revision"})])
        import_package(here, package, "theirs")
        self.assertEqual(contents(self.out(here, "after")), contents(package))
        with here.session() as session:
            self.assertTrue(session.get(m.Run, run_id).summary.headline)


def add_small_run(session, label, minutes, seed=1, note=""):
    rng = np.random.default_rng(seed)
    at = np.arange(0.0, minutes * 60.0 + 1200.0, 20.0)
    watts = 12.0 + rng.normal(0.0, 0.2, len(at))
    trace = power_trace(at, watts, np.full(len(at), 9.0), watts / 9.0)
    percent = np.minimum(100.0, 10.0 + np.floor(at[::15] / 60.0))
    log = RunLog(trace, make_check_ins(at[::15], percent))
    run = add_run(
        session,
        NewRun(label or "Run", log, Case(capacity_mah=3000.0, nominal_v=3.85), {"phone": "Max", "charger": "Disc"}),
    )
    run.started_at = AT + dt.timedelta(minutes=seed % 10_000)
    if note.strip():
        add_note(session, run.id, note, 60.0, "Ana")
    return run


class RandomBenches(PackageTest):
    """Out, in and out again over random benches."""

    @classmethod
    def setUpClass(cls):
        cls.one, cls.two = (cls.enterClassContext(fresh_database()) for _ in range(2))

    @settings(max_examples=40, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck))
    @given(
        runs=st.lists(st.tuples(st.integers(2, 40), st.integers(0, 2**31), WORDS), max_size=3),
        notes=WORDS, packs=st.integers(0, 2), question=WORDS, by=WORDS,
    )  # fmt: skip
    def test_come_back_equal(self, runs, notes, packs, question, by):
        for database in (self.one, self.two):
            with database.session() as session:
                session.execute(text(f"TRUNCATE {TABLES} CASCADE"))
        with self.one.session() as session:
            add_all(
                session, [kit_from_line("pack Col 10000mAh 3.7V mpp 5V3A"), kit_from_line("phone Max 3000mAh mpp")], by
            )
            ids = [
                add_small_run(session, f"Run {n}", minutes, seed, note or notes).id
                for n, (minutes, seed, note) in enumerate(runs)
            ]
            for n in range(packs):
                test = of_pack("load", pack_of(session, "Col"), seen=LoadSeen(wh=20.0 + n))
                keep(session, "Col", test, AT + dt.timedelta(hours=n), by)
            if question.strip() and question.strip()[0].isalnum():
                add_finding(session, FindingDocument(question=question.replace("<", ""), runs=ids), AT, by)
        first = self.out(self.one, "one")
        import_package(self.two, first)
        self.assertEqual(contents(self.out(self.two, "two")), contents(first))


class Refused(PackageTest):
    @classmethod
    def setUpClass(cls):
        cls.bench = cls.enterClassContext(fresh_database())
        cls.target = cls.enterClassContext(fresh_database())
        with cls.bench.session() as session:
            add_all(session, [kit_from_line("charger Disc mpp claims 15W")], "")
            add_small_run(session, "Run", 20, note="moved it")

    def setUp(self):
        super().setUp()
        self.package = self.out(self.bench)

    def refused(self, why, package=None):
        before = self.counts()
        with self.assertRaises(CannotRead) as raised:
            import_package(self.target, package or self.package)
        self.assertIn(why, str(raised.exception))
        self.assertEqual(self.counts(), before, "nothing half imported")

    def counts(self):
        with self.target.session() as session:
            return [session.scalar(text(f"SELECT count(*) FROM {t}")) for t in ("kit", "runs", "notes", "series")]

    def change(self, path, content):
        """A file changed with its size and hash made to fit, as somebody would who means harm."""
        described = json.loads((self.package / "datapackage.json").read_text())
        content = content if isinstance(content, bytes) else content.encode()
        (self.package / path).write_bytes(content)
        for resource in described["resources"]:
            if resource["path"] == path:
                resource |= {"bytes": len(content), "hash": f"sha256:{hashlib.sha256(content).hexdigest()}"}
        (self.package / "datapackage.json").write_text(json.dumps(described))

    def redescribe(self, change):
        described = json.loads((self.package / "datapackage.json").read_text())
        change(described)
        (self.package / "datapackage.json").write_text(json.dumps(described))

    def row(self, table="runs", **facts):
        raw = json.loads((self.package / f"{table}.jsonl").read_text())
        self.change(f"{table}.jsonl", json.dumps({**raw, **facts}) + "\n")

    def test_a_wrong_hash_a_missing_and_a_damaged_file(self):
        (self.package / "checkins.csv").write_text("run_id,t_s,percent\n")
        self.refused("its SHA-256 differs")
        (self.package / "checkins.csv").unlink()
        self.refused("checkins.csv is missing")

    def test_paths_that_point_outside(self):
        for path in ("../outside.csv", "/etc/passwd", "a/../../b", "C:\\x", "a\\b", ".", "", "a//b", "x\x00y"):
            self.package = self.out(self.bench)
            self.redescribe(lambda d, path=path: d["resources"][0].update(path=path))
            self.refused("points outside it")

    def test_a_link_out_of_the_folder(self):
        (self.package / "kit.jsonl").unlink()
        os.symlink("/etc/hostname", self.package / "kit.jsonl")
        self.refused("kit.jsonl is missing")

    def test_something_else_or_a_later_version(self):
        self.redescribe(lambda d: d["jaunecharge"].update(version=99))
        self.refused("made by a later one")
        self.redescribe(lambda d: d.pop("jaunecharge"))
        self.refused("data package of something else")
        (self.package / "datapackage.json").write_text('{"a": ' * 3000 + "1" + "}" * 3000)
        self.refused("cannot be read as JSON")
        self.refused("it is no data package", self.zip_of(b"no zip"))

    def zip_of(self, content):
        path = self.folder / "x.zip"
        path.write_bytes(content)
        return path

    def test_rows_that_cannot_be(self):
        for facts, why in (
            ({"label": "a\x00b"}, "label"), ({"label": "x" * 5000}, "label"),
            ({"revision": -1}, "revision"),
            ({"samples": 2**70}, "samples"), ({"factors": {"phone": "\ud800"}}, "is refused"),
            ({"started_at": "yesterday"}, "started_at"),
            ({"conditions": {"capacity_mah": 1e300}}, "figure that cannot be"),
            ({"surprise": 1}, "surprise"), ({"conditions": {"capacity_mah": "much"}}, "cannot be read"),
            ({"id": "not one"}, "id"),
        ):  # fmt: skip
            self.package = self.out(self.bench)
            self.row(**facts)
            self.refused(why)

    def test_figures_of_series_that_cannot_be(self):
        samples = (self.package / "samples.csv").read_text().splitlines()
        run = samples[1].partition(",")[0]
        for line, why in (
            (f"{run},1,nan,1,1", "figure of watts"), (f"{run},1,inf,1,1", "figure of watts"),
            (f"{run},1,x,1,1", "samples.csv"),
            (f"{run},1e300,1,1,1", "figure of t_s"), (f"{run},{samples[1].split(',')[1]},1,1,1", "do not fit"),
            (f"{run},1,1", "samples.csv"),
        ):  # fmt: skip
            self.package = self.out(self.bench)
            self.change("samples.csv", "\n".join([*samples, line]) + "\n")
            self.refused(why)
        self.package = self.out(self.bench)
        self.change("samples.csv", "run_id,t_s,watts\n")
        self.refused("other columns")

    def test_rows_that_refer_in_circles_or_to_nothing(self):
        self.change("slots.jsonl", "")
        plan = str(uuid.uuid4())
        self.row("notes", run_id=plan)
        done = import_package(self.target, self.package)
        self.assertNotIn("notes", done.new, "a note of no run is left out")
        with self.target.session() as session:
            session.execute(text(f"TRUNCATE {TABLES} CASCADE"))
            session.execute(text("TRUNCATE series"))

    def test_a_bomb_a_million_files_and_links_in_a_zip(self):
        path = self.folder / "bomb.zip"
        with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("datapackage.json", b" " * 30_000_000)
        self.refused("unpacks to far more than it is", path)
        crowd = self.folder / "crowd.zip"
        with zipfile.ZipFile(crowd, "w") as archive:
            for n in range(20_001):
                archive.writestr(f"f{n}", b"")
        self.assertEqual(entries(crowd), 20_001)
        self.refused("more than 20,000 files", crowd)
        link = self.folder / "link.zip"
        with zipfile.ZipFile(link, "w") as archive:
            info = zipfile.ZipInfo("datapackage.json")
            info.external_attr = 0o120777 << 16
            archive.writestr(info, "/etc/passwd")
        self.refused("is a link", link)

    def test_packages_of_the_versions_before_are_read(self):
        """Version 1 had neither lanes nor findings, version 2 no meter at the socket."""
        for version in (2, 1):
            with self.subTest(version=version), fresh_database() as other:

                def older(described, version=version):
                    described["jaunecharge"]["version"] = version
                    later = {
                        f"{name}{end}" for name, since in SINCE.items() if since > version for end in (".csv", ".jsonl")
                    }
                    described["resources"] = [r for r in described["resources"] if r["path"] not in later]

                self.redescribe(older)
                self.assertEqual(import_package(other, self.package).new["runs"], 1)
                self.assertEqual(contents(self.out(other, "again"))["runs.jsonl"], contents(self.package)["runs.jsonl"])

    def test_a_table_that_its_version_did_not_have_is_refused(self):
        self.redescribe(lambda d: d["jaunecharge"].update(version=1))
        self.refused("is no part of version 1")
