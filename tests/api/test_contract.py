"""That what is generated is current, and that what must hold of the whole tree does."""

import gzip
import json
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import httpx
from fastapi import FastAPI
from fastapi.responses import JSONResponse
from fontTools.ttLib import TTFont

from jaunecharge.api.app import make_app
from jaunecharge.store.database import Database
from tests.cases import DATA
from tests.declared import Declared

ROOT = Path(__file__).parents[2]
FONTS = ROOT / "web" / "node_modules" / "@fontsource-variable" / "sofia-sans" / "files"


class Generated(unittest.TestCase):
    def test_the_committed_openapi_is_that_of_the_application(self):
        made = make_app(Database("postgresql://nobody@127.0.0.1/none"), Path("uploads")).openapi()
        committed = json.loads((ROOT / "openapi.json").read_text())
        self.assertEqual(json.loads(json.dumps(made)), committed, "run `make types`")

    def test_the_front_end_types_are_made_from_it(self):
        made = subprocess.run(
            ["npx", "--no-install", "openapi-typescript", "../openapi.json"],
            cwd=ROOT / "web", capture_output=True, text=True, check=True,
        )  # fmt: skip
        committed = (ROOT / "web/src/api/schema.d.ts").read_text()
        self.assertEqual(made.stdout.strip(), committed.strip(), "run `make types`")

    def test_the_rules_of_the_pages_are_those_of_the_core(self):
        made = subprocess.run([sys.executable, "tools/rules.py"], cwd=ROOT, capture_output=True, text=True, check=True)
        self.assertEqual(made.stdout, (ROOT / "web/src/api/rules.ts").read_text(), "run `make types`")

    def test_the_formats_are_told_as_they_are(self):
        done = subprocess.run([sys.executable, "tools/formats.py", "--check"], cwd=ROOT, capture_output=True, text=True)
        self.assertEqual(done.returncode, 0, done.stderr)

    def test_imports_point_one_way(self):
        done = subprocess.run(
            [Path(sys.executable).with_name("lint-imports")], cwd=ROOT, capture_output=True, text=True
        )
        self.assertEqual(done.returncode, 0, done.stdout)

    def test_the_tree_is_in_order(self):
        done = subprocess.run([sys.executable, "tools/house.py"], cwd=ROOT, capture_output=True, text=True)
        self.assertEqual(done.returncode, 0, done.stdout + done.stderr)

    def test_the_front_end_types_hold(self):
        done = subprocess.run(
            ["npx", "--no-install", "tsc", "--noEmit"], cwd=ROOT / "web", capture_output=True, text=True
        )
        self.assertEqual(done.returncode, 0, done.stdout)


class Loaded(unittest.TestCase):
    """What takes long to load is loaded once it is needed: a command answers at once, a server comes back at once."""

    DEAR = ("scipy", "numba", "ortools", "pandas", "pyarrow", "openpyxl", "alembic")

    def loaded(self, module, *arguments):
        """What is loaded by a module, and by the command with these arguments."""
        program = f"import atexit, sys, {module}\n"
        program += "atexit.register(lambda: print(*{m.partition('.')[0] for m in sys.modules}))\n"
        if arguments:
            program += f"sys.argv = {['jaunecharge', *map(str, arguments)]}\njaunecharge.cli.main()"
        done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=True)
        return set(done.stdout.splitlines()[-1].split())

    def test_by_the_command(self):
        found = self.loaded("jaunecharge.cli")
        self.assertIn("typer", found)
        self.assertEqual(found & {*self.DEAR, "sqlalchemy", "fastapi", "numpy", "pydantic"}, set())

    def test_by_the_help_that_lists_every_command(self):
        found = self.loaded("jaunecharge.cli", "--help")
        self.assertEqual(found & {*self.DEAR, "rich", "sqlalchemy", "fastapi", "numpy", "pydantic"}, set())

    def test_by_the_reading_of_a_run(self):
        log = DATA / "logs" / "heat-cycles"
        with tempfile.TemporaryDirectory() as name:
            for file in ("meter.csv", "heat.csv"):
                (Path(name) / file).write_bytes(gzip.decompress((log / f"{file}.gz").read_bytes()))
            found = self.loaded(
                "jaunecharge.cli", "read", "--meter", Path(name) / "meter.csv", "--heat", Path(name) / "heat.csv",
                "--battery", log / "battery.csv",
            )  # fmt: skip
        self.assertEqual(found & {*self.DEAR, "sqlalchemy", "fastapi"}, {"pyarrow"})

    def test_by_the_application(self):
        found = self.loaded("jaunecharge.api.app")
        self.assertIn("sqlalchemy", found)
        self.assertEqual(found & set(self.DEAR), set())


class Undeclared(unittest.IsolatedAsyncioTestCase):
    """Whoever serves an application in a test is told of what its description does not have."""

    async def test_a_status_and_a_form_that_are_not_declared(self):
        application = FastAPI()

        @application.get("/api/cups/{cup}", response_class=JSONResponse)
        def cup(cup: int) -> JSONResponse:
            return JSONResponse({}, cup, media_type="application/tea" if cup == 200 else None)

        watched = Declared(application, reachable=False, kept={})
        async with httpx.AsyncClient(transport=httpx.ASGITransport(watched), base_url="http://cups") as web:
            for asked in ("200", "418", "x"):
                await web.get(f"/api/cups/{asked}")
        self.assertEqual(
            list(watched.undeclared()),
            [
                "GET /api/cups/200 is answered 200 as application/tea, which is not declared",
                "GET /api/cups/418 is answered 418, which is not declared",
            ],
        )


class Signs(unittest.TestCase):
    def test_every_sign_that_is_shown_is_in_the_shipped_font(self):
        covered = {c for file in FONTS.glob("*-wght-normal.woff2") for c in TTFont(file).getBestCmap()}
        files = [*(ROOT / "web/src").rglob("*.ts*"), *(ROOT / "src/jaunecharge/core").glob("*.py")]
        files += [*(ROOT / "src/jaunecharge/formats").glob("*.py"), *(ROOT / "src/jaunecharge/demo").glob("*.py")]
        missing = {c for f in files for c in f.read_text() if ord(c) > 126 and ord(c) not in covered}
        self.assertEqual(missing, set())
