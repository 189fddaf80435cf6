"""Time limits hold in any thread: where the core is used as a library, and not only in a run."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from typing import Any

from open_lemma.core.formula.limits import OutOfTime, time_limit


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


def test_what_never_ends_is_ended_in_a_thread() -> None:
    def work() -> None:
        with time_limit(0.05):
            endless()

    assert in_a_thread(work) is OutOfTime


def test_what_ends_in_time_is_left_alone_and_nothing_arrives_later() -> None:
    def work() -> str:
        for _ in range(20):
            with time_limit(0.6):
                pass
        until = time.monotonic() + 0.9
        while time.monotonic() < until:
            sum(range(100))
        return "done"

    assert in_a_thread(work) == "done"


def test_a_limit_around_goes_on_where_the_one_inside_takes_it_for_its_own() -> None:
    def work() -> None:
        with time_limit(0.05):
            try:
                with time_limit(10):
                    endless()
            except OutOfTime:
                pass
            endless()

    assert in_a_thread(work) is OutOfTime


def test_a_limit_inside_ends_only_what_is_inside() -> None:
    def work() -> str:
        with time_limit(20):
            try:
                with time_limit(0.05):
                    endless()
            except OutOfTime:
                return "went on"
        return "never"

    assert in_a_thread(work) == "went on"


def test_algebra_that_takes_long_ends_in_a_thread() -> None:
    from open_lemma.core.run.execute.interpreter import run

    def work() -> list[str]:
        return [f.summary for f in run("roots of x^2 - 2 for x from 0 to 2\nintegral of x^2*exp(x) for x").findings]

    assert len(in_a_thread(work)) == 2
