"""Write the JSON Schema of the document from its model."""

from __future__ import annotations

import json

from anakinema.document.model import VERSION, Document
from anakinema.resources import schema_path


def schema_text() -> str:
    """The schema as it is shipped."""
    schema = Document.model_json_schema()
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = f"Anakinema mechanism, version {VERSION}"
    schema["required"] = sorted({*schema.get("required", []), "format", "version"})
    return json.dumps(schema, indent=1, ensure_ascii=False, sort_keys=True) + "\n"


if __name__ == "__main__":
    schema_path().parent.mkdir(exist_ok=True)
    schema_path().write_text(schema_text(), "utf-8")
