"""The project format in documents made from the models: `python -m wraithon.project.schema FOLDER`."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

from wraithon.project.files import write_atomic
from wraithon.project.project import Project

HEAD = """# The fields of the project format

Every field that says what it is, by the kind of thing that holds it. Made from the models by `make schema`; the
[JSON Schema](project.schema.json) holds all other fields, too. Units are those of the file; a form may show others.

"""


def schema_text() -> str:
    """Return the schema as JSON text."""
    schema = Project.model_json_schema()
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = "Wraithon project"
    return json.dumps(schema, indent=1, sort_keys=True) + "\n"


def fields_text() -> str:
    """Return the fields of all models as a page of tables: default, bounds, unit and what each is."""
    schema = Project.model_json_schema()
    models = {"Project": schema} | schema["$defs"]
    parts = []
    for name in sorted(models):
        rows = [
            _row(key, field) for key, field in models[name].get("properties", {}).items() if "description" in field
        ]
        if rows:
            parts.append(
                "\n".join([f"## {name}", "", "| key | default | from, to | unit | what |", "|---" * 5 + "|", *rows])
            )
    return HEAD + "\n\n".join(parts) + "\n"


def _row(key: str, field: dict[str, Any]) -> str:
    number = next((part for part in field.get("anyOf", ()) if part.get("type") in {"number", "integer"}), field)
    low = number.get("minimum", number.get("exclusiveMinimum"))
    high = number.get("maximum", number.get("exclusiveMaximum"))
    default = "" if isinstance(field.get("default"), dict) else json.dumps(field.get("default"))
    span = "" if low is None or high is None else f"{low:g}, {high:g}"
    return f"| `{key}` | {default} | {span} | {field.get('x-unit', '')} | {field['description']} |"


if __name__ == "__main__":
    folder = Path(sys.argv[1])
    write_atomic(folder / "project.schema.json", schema_text().encode())
    write_atomic(folder / "fields.md", fields_text().encode())
