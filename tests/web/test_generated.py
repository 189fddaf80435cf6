"""Requests made from the description of the API, by a library that knows how (Schemathesis): no 500, nothing that is not described."""

from __future__ import annotations

from typing import Any

import pytest
import schemathesis
from hypothesis import HealthCheck, given, settings
from hypothesis.errors import Unsatisfiable
from schemathesis import GenerationMode
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import content_type_conformance, response_schema_conformance, status_code_conformance

from tests.conftest import PROJECT
from tests.web.client import Client
from tests.web.test_record_schemas import faults

CHECKS = [not_a_server_error, status_code_conformance, content_type_conformance, response_schema_conformance]
EXAMPLES = 2  # of each kind for each operation; `bench.generated` sends as many as wanted


@pytest.fixture(scope="module")
def headers(served: str) -> dict[str, str]:
    client = Client(served)
    folio = client.folio("show 1", "For whatever comes")
    client.run("figure f:\n    curve of sin(x) for x from 0 to 1", folio)
    client.change("PUT", f"/api/folios/{folio['id']}/tables/a.csv", b"h,q\n1,2\n")
    cookies = "; ".join(f"{c.name}={c.value}" for c in client.jar)
    return {"X-CSRFToken": client.token, "Cookie": cookies}


DESCRIBED = schemathesis.openapi.from_path(str(PROJECT / "docs" / "openapi.json"))
OPERATIONS = [found.ok() for found in DESCRIBED.get_all_operations()]


@pytest.mark.parametrize("mode", [GenerationMode.POSITIVE, GenerationMode.NEGATIVE], ids=["fitting", "unfitting"])
@pytest.mark.parametrize("operation", OPERATIONS, ids=[o.label for o in OPERATIONS])
def test_any_request_is_answered_as_it_is_described(operation: Any, mode: GenerationMode, served: str, headers: dict[str, str]) -> None:
    @settings(max_examples=EXAMPLES, deadline=None, suppress_health_check=list(HealthCheck), database=None)
    @given(case=operation.as_strategy(generation_mode=mode))
    def ask(case: Any) -> None:
        answer = case.call(base_url=served, headers=headers, timeout=60)
        case.validate_response(answer, checks=CHECKS)

    try:
        ask()
    except Unsatisfiable:
        pytest.skip("it takes nothing, so nothing does not fit")


def test_the_events_of_a_run_are_as_they_are_described(served: str, headers: dict[str, str]) -> None:
    client = Client(served)
    folio = client.folio()
    script = "roots of sin(x) for x from 1 to 9\ncurve of sin(x) for x from 0 to 1\nshow 1 +"
    run = client.post(f"/api/folios/{folio['id']}/runs", {"script": script, "version": folio["version"]}).json["run_id"]
    told = list(client.events(run))
    assert {"finding", "figure", "done"} <= {event["event"] for event in told}
    for event in told:
        assert faults(f"{event['event'].capitalize()}Event", event) == []
    case = DESCRIBED["/api/runs/{run_id}/events"]["GET"].Case(path_parameters={"run_id": run})
    case.call_and_validate(base_url=served, headers=headers, timeout=60, checks=CHECKS)
