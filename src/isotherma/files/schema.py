"""The JSON Schema of the project file, made from the documents themselves."""

from __future__ import annotations

from typing import Any

from isotherma.core.project import FORMAT, FORMAT_VERSION, Project


def project_schema() -> dict[str, Any]:
    """Give the schema of a project file.

    Returns
    -------
    dict
        JSON Schema, draft 2020-12, with format and version as constants. [-]
    """
    schema = Project.model_json_schema()
    head = {
        "format": {"const": FORMAT, "type": "string"},
        "format_version": {"const": FORMAT_VERSION, "type": "integer"},
    }
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **schema,
        "title": "Isotherma project file",
        "properties": {**head, **schema["properties"]},
        "required": ["format", "format_version", *schema["required"]],
    }
