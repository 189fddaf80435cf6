from __future__ import annotations

import pytest

from .client import Client


@pytest.fixture(scope="module")
def client(served: str) -> Client:
    return Client(served)
