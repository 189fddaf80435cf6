"""What the description of the API says of all operations alike: the refusals that each may answer with, and bodies that are files."""

from __future__ import annotations

from typing import Any

from .record_schemas import refer

_REFUSALS = {
    "400": "the request cannot be read", "404": "there is no such thing", "408": "the request came too slowly",
    "422": "something in the request cannot be used; the message says what", "503": "a part of the server is away or busy for a moment",
    "507": "the disk of the server is full",
}  # fmt: skip
_OF_CHANGES = {
    "403": "the token is missing or too old", "409": "it was changed meanwhile; nothing was overwritten",
    "413": "the body is larger than it may be", "415": "the body must be JSON",
}  # fmt: skip
_FILES = {
    ("/api/folios/{folio_id}/tables/{name}", "put"), ("/api/folios/{folio_id}/tables/preview/{name}", "post"),
    ("/api/figures/origin", "post"),
}  # fmt: skip
_RECIPE = {
    "in": "query", "name": "recipe", "required": False, "schema": {"type": "string"},
    "description": "how the file is to be read, as JSON; without one it is found out",
}  # fmt: skip


def with_refusals(spec: dict[str, Any]) -> dict[str, Any]:
    """The description with all that any operation may answer."""
    for path, operations in spec["paths"].items():
        for method, operation in operations.items():
            if method not in ("get", "post", "put", "patch", "delete"):
                continue
            for status, text in {**_REFUSALS, **(_OF_CHANGES if method != "get" else {})}.items():
                answer = {"description": text, "content": {"application/json": {"schema": refer("HTTPError")}}}
                operation["responses"].setdefault(status, answer)
            if (path, method) in _FILES:
                content = {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}
                operation["requestBody"] = {"required": True, "content": content}
                if "tables" in path:
                    operation["parameters"].append(_RECIPE)
    return spec
