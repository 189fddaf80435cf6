"""One of the processes that answer requests: `python -m open_lemma.service.web FD` serves on a socket that it inherits.

DATABASE_URL and OPEN_LEMMA_ENGINE say where the others are. It holds nothing of its own: any of them can answer any request.
"""

from __future__ import annotations

import logging
import os
import resource
import socket
import sys
from pathlib import Path

import uvicorn

from ..engine.at import engine_at
from ..engine.logs import log_as_json
from ..store.database import Database
from ..web.app import create_app
from ..web.guard import kept_secret
from ..web.keeper import Keeper
from ..web.services import Services
from .front import Front, PatientProtocol
from .settings import Settings

STOP_S = 2
log = logging.getLogger("open_lemma.web")


def more_connections() -> None:
    """As many open connections as the system lets this process have."""
    _, most = resource.getrlimit(resource.RLIMIT_NOFILE)
    resource.setrlimit(resource.RLIMIT_NOFILE, (most, most))


def main() -> None:
    log_as_json("web")
    more_connections()
    settings = Settings.from_environment()
    database, engine = Database(os.environ["DATABASE_URL"]), engine_at(os.environ["OPEN_LEMMA_ENGINE"])
    app = create_app(database, engine, kept_secret(Path(settings.data) / "secret"), hosts=list(settings.hosts), disk=settings.disk())
    keeper = Keeper(Services(database, engine))
    keeper.start()
    config = uvicorn.Config(
        Front(app, engine), http=PatientProtocol, ws="none", lifespan="off", log_config=None, access_log=False, server_header=False,
        timeout_graceful_shutdown=STOP_S, timeout_keep_alive=30, h11_max_incomplete_event_size=32_768,
        proxy_headers=bool(settings.proxy), forwarded_allow_ips=settings.proxy or None,
    )  # fmt: skip
    try:
        uvicorn.Server(config).run([socket.socket(fileno=int(sys.argv[1]))])
    finally:
        keeper.stop()


if __name__ == "__main__":
    main()
