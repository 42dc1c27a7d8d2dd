"""Answers of the commands for the cases of tests/data, one JSON file a question: to be held against those of before.

A change that is to change no figure is checked with it, the tree of before being a worktree of its own:

    .venv/bin/python tools/answers.py /tmp/after
    PYTHONPATH=/tmp/tree-before/src .venv/bin/python tools/answers.py /tmp/before && diff -r /tmp/before /tmp/after
"""

import itertools
import json
import sys
import tempfile
from pathlib import Path

from typer.testing import CliRunner

from jaunecharge.cli.app import COMMANDS, app, load

DATA = Path(__file__).parents[1] / "tests" / "data"
ADAPTERS = ("5V3A", "5V3A,9V2.22A", "20W", "30W", "5V3A,9V3A,PPS 3.3-11V3A")
STANDARDS = ("bpp", "epp", "mpp", "mpp25", "Qi2", "Qi=15W", "own:quick=50")
REHEARSED = {
    "plain": ["--seed", "3"],
    "warm": ["--ambient-c", "31", "--seed", "5", "--phone-limit-w", "15"],
    "weak": ["--adapter", "5V2A", "--charger", "bpp", "--seed", "7"],
}
PHONES = {"A": {"drain_min": 150, "cool_min": 30}, "B": {"drain_min": 120, "cool_min": 20}}


def asked(folder: Path):
    """Every question: its name, and the arguments of the command."""
    for log in sorted((DATA / "logs").iterdir()):
        files = {part: next(log.glob(f"{part}.*"), None) for part in ("meter", "battery", "heat", "case")}
        whole = [a for part, file in files.items() if file for a in (f"--{part}", str(file))]
        yield f"read {log.name}", ["read", *whole, "--json"]
        yield f"read {log.name}, meter alone", ["read", "--meter", str(files["meter"]), "--json"]
        yield f"read {log.name} in words", ["read", *whole]
    for adapter, charger, phone in itertools.product(ADAPTERS, STANDARDS, STANDARDS):
        name = f"chain {adapter} {charger} {phone}".replace("/", "")
        yield name, ["chain", "--adapter", adapter, "--charger", charger, "--phone", phone, "--json"]
    runs = [r for r in json.loads((DATA / "practice.json").read_text())["runs"] if "checkins" in r]
    for n, run in enumerate(runs):
        factors = {"phone": "one phone", "charger": run["id"], "adapter": "20 W", "ambient_c": 24}
        document = {"label": run["id"], "factors": factors, "checkins": run["checkins"], "interval_min": 15}
        document |= {"capacity_mah": run.get("capacity_mah", 4441), "nominal_v": 3.87}
        (folder / f"{n}.json").write_text(json.dumps(document))
    files = [str(folder / f"{n}.json") for n in range(len(runs))]
    for a, b in itertools.combinations(files, 2):
        yield f"versus {Path(a).stem} {Path(b).stem}", ["versus", a, b, "--json"]
    yield "versus all", ["versus", *files, "--json"]
    yield "versus all in words", ["versus", *files]
    for file in files:
        carry = ["carry", "--measured", file, "--from-mah", "4441", "--to-mah", "5000", "--json"]
        yield f"carry {Path(file).stem}", carry
    chosen = [
        {"id": f"r{n}", "phone": "AB"[n % 2], "charger": f"c{n % 3}", "adapter": f"a{n % 2}", "minutes": 120 + 10 * n,
         "attended": True}
        for n in range(5)
    ]  # fmt: skip
    plan = {"start": "2027-03-01T08:00", "zone": "Europe/Zurich", "attended": [["08:00", "22:00"]], "meters": 2}
    (folder / "plan.json").write_text(json.dumps(plan | {"phones": PHONES, "runs": chosen}))
    yield "schedule", ["schedule", str(folder / "plan.json"), "--seconds", "20", "--json"]
    for name, options in REHEARSED.items():
        out = folder / name
        yield f"rehearse {name}", ["rehearse", *options, "-o", str(out)]
        made = [a for part in ("meter", "battery", "heat") for a in (f"--{part}", str(out / f"{part}.csv"))]
        yield f"read rehearsed {name}", ["read", *made, "--case", str(out / "case.json"), "--json"]


def main(out: Path) -> None:
    """Ask everything, and write each answer down."""
    out.mkdir(parents=True, exist_ok=True)
    for name in COMMANDS:
        load(name)
    runner = CliRunner()
    with tempfile.TemporaryDirectory() as name:
        for question, arguments in asked(Path(name)):
            answer = runner.invoke(app, arguments)
            text = answer.output.replace(name, "FOLDER")
            if arguments[-1] == "--json" and answer.exit_code == 0:
                text = json.dumps(json.loads(text), indent=1, ensure_ascii=False)
            (out / f"{question}.txt").write_text(f"exit {answer.exit_code}\n{text}\n")
    print(f"{len(list(out.iterdir()))} answers in {out}")


if __name__ == "__main__":
    main(Path(sys.argv[1]))
