"""The simulated logger over its port: commands, mistakes, and runs that are the same again."""

from __future__ import annotations

import socket
import threading
import time
from collections.abc import Iterator

import numpy as np
import pytest

from open_lemma.files.tables import read_table
from open_lemma.logger.client import Logger, NoLogger, as_csv, connected
from open_lemma.logger.gauge import CONSTITUENTS, Gauge
from open_lemma.logger.serve import IDENTITY, NO_ERROR, LoggerServer


@pytest.fixture
def port() -> Iterator[int]:
    server = LoggerServer(socket.create_server(("127.0.0.1", 0)))
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield int(server.socket.getsockname()[1])
    server.shutdown()
    server.server_close()


@pytest.fixture
def logger(port: int) -> Iterator[Logger]:
    with connected(port) as line:
        yield line


def filled(logger: Logger, points: int) -> None:
    logger.say("CONF:RATE 1000")
    logger.say("INIT")
    deadline = time.monotonic() + 10
    while logger.points() < points and time.monotonic() < deadline:
        time.sleep(0.01)


def test_it_says_who_it_is_in_long_and_short_words(logger: Logger) -> None:
    assert logger.ask("*IDN?") == IDENTITY
    logger.say("CONFigure:INTerval 0.5")
    assert logger.ask("conf:int?") == "0.5"
    logger.say("CONFIGURE:SEED 12")
    assert logger.ask("CONFigure:SEED?") == "12"
    assert logger.ask("SYSTem:ERRor?") == NO_ERROR
    logger.say("*RST")
    assert logger.ask("CONF:SEED?") == "7"


@pytest.mark.parametrize(
    ("command", "mistake"), [("CONF:RATE fast", "-104"), ("CONF:INT -1", "-104"), ("NOTHING:HERE", "-113"), ("CONF:RATE 1E9", "-104")]
)
def test_mistakes_are_kept_and_told(logger: Logger, command: str, mistake: str) -> None:
    logger.say(command)
    assert logger.ask("SYST:ERR?").startswith(mistake)
    assert logger.ask("SYST:ERR?") == NO_ERROR


def test_a_run_is_the_same_again_with_the_same_seed(logger: Logger) -> None:
    runs = []
    for seed in (3, 3, 4):
        logger.say(f"CONF:SEED {seed}")
        filled(logger, 300)
        runs.append(logger.readings(0, 300))
    assert len(runs[0]) == 300
    assert runs[0] == runs[1] == [Gauge(3).reading(k) for k in range(300)]
    assert runs[0] != runs[2]
    logger.say("ABOR")
    points = logger.points()
    time.sleep(0.03)
    assert logger.points() == points


def test_the_readings_are_the_tide_with_noise() -> None:
    gauge = Gauge(1)
    pairs = [(t, v) for t, v in map(gauge.reading, range(2_000)) if v is not None]
    assert 5 <= 2_000 - len(pairs) <= 30
    t, level = np.array(pairs).T
    tide = 1.9 + sum(a * np.cos(2 * np.pi * t / period + phase) for a, period, phase in CONSTITUENTS)
    assert abs(np.median(level - tide)) < 0.002
    assert 0.008 < 1.4826 * np.median(np.abs(level - tide)) < 0.016


def test_a_captured_run_is_a_table() -> None:
    readings = [Gauge().reading(k) for k in range(400)]
    found = read_table(as_csv(IDENTITY, 7, 0.25, readings), "gauge.csv")
    t, level = found.columns
    assert (t.recipe.unit, level.recipe.unit) == ("h", "m")
    assert [None if v != v else v for v in level.numbers.tolist()] == [v for _, v in readings]


def test_where_nothing_answers_there_is_a_sentence() -> None:
    with socket.create_server(("127.0.0.1", 0)) as taken:
        free = taken.getsockname()[1]
    with pytest.raises(NoLogger, match="no logger on port"), connected(free):
        pass
