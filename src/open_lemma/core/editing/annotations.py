"""Texts and marks in a figure."""

from __future__ import annotations

from dataclasses import dataclass

from ..language import tree
from ..language.messages import Edit
from .actions import Action, action
from .changes import NotInked
from .script import EditedScript, number_text, quoted


@action("place")
@dataclass(frozen=True, kw_only=True)
class PlaceAction(Action):
    """A text put elsewhere; `x_span`, `y_span`: the spans of the window that the place was read from."""

    x: float
    y: float
    x_span: float
    y_span: float

    def edits(self, script: EditedScript) -> list[Edit]:
        node = script.dressed(self.line)
        if not isinstance(node, tree.TextAt):
            raise NotInked("only a text can be moved")
        return [Edit(node.at.start, node.at.end, f"({number_text(self.x, self.x_span)}, {number_text(self.y, self.y_span)})")]


@action("text")
@dataclass(frozen=True, kw_only=True)
class TextAction(Action):
    """Other words for a text in the figure; with a place a new text in the window of the line."""

    text: str
    x: float | None = None
    y: float | None = None
    x_span: float = 0.0
    y_span: float = 0.0

    def edits(self, script: EditedScript) -> list[Edit]:
        if self.x is not None and self.y is not None:
            place = f"({number_text(self.x, self.x_span)}, {number_text(self.y, self.y_span)})"
            return script.add_to(self.line, f"text {quoted(self.text)} at {place}")
        node = script.dressed(self.line)
        if not isinstance(node, tree.TextAt):
            raise NotInked("there is no text in this line")
        if not self.text:
            return [script.line_gone(node)]
        return [Edit(node.text.start, node.text.end, quoted(self.text))]


@action("mark")
@dataclass(frozen=True, kw_only=True)
class MarkAction(Action):
    """A mark in the window of the line: of the places that a request found, `finding` being its line, or at a place with its spans."""

    finding: int | None = None
    x: float | None = None
    y: float | None = None
    z: float | None = None
    x_span: float = 0.0
    y_span: float = 0.0
    z_span: float = 0.0

    def edits(self, script: EditedScript) -> list[Edit]:
        if self.x is not None:
            read = ((self.x, self.x_span), (self.y, self.y_span), (self.z, self.z_span))
            return script.add_to(self.line, f"mark ({', '.join(number_text(v, span / 100) for v, span in read if v is not None)})")
        if self.finding is None:
            raise NotInked("what is to be inked is not said in full: 'finding' is missing")
        name, named = script.named_finding(self.finding)
        found = script.find_word(self.line, tree.Marked, lambda s: isinstance(s.finding, tree.Name) and s.finding.name == name)
        if found is not None:
            return named
        if script.line_start_of(self.line) < script.line_start_of(self.finding):
            raise NotInked("the figure stands above the request; move it below")
        return [*named, *script.add_to(self.line, f"mark {name}")]
