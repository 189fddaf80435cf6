"""Logs as lines of JSON: when, how grave, from where, what; with the ids of the request and of the run. No scripts, no data, no secrets."""

from __future__ import annotations

import json
import logging
import os
import sys
import time
import traceback

FIELDS = ("run", "request", "kind", "reason", "seconds", "waited", "status", "method", "route", "who")


class JsonFormatter(logging.Formatter):
    def __init__(self, process: str) -> None:
        super().__init__()
        self.process = process

    def format(self, record: logging.LogRecord) -> str:
        moment = time.strftime("%Y-%m-%dT%H:%M:%S", time.gmtime(record.created)) + f".{int(record.msecs):03d}Z"
        told: dict[str, object] = {
            "at": moment,
            "level": record.levelname.lower(),
            "process": self.process,
            "from": record.name,
            "text": record.getMessage(),
        }
        told |= {name: getattr(record, name) for name in FIELDS if hasattr(record, name)}
        if record.exc_info:
            # Where it happened and its type; what it says may hold parts of scripts or tables.
            kind, _, steps = record.exc_info
            lines = [f"{f.filename}:{f.lineno} {f.name}" for f in traceback.extract_tb(steps)]
            told["trace"] = [*lines[-12:], "" if kind is None else kind.__name__]
        return json.dumps(told, ensure_ascii=False)


def log_as_json(process: str) -> None:
    """To standard error and, where OPEN_LEMMA_LOG names a file, to that too."""
    root = logging.getLogger()
    root.setLevel(os.environ.get("OPEN_LEMMA_LOG_LEVEL", "WARNING").upper())
    logging.getLogger("open_lemma").setLevel(logging.INFO)
    out = logging.StreamHandler(sys.stderr)
    out.setLevel(os.environ.get("OPEN_LEMMA_LOG_LEVEL", "WARNING").upper())
    handlers: list[logging.Handler] = [out]
    if path := os.environ.get("OPEN_LEMMA_LOG"):
        handlers.append(logging.FileHandler(path, encoding="utf-8"))
    for handler in handlers:
        handler.setFormatter(JsonFormatter(process))
    root.handlers[:] = handlers
