"""Schema of the data package: of each table as a Table Schema with units, and as JSON Schema."""

from typing import Any

from pydantic import BaseModel

from .rows import SERIES, TABLES, TOLD, VERSION

_TYPES = {"number": "number", "integer": "integer", "boolean": "boolean", "object": "object", "array": "array"}


def table_schema(row: type[BaseModel]) -> dict[str, Any]:
    """Table Schema (Frictionless, version 2) of a table that is kept as JSON."""
    schema = row.model_json_schema()
    definitions = schema.get("$defs", {})
    fields = []
    for name, facts in schema["properties"].items():
        kinds = [facts, *facts.get("anyOf", [])]
        own: dict[str, Any] = next((k for k in kinds if k.get("type") not in (None, "null")), {})
        own = definitions.get(own.get("$ref", "").rpartition("/")[2], own)
        field: dict[str, Any] = {"name": name, "type": _TYPES.get(own.get("type", ""), "string")}
        if own.get("format") == "date-time":
            field["type"], field["format"] = "datetime", "any"
        if not own.get("type"):
            field["type"] = "any"
        unit = next((k["unit"] for k in kinds if "unit" in k), "")
        if unit:
            field["unit"] = unit
        fields.append(field)
    return {"fields": fields}


def series_schema(name: str) -> dict[str, Any]:
    """Table Schema of a table that is kept as CSV."""
    fields: list[dict[str, Any]] = []
    for column, kind, unit in SERIES[name]:
        field: dict[str, Any] = {"name": column, "type": kind}
        if kind == "boolean":
            field |= {"trueValues": ["t"], "falseValues": ["f"]}
        if unit:
            field["unit"] = unit
        fields.append(field)
    return {"fields": fields, "missingValues": [""]}


def json_schema() -> dict[str, Any]:
    """JSON Schema of every table that is kept as JSON, with the version of the package."""
    tables = {name: row.model_json_schema(ref_template="#/$defs/{model}") for name, row in (TABLES | TOLD).items()}
    definitions: dict[str, Any] = {}
    for schema in tables.values():
        definitions |= schema.pop("$defs", {})
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Tables of a Jaunecharge data package",
        "version": VERSION,
        "type": "object",
        "properties": {n: {"type": "array", "items": s} for n, s in tables.items()},
        "$defs": definitions,
    }
