"""What stands on screens and in documents is said in plain words, and its examples are our own."""

import ast
import re
import unittest
from pathlib import Path

from jaunecharge.demo import hut

ROOT = Path(__file__).parents[2]
PYTHON = sorted((ROOT / "src/jaunecharge").rglob("*.py"))
PAGES = sorted(p for p in (ROOT / "web/src").rglob("*.ts*") if p.name != "schema.d.ts")
PROSE = [ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))]

DIALECT = re.compile(
    r"\b(?:anew|reckon\w*|retired?|lai?[dy] (?:it |this plan )?aside|[Ll]eave as it was|[Bb]reak off|broken off"
    r"|[Ll]eave it(?! on| out)"
    r"|[Pp]ut right|[Tt]ake away|[Pp]roven soonest|sets? the pace|four times in five|is not given|the matrix is empty"
    r"|not to be expected|laid together|a tie for all that matters|fits no class|run it as usual)\b"
)
"""What testers stumbled over."""

FOREIGN = re.compile(r"42 ?% faster|50 ?% in (?:30|half)|an hour sooner|\b4,?441\b|\b3,?349\b", re.IGNORECASE)
"""Claims and capacities that others state: no example of ours."""


def said_by(path):
    """The texts of a module that are not its docstrings."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    documented = {
        node.body[0].value
        for node in ast.walk(tree)
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef)
        and node.body and isinstance(node.body[0], ast.Expr)
    }  # fmt: skip
    lone = {node.value for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and node not in documented | lone:
            yield node.value


def shown_by(path):
    """The lines of a page that are no comment and no name in the code."""
    for line in re.sub(r"/\*.*?\*/", "", path.read_text(encoding="utf-8"), flags=re.DOTALL).splitlines():
        if not re.match(r"\s*(?://|import |export .* from )", line):
            yield from re.findall(
                r"'([^'\n]* [^'\n]*)'|\"([^\"\n]* [^\"\n]*)\"|`([^`\n]* [^`\n]*)`|>([^<>{}\n]* [^<>{}\n]*)<", line
            )
            if re.fullmatch(r"\s+[A-Za-z][\w ,.:;’'-]*", line):
                yield (line,)


class Plain(unittest.TestCase):
    def test_no_dialect_of_our_own(self):
        found = [f"{p.name}: {t}" for p in PYTHON for t in said_by(p) if " " in t and DIALECT.search(t)]
        found += [f"{p.name}: {t}" for p in PAGES for texts in shown_by(p) for t in texts if DIALECT.search(t)]
        self.assertEqual(found, [])

    def test_the_search_finds_what_it_is_for(self):
        self.assertTrue(DIALECT.search("Save and read anew") and DIALECT.search("The plan is laid aside."))
        self.assertTrue(FOREIGN.search("a 4441 mAh phone") and FOREIGN.search("fully charged an hour sooner"))
        self.assertTrue(any("Pick at least one" in t for p in PYTHON for t in said_by(p)))
        self.assertTrue(any("Set up a lane" in t for p in PAGES for texts in shown_by(p) for t in texts))


class OurOwn(unittest.TestCase):
    def test_examples_come_from_the_hut(self):
        found = [
            f"{p.name}: {m[0]}"
            for p in (*PYTHON, *PAGES, *PROSE)
            for m in FOREIGN.finditer(p.read_text(encoding="utf-8"))
        ]
        self.assertEqual(found, [])

    def test_the_huts_phones_have_capacities_of_their_own(self):
        text = Path(hut.__file__).read_text(encoding="utf-8")
        for phone, capacity in (
            ("Ostrel Max", 4620), ("Ostrel Mini", 3180), ("Tarn 9", 4360), ("Quill Lite", 3840), ("Fen 5", 5120),
        ):  # fmt: skip
            self.assertRegex(text, rf"phone {phone} {capacity} ?mAh")


if __name__ == "__main__":
    unittest.main()
