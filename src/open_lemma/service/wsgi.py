"""What gunicorn loads: the application with its database, its engine and, at the first start, the demo."""

from __future__ import annotations

import logging
import os
from pathlib import Path

from apiflask import APIFlask

from ..engine.local import LocalEngine
from ..store.database import Database
from ..web.app import create_app
from ..web.guard import kept_secret
from ..web.services import Services
from .demo import load_demo
from .settings import Settings


def application() -> APIFlask:
    settings = Settings.from_environment()
    if path := os.environ.get("OPEN_LEMMA_LOG"):
        kept = logging.FileHandler(path, encoding="utf-8")
        kept.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
        logging.getLogger("open_lemma").addHandler(kept)
    database = Database(os.environ["DATABASE_URL"])
    engine = LocalEngine()
    engine.start()
    app = create_app(database, engine, kept_secret(Path(settings.data) / "secret"), hosts=list(settings.hosts))
    if os.environ.get("OPEN_LEMMA_DEMO", "yes") != "no":
        load_demo(Services(database, engine))
    return app
