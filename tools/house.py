"""Rules of the whole tree: faces, sizes, circles, one meaning a class name; a line for each that does not."""

import ast
import re
import sys
from collections import defaultdict
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parents[1]
SOURCE, PAGES = ROOT / "src" / "jaunecharge", ROOT / "web" / "src"
QUESTIONS = {"What", "That", "Who", "How"}
MOST_LINES, MOST_MODULES, MOST_IN_CORE = 400, 24, 24
GENERATED = frozenset({"schema.d.ts"})
IMPORTED = re.compile(r"""(?:from|import)\s+(?:type\s+)?['"](\.[^'"]+)['"]""")


def modules() -> dict[str, Path]:
    """Every module of ours, by its dotted name."""
    found = {}
    for path in sorted(SOURCE.rglob("*.py")):
        parts = path.relative_to(SOURCE.parent).with_suffix("").parts
        found[".".join(parts[:-1] if parts[-1] == "__init__" else parts)] = path
    return found


def imports(name: str, path: Path) -> Iterator[tuple[str, tuple[str, ...]]]:
    """The modules of ours that a module takes names from, with the names; those for the type checker alone left out."""
    package = name.split(".") if path.stem == "__init__" else name.split(".")[:-1]
    tree = ast.parse(path.read_text(encoding="utf-8"))
    typed = {
        id(inner)
        for node in ast.walk(tree)
        if isinstance(node, ast.If) and isinstance(node.test, ast.Name) and node.test.id == "TYPE_CHECKING"
        for inner in ast.walk(node)
    }
    for node in ast.walk(tree):
        if isinstance(node, ast.ImportFrom) and id(node) not in typed:
            base = package[: len(package) - node.level + 1] if node.level else []
            source = ".".join([*base, *([node.module] if node.module else [])])
            if source.split(".")[0] == "jaunecharge":
                yield source, tuple(a.name for a in node.names)


def faces(known: dict[str, Path]) -> Iterator[str]:
    """Other layers know a package of the core by the names that its face gives, and by nothing within it."""
    packages = {n for n, p in known.items() if p.stem == "__init__" and n.startswith("jaunecharge.core.")}
    given = {p: _given(known[p]) for p in packages}
    for name, path in known.items():
        if name.startswith("jaunecharge.core"):
            continue
        for source, names in imports(name, path):
            if source.rpartition(".")[0] in packages:
                yield f"{name} reaches into {source}: import from {source.rpartition('.')[0]}"
            elif source in packages and (strange := sorted(set(names) - given[source])):
                yield f"{name} takes {', '.join(strange)} from {source}, whose face does not give it"


def _given(path: Path) -> frozenset[str]:
    tree = ast.parse(path.read_text(encoding="utf-8"))
    lists = [
        n.value
        for n in tree.body
        if isinstance(n, ast.Assign) and isinstance(n.targets[0], ast.Name) and n.targets[0].id == "__all__"
    ]
    return frozenset(ast.literal_eval(lists[0])) if lists else frozenset()


def sizes() -> Iterator[str]:
    """No module over 400 lines, no folder over 24 modules, at most 24 names on the first floor of the core."""
    for path in sorted([*SOURCE.rglob("*.py"), *PAGES.rglob("*.ts"), *PAGES.rglob("*.tsx")]):
        lines = len(path.read_text(encoding="utf-8").splitlines())
        if lines > MOST_LINES and path.name not in GENERATED:
            yield f"{path.relative_to(ROOT)} has {lines} lines: at most {MOST_LINES}"
    for folder in sorted({p.parent for p in SOURCE.rglob("*.py")}):
        count = len([p for p in folder.glob("*.py") if p.stem != "__init__"])
        if count > MOST_MODULES:
            yield f"{folder.relative_to(ROOT)} holds {count} modules: at most {MOST_MODULES}"
    names = {p.stem for p in (SOURCE / "core").iterdir() if not p.name.startswith("__")}
    if len(names) > MOST_IN_CORE:
        yield f"core shows {len(names)} names on its first floor: at most {MOST_IN_CORE}"


def circles(known: dict[str, Path]) -> Iterator[str]:
    """Modules, and files of the front end, that import one another round about."""
    python: dict[str, set[str]] = defaultdict(set)
    for name, path in known.items():
        for source, names in imports(name, path):
            for target in {f"{source}.{n}" if f"{source}.{n}" in known else source for n in names}:
                if target in known and target != name:
                    python[name].add(target)
    yield from (f"a circle of imports: {' → '.join(c)}" for c in _components(python))
    pages: dict[str, set[str]] = defaultdict(set)
    for path in sorted([*PAGES.rglob("*.ts"), *PAGES.rglob("*.tsx")]):
        for target in IMPORTED.findall(path.read_text(encoding="utf-8")):
            stem = (path.parent / target).resolve()
            for end in (".ts", ".tsx"):
                if (file := stem.with_name(stem.name + end)).exists():
                    pages[str(path.relative_to(ROOT))].add(str(file.relative_to(ROOT)))
    yield from (f"a circle of imports: {' → '.join(c)}" for c in _components(pages))


def _components(graph: dict[str, set[str]]) -> list[list[str]]:
    """Groups of more than one that reach one another (Tarjan's algorithm)."""
    sys.setrecursionlimit(10_000)
    number: dict[str, int] = {}
    low: dict[str, int] = {}
    stack: list[str] = []
    found: list[list[str]] = []

    def visit(node: str) -> None:
        number[node] = low[node] = len(number)
        stack.append(node)
        for other in sorted(graph.get(node, ())):
            if other not in number:
                visit(other)
                low[node] = min(low[node], low[other])
            elif other in stack:
                low[node] = min(low[node], number[other])
        if low[node] == number[node]:
            group = stack[stack.index(node) :]
            del stack[-len(group) :]
            if len(group) > 1:
                found.append(group)

    for node in sorted(graph):
        if node not in number:
            visit(node)
    return found


def class_names(known: dict[str, Path]) -> Iterator[str]:
    """Names of classes that mean two things within one layer."""
    where: dict[tuple[str, str], list[str]] = defaultdict(list)
    for name, path in known.items():
        layer = name.split(".")[1] if "." in name else name
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                where[layer, node.name].append(name)
    for (layer, name), places in sorted(where.items()):
        if len(places) > 1:
            yield f"{name} means {len(places)} things in {layer}: {', '.join(places)}"


def docstrings(known: dict[str, Path]) -> Iterator[str]:
    """First lines that begin as a question does: a noun with the field's term, or an imperative, says it better."""
    for path in known.values():
        tree = ast.parse(path.read_text(encoding="utf-8"))
        for node in ast.walk(tree):
            if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef):
                text = ast.get_docstring(node) or ""
                if text.split(" ", 1)[0] in QUESTIONS:
                    yield f"{path.relative_to(ROOT)}: “{text.splitlines()[0]}”"


def main() -> int:
    known = modules()
    wrong = [*faces(known), *sizes(), *circles(known), *class_names(known), *docstrings(known)]
    print("\n".join(wrong) or f"{len(known)} modules: faces, sizes, circles, class names and docstrings are in order")
    return 1 if wrong else 0


if __name__ == "__main__":
    raise SystemExit(main())
