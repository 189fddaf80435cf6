"""The record's classes as schemas of the API's description, from which the page's types are made: nobody writes them down twice."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

from pydantic import TypeAdapter

from ..core.record.events import EVENTS, Event
from ..core.record.messages import EditRecord
from ..core.record.rows import ROWS

_TEMPLATE = "#/components/schemas/{model}"


def refer(name: str) -> dict[str, str]:
    """A reference to one of the schemas."""
    return {"$ref": _TEMPLATE.format(model=name)}


def event_as_sent(kind: type[Event]) -> dict[str, Any]:
    """One event of a stream (WHATWG HTML, section 9.2): its data is a text, which is the event as JSON."""
    data = {"type": "string", "contentMediaType": "application/json", "contentSchema": refer(kind.__name__)}
    properties = {"id": {"type": "string", "pattern": "^[0-9]+$"}, "event": {"type": "string", "enum": [kind.event]}, "data": data}
    return {"type": "object", "required": list(properties), "properties": properties}


def record_schemas() -> dict[str, Any]:
    """JSON schemas of all classes of the record, by their names.

    A field with a default may be missing, and is then its default. A mapping that is spread among the fields is left to the
    description: a schema cannot name what a script names.
    """
    found: dict[str, Any] = {}
    for kind in (*EVENTS, *ROWS, EditRecord):
        schema = TypeAdapter(kind).json_schema(mode="serialization", ref_template=_TEMPLATE)
        found |= schema.pop("$defs", {})
        found[kind.__name__] = schema
    for kind in ROWS:
        _as_written(found[kind.__name__], kind)
    for kind in EVENTS:
        schema = found[kind.__name__]
        schema["properties"] = {"event": {"type": "string", "enum": [kind.event]}, **schema["properties"]}
        schema["required"] = ["event", *schema.get("required", [])]
    found["FindingRecord"]["properties"]["values"]["items"] = {"anyOf": [refer(kind.__name__) for kind in ROWS]}
    found.pop("Row", None)
    for schema in found.values():
        _never_null(schema)
    return {name: _without_titles(schema) for name, schema in found.items()}


def _as_written(schema: dict[str, Any], kind: type[Any]) -> None:
    """Fields under the names that they have in the record, without those that are spread."""
    properties = schema["properties"]
    for field in fields(kind):
        inner = properties.pop(field.name)
        if "spread" in field.metadata:
            schema["description"] = f"{schema.get('description', '')} Further properties: {field.metadata['description']}.".strip()
            schema["required"] = [n for n in schema["required"] if n != field.name]
        else:
            properties[field.metadata.get("name", field.name)] = inner


def _never_null(schema: dict[str, Any]) -> None:
    """What may be missing is missing where it has no value, and never null."""
    for name, inner in schema["properties"].items():
        if name not in schema.get("required", []) and "anyOf" in inner:
            kinds = [k for k in inner["anyOf"] if k != {"type": "null"}]
            inner.update(kinds[0] if len(kinds) == 1 else {"anyOf": kinds})
            if len(kinds) == 1:
                del inner["anyOf"]


def with_record(spec: dict[str, Any]) -> dict[str, Any]:
    """The description with the schemas of the record, each where `x-schema` names it."""
    spec["components"]["schemas"] |= record_schemas()
    found: dict[str, Any] = _referred(spec)
    return found


def _referred(part: Any) -> Any:
    if isinstance(part, dict):
        return refer(part["x-schema"]) if "x-schema" in part else {k: _referred(v) for k, v in part.items()}
    return [_referred(v) for v in part] if isinstance(part, list) else part


def _without_titles(schema: Any) -> Any:
    """Titles only say the names again; a default tells a generator that the field is always there, which it is not."""
    if isinstance(schema, dict):
        return {k: _without_titles(v) for k, v in schema.items() if not (k in ("title", "default") and not isinstance(v, dict))}
    if isinstance(schema, list):
        return [_without_titles(v) for v in schema]
    return schema
