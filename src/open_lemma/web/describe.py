"""Print the OpenAPI description: `python -m open_lemma.web.describe > docs/openapi.json`; the page's types are made from it."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from ..engine.local import LocalEngine
from ..store.database import Database
from .app import create_app


def description() -> str:
    """The description as text, the same each time; nothing is started and no database is asked."""
    app = create_app(Database("mysql+pymysql://nobody@127.0.0.1/none"), LocalEngine(Path("unused")), "unused", Path("unused"))
    return json.dumps(app.spec, indent=1, sort_keys=True) + "\n"


if __name__ == "__main__":
    sys.stdout.write(description())
