"""Requests that are generated from the description of the API, sent to the whole application: no 500, no answer that is not described.

    python -m bench.generated [EXAMPLES]       so many for each operation, about 60 of them

Everything is Schemathesis's own: it makes requests that fit the description and such that do not, and looks at what comes.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
from pathlib import Path

from open_lemma.service.ports import free_port

from .visitors import Visitor, server

CHECKS = "not_a_server_error,status_code_conformance,content_type_conformance,response_schema_conformance"


def main() -> int:
    examples = sys.argv[1] if len(sys.argv) > 1 else "50"
    with tempfile.TemporaryDirectory() as folder:
        port = free_port(range(20_000, 20_900))
        with server(Path(folder), port, OPEN_LEMMA_RUN_SECONDS="2"):
            visitor = Visitor(port)
            visitor.arrive()
            for title in ("One", "Two"):
                visitor.begin(title)
            visitor.run("figure f:\n    curve of sin(x) for x from 0 to 1\nroots of sin(x) for x from 1 to 9")
            visitor.ask("PUT", f"{visitor.at}/tables/a.csv", b"h,q\n1,2\n3,4\n")
            assert visitor.client is not None
            cookies = "; ".join(f"{c.name}={c.value}" for c in visitor.client.jar)
            command = [
                str(Path(sys.executable).with_name("st")), "run", f"http://localhost:{port}/api/openapi.json", "--header",
                f"X-CSRFToken: {visitor.client.token}", "--header", f"Cookie: {cookies}", "--checks", CHECKS, "--max-examples", examples,
                "--workers", "4", "--request-timeout", "60", "--phases", "examples,coverage,fuzzing", "--continue-on-failure", "--no-color",
            ]  # fmt: skip
            return subprocess.run(command, check=False).returncode


if __name__ == "__main__":
    sys.exit(main())
