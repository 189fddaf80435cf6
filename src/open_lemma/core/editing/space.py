"""Views of space, and sections."""

from __future__ import annotations

from dataclasses import dataclass

from ..language import tree
from ..language.messages import Edit
from ..language.shapes import coordinates, kind_of_surface
from .actions import Action, action
from .changes import NotInked
from .script import EditedScript, number_text


@action("view")
@dataclass(frozen=True, kw_only=True)
class ViewAction(Action):
    """From where the window in space at the line is seen, in degrees."""

    azimuth: float
    elevation: float

    def edits(self, script: EditedScript) -> list[Edit]:
        azimuth, elevation = (number_text(v, 2000.0) for v in (self.azimuth, self.elevation))
        written = f"view azimuth {azimuth}, elevation {elevation}"
        found: tree.View | None = script.find_word(self.line, tree.View)
        return script.add_to(self.line, written) if found is None else [Edit(found.start, found.end, written)]


@action("section")
@dataclass(frozen=True, kw_only=True)
class SectionAction(Action):
    """A section of a surface by a plane, in the window of the line, or `alone` in a figure of its own below.

    series  the line of the surface; item: which of a list of them
    plane   (a, b, c, d): ax + by + cz = d, with the span of d
    """

    series: int
    plane: tuple[float, float, float, float]
    span: float
    item: int | None = None
    alone: bool = False

    def edits(self, script: EditedScript) -> list[Edit]:
        request = script.dressed(self.series)
        if not isinstance(request, tree.Request) or request.noun != "surface" or request.against is not None:
            raise NotInked("only a surface of a formula is cut; give what goes through the points a name first")
        subject = request.subjects[0]
        if isinstance(subject, tree.ListOf):
            subject = subject.items[self.item or 0]
        named = coordinates([w.name for w in request.windows] or script.free_names(subject), kind_of_surface(subject))
        *factors, d = self.plane
        parts = [(v, n) for v, n in zip(factors, named, strict=True) if v]
        terms = [n if abs(v) == 1 else f"{number_text(abs(v), 1.0)}{n}" for v, n in parts]
        left = "".join(f"{' - ' if v < 0 else ' + '}{t}" for (v, _), t in zip(parts, terms, strict=True))
        left = left[3:] if left.startswith(" + ") else f"-{left[3:]}"
        said = script.written(subject)
        if request.windows:
            said += " for " + ", ".join(script.written(w) for w in request.windows)
        written = f"section of {said}, at {left} = {number_text(d, self.span / 100)}"
        if not self.alone:
            return script.add_to(self.line, written)
        at = script.block_end(self.line)
        return [Edit(at, at, f"\n{written}")]
