"""The course: each lesson can be done as it is told, and nothing is ticked before it was."""

from __future__ import annotations

from typing import Any

import pytest

from open_lemma.core.figure.draw import draw
from open_lemma.core.run.course import COURSE, Expected, Lesson, Task, done, lesson_of
from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.handbook import pages
from open_lemma.core.run.record import figure_record


def record_of(script: str) -> dict[str, Any]:
    outcome = run(script)
    assert not [m.text for m in outcome.reading.messages.in_order() if m.severity == "error"], script
    return {"findings": [f.as_record() for f in outcome.findings], "figures": [figure_record(f, draw(f.data), {}) for f in outcome.figures]}


@pytest.mark.parametrize("lesson", COURSE, ids=lambda lesson: lesson.id)
def test_the_solution_does_all_tasks_and_the_start_none(lesson: Lesson) -> None:
    assert all(done(lesson, record_of(lesson.solution)))
    assert not any(done(lesson, record_of(lesson.start)))


def test_twelve_lessons_in_the_order_of_the_work() -> None:
    assert [lesson.id for lesson in COURSE] == [
        "figure", "dress", "two-curves", "roots", "turning-points", "data", "fit", "interpolation", "areas", "loops", "surfaces", "report",
    ]  # fmt: skip
    assert all(2 <= len(lesson.tasks) <= 4 and all(t.hint for t in lesson.tasks) for lesson in COURSE)
    known = {p.id for p in pages()}
    assert all(page in known for lesson in COURSE for page in lesson.pages)


def test_tasks_look_at_what_was_found_and_not_at_the_text() -> None:
    lesson = lesson_of("roots")
    assert lesson is not None
    other = "p(t) = t*(t^2 - 3) + 1\nroots of p(t) for t from -2 to 2"
    assert done(lesson, record_of(other)) == [True, False, False]
    assert done(lesson, record_of("# roots of f(x) for x from -3 to 3\nshow 1")) == [False, False, False]


def test_a_wrong_number_is_not_enough() -> None:
    task = Lesson("x", "x", (), "", (Task("", "", Expected(noun="show", values=(2.0,))),), "")
    assert done(task, record_of("show 2.00001")) == [True]
    assert done(task, record_of("show 2.1")) == [False]
