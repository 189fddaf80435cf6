from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium import webdriver

from tests.browser.hand import Hand, browser


@pytest.fixture(scope="session")
def downloads(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return tmp_path_factory.mktemp("downloads")


@pytest.fixture(scope="session")
def driver(tmp_path_factory: pytest.TempPathFactory, downloads: Path) -> Iterator[webdriver.Chrome]:
    made = browser(tmp_path_factory.mktemp("profile"), downloads)
    yield made
    made.quit()


@pytest.fixture
def hand(driver: webdriver.Chrome, served: str) -> Iterator[Hand]:
    """A hand at a fresh page; afterwards the browser must have had nothing to complain of that the test did not expect."""
    hand = Hand(driver, served)
    hand.open("/")
    driver.execute_script("localStorage.clear()")  # settings that another test chose
    hand.complaints()
    yield hand
    assert hand.complaints() == []
