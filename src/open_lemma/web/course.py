"""The course of the handbook: its lessons, and which of their tasks a record has done."""

from __future__ import annotations

from apiflask import APIBlueprint

from ..core.run.course import COURSE, done, lesson_of
from ..store import folios as store
from .errors import Refusal
from .schemas import Course, LessonShown, RecordAsked, TasksDone, TaskShown
from .services import services

blueprint = APIBlueprint("course", __name__, url_prefix="/api/course")


@blueprint.get("")
@blueprint.output(Course)
def course() -> Course:
    """All lessons, in their order."""
    return Course(
        lessons=[
            LessonShown(
                id=lesson.id, title=lesson.title, text=list(lesson.text), start=lesson.start, pages=list(lesson.pages),
                tasks=[TaskShown(say=t.say, hint=t.hint) for t in lesson.tasks],
            )
            for lesson in COURSE
        ]
    )  # fmt: skip


@blueprint.post("/<lesson_id>/done")
@blueprint.input(RecordAsked)
@blueprint.output(TasksDone)
def tasks_done(lesson_id: str, json_data: RecordAsked) -> TasksDone:
    """Which tasks of a lesson a record has done."""
    lesson = lesson_of(lesson_id)
    if lesson is None:
        raise Refusal(404, "no-lesson", "there is no such lesson")
    with services().session() as session:
        found = store.record(session, store.local_owner(session), json_data.record_id)
        return TasksDone(done=done(lesson, store.body_of(session, found)))
