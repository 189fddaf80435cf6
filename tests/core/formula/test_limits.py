"""Time limits hold in the main thread, where runs are, and in any other, where the core is used as a library."""

from __future__ import annotations

import signal
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from typing import Any

import pytest

from open_lemma.core.formula.limits import OutOfTime, time_limit
from tests.conftest import until


def in_a_thread(work: Callable[[], Any]) -> Any:
    found: list[Any] = []

    def run() -> None:
        try:
            found.append(work())
        except BaseException as trouble:
            found.append(type(trouble))

    thread = threading.Thread(target=run)
    thread.start()
    thread.join(30)
    assert not thread.is_alive()
    return found[0]


def endless() -> None:
    while True:
        sum(range(100))


def here(work: Callable[[], Any]) -> Any:
    try:
        return work()
    except OutOfTime:
        return OutOfTime


@pytest.fixture(params=[here, in_a_thread])
def done(request: pytest.FixtureRequest) -> Callable[[Callable[[], Any]], Any]:
    """Works something in the main thread, or in another, and gives what came of it."""
    found: Callable[[Callable[[], Any]], Any] = request.param
    return found


Done = Callable[[Callable[[], Any]], Any]


def test_what_never_ends_is_ended(done: Done) -> None:
    def work() -> None:
        with time_limit(0.05):
            endless()

    assert done(work) is OutOfTime


def test_what_ends_in_time_is_left_alone_and_nothing_arrives_later(done: Done) -> None:
    def work() -> str:
        for _ in range(20):
            with time_limit(0.6):
                pass
        until = time.monotonic() + 0.9
        while time.monotonic() < until:
            sum(range(100))
        return "done"

    assert done(work) == "done"


def test_a_limit_around_goes_on_where_the_one_inside_takes_it_for_its_own(done: Done) -> None:
    def work() -> None:
        with time_limit(0.05):
            with suppress(OutOfTime), time_limit(10):
                endless()
            endless()

    assert done(work) is OutOfTime


def test_a_limit_around_goes_on_where_it_comes_while_another_is_set_or_taken_away(done: Done) -> None:
    """Hardly anything else is done here: most of these ends come in the middle of either."""

    def work() -> None:
        with time_limit(0.02):
            while True:
                with suppress(OutOfTime), time_limit(10):
                    pass
                sum(range(200))

    for _ in range(30):
        assert done(work) is OutOfTime


def test_a_limit_inside_ends_only_what_is_inside(done: Done) -> None:
    def work() -> str:
        with time_limit(20):
            try:
                with time_limit(0.05):
                    endless()
            except OutOfTime:
                return "went on"
        return "never"

    assert done(work) == "went on"


def test_a_limit_around_ends_what_takes_the_end_of_one_inside_for_nothing(done: Done) -> None:
    def work() -> None:
        with time_limit(0.1), time_limit(0.02):
            with suppress(OutOfTime):
                endless()
            endless()

    assert done(work) is OutOfTime


def test_who_swallows_the_end_of_a_block_ends_nothing(done: Done) -> None:
    def work() -> None:
        with time_limit(0.02):
            for _ in range(3):
                with suppress(OutOfTime):
                    endless()
            endless()

    assert done(work) is OutOfTime


def test_a_timer_of_somebody_else_goes_on() -> None:
    came: list[int] = []
    before = signal.signal(signal.SIGALRM, lambda *_: came.append(1))
    try:
        signal.setitimer(signal.ITIMER_REAL, 2)
        with time_limit(0.01), suppress(OutOfTime):
            endless()
        assert not came
        until(lambda: came, "the alarm")
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        signal.signal(signal.SIGALRM, before)


def test_algebra_that_takes_long_ends_in_a_thread() -> None:
    from open_lemma.core.run.execute.interpreter import run

    def work() -> list[str]:
        return [f.summary for f in run("roots of x^2 - 2 for x from 0 to 2\nintegral of x^2*exp(x) for x").findings]

    assert len(in_a_thread(work)) == 2
