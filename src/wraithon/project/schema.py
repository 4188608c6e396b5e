"""The JSON Schema of the project format, made from the models: `python -m wraithon.project.schema FILE`."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from wraithon.project.files import write_atomic
from wraithon.project.project import Project


def schema_text() -> str:
    """Return the schema as JSON text."""
    schema = Project.model_json_schema()
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = "Wraithon project"
    return json.dumps(schema, indent=1, sort_keys=True) + "\n"


if __name__ == "__main__":
    write_atomic(Path(sys.argv[1]), schema_text().encode())
