"""docs/formats.md and docs/package.schema.json, made from the rows of the data package.

python tools/formats.py [--check]
"""

import json
import sys
from pathlib import Path

from jaunecharge.formats.package.rows import OLDEST, SERIES, SINCE, TABLES, TOLD, VERSION
from jaunecharge.formats.package.schema import json_schema, table_schema

DOCS = Path(__file__).parents[1] / "docs"
HEAD = f"""# What is exchanged

Made by `make types` from `src/jaunecharge/formats/package/rows.py`. The same as JSON Schema, with its version:
[package.schema.json](package.schema.json), and `/api/packages/schema.json` while the application runs. The web API is
described in `/api/openapi.json`, and to read at `/api/reference`.

## Data package

    jaunecharge export --package FOLDER|FILE.zip [--finding ID | --all]
    jaunecharge import FOLDER|FILE.zip [--take theirs|mine]

A folder or a ZIP that follows the Data Package standard, version 2: `datapackage.json` names every file with its
size, SHA-256 and schema, units in the schema (`unit`). This is version {VERSION} of it; older ones, from version
{OLDEST} on, are read as well, newer ones are refused.

- **Tables of facts** are JSON Lines (`NAME.jsonl`), a row a line, keys sorted, in a fixed order: what was stored,
  with its UUIDs and moments (RFC 3339).
- **Tables of figures** are CSV (`NAME.csv`, UTF-8, a dot for the decimals, every digit that is kept); the samples
  also as Parquet. `t_s` counts on the log's own clock.
- **`originals/`** holds the files that runs were read from, and pictures, by their SHA-256.
- **`readings.jsonl`** tells what was worked out. It is not read: figures are worked out again where the package comes
  in, from the same samples, by the same rules.

The same bench gives the same bytes. Coming in, rows keep their UUIDs; a row that is there already, and is the same,
is left. What differs here and there is told and stays as it is here; all else comes in. Bring the package in again
with `--take theirs` or `--take mine` (on the page, with a button) to settle it. A path that leads out of the package,
a wrong hash, a bomb, a reference to nothing, a circle or a figure that is none is refused, and then nothing comes in.

What a person who was signed in might hold (passphrases, keys of lanes, links to findings) is in no package.

## Tables of facts
"""
TAIL = """
## Other files

| file | what it holds | where |
| --- | --- | --- |
| log of a meter, CSV or XLSX | time, watts, volts, amps, counters, temperatures, levels | Runs; `jaunecharge read` |
| a run as JSON | check-ins in minutes after placing, or the files of them, with factors | `jaunecharge versus` |
| kit, CSV or JSON | phones, chargers, adapters, cables, packs, meters, probes, cases | the shelf |
| tests of packs, JSON, CSV, XLSX | one back to the last bit, the others to read | Packs |
| schedule, CSV and iCalendar | slots of a plan | Plan |
| a Parquet data set | all series and readings by month, [for analysts](scale.md) | `jaunecharge export --parquet` |
| a finding as HTML, PDF, XLSX, CSV, text, Markdown, SVG, PNG | to read; XLSX with live formulas | Findings |

No cell that anybody else typed begins a formula: an apostrophe stands before it.
"""


def tables() -> str:
    """Every table with its fields, kinds and units."""
    lines = []
    for name, row in (TABLES | TOLD).items():
        since = f" Since version {SINCE[name]}." if name in SINCE else ""
        about = " ".join((row.__doc__ or "").split())
        lines += [f"\n### {name}\n", f"{about}{since}\n", "| field | kind | unit |", "| --- | --- | --- |"]
        lines += [f"| {f['name']} | {f['type']} | {f.get('unit', '')} |" for f in table_schema(row)["fields"]]
    lines.append("\n## Tables of figures\n")
    for name, columns in SERIES.items():
        cells = ", ".join(f"{column} [{unit}]" if unit else column for column, _, unit in columns)
        since = f" (since version {SINCE[name]})" if name in SINCE else ""
        lines.append(f"- **{name}**{since}: {cells}")
    return "\n".join(lines) + "\n"


def made() -> dict[Path, str]:
    """The files, as they have to be."""
    return {
        DOCS / "formats.md": HEAD + tables() + TAIL,
        DOCS / "package.schema.json": json.dumps(json_schema(), indent=1, ensure_ascii=False, sort_keys=True) + "\n",
    }


if __name__ == "__main__":
    wrong = []
    for path, content in made().items():
        if "--check" not in sys.argv:
            path.write_text(content, encoding="utf-8")
        elif not path.exists() or path.read_text(encoding="utf-8") != content:
            wrong.append(path.name)
    sys.exit(f"run `make types`: {', '.join(wrong)}" if wrong else 0)
