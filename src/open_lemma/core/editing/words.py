"""Legends, headings, and the words of a window or a figure."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from ..language import tree
from ..language.messages import Edit
from ..language.vocabulary import STATEMENTS
from .actions import Action, action
from .changes import NotInked
from .script import EditedScript, find_option, merged, number_text, quoted


@action("legend")
@dataclass(frozen=True, kw_only=True)
class LegendAction(Action):
    """A legend: words ("top left", "outside right", "" for by itself), or at (shares of the window), or none; options by name."""

    words: str | None = None
    at: list[float] | None = None
    none: bool = False
    options: dict[str, str | None] | None = None

    def edits(self, script: EditedScript) -> list[Edit]:
        found: tree.Legend | None = script.find_word(self.line, tree.Legend)
        gone: tree.Without | None = script.find_word(self.line, tree.Without, lambda s: s.what == "legend")
        if self.none:
            if gone is not None:
                return []
            return [Edit(found.start, found.end, "no legend")] if found is not None else script.add_to(self.line, "no legend")
        known = {option.name for option in STATEMENTS["legend"].options}
        options = {n: v for n, v in (self.options or {}).items() if n in known}
        place = None
        if self.at is not None:
            place = f" at ({', '.join(number_text(v, 1.0) for v in self.at)})"
        elif self.words is not None:
            place = f" {self.words}".rstrip()
        if found is None:
            said = "".join(f", {n} {v}" for n, v in options.items() if v is not None)
            written = f"legend{place or ''}{said}"
            return [Edit(gone.start, gone.end, written)] if gone is not None else script.add_to(self.line, written)
        edits = []
        if place is not None:
            end = script.text.rfind(",", 0, found.options[0].start) if found.options else found.end
            edits.append(Edit(found.start + len("legend"), end, place))
        edits += [script.with_option(found, n, v) for n, v in options.items() if v is not None or find_option(found, n) is not None]
        return merged(edits)


@dataclass(frozen=True)
class _FigureWord:
    """A word of a figure: its statement, which of these is meant, and how it is written where it says no value."""

    kind: type
    is_it: Callable[[Any], bool] = lambda _: True
    alone: str = ""


_WORDS = {
    "gridlines": _FigureWord(tree.Gridlines),
    "frame": _FigureWord(tree.Without, lambda s: s.what == "frame", "no frame"),
    "true scale": _FigureWord(tree.TrueScale, alone="true scale"),
    "style": _FigureWord(tree.Style),
    "decimal": _FigureWord(tree.Decimal),
    "size": _FigureWord(tree.Size),
}


@action("word")
@dataclass(frozen=True, kw_only=True)
class WordAction(Action):
    """A word of a window or a figure: gridlines, frame, true scale, style, decimal, size; value: what it says, None for as usual."""

    word: str
    value: str | bool | None = None

    def edits(self, script: EditedScript) -> list[Edit]:
        known = _WORDS.get(self.word)
        if known is None:
            raise NotInked(f"'{self.word}' is no word of a figure")
        found = script.find_word(self.line, known.kind, known.is_it)
        written = known.alone or f"{self.word} {self.value}"
        if self.value is None:
            return [script.line_gone(found)] if found is not None else []
        return [Edit(found.start, found.end, written)] if found is not None else script.add_to(self.line, written)


@action("heading")
@dataclass(frozen=True, kw_only=True)
class HeadingAction(Action):
    """A title, a caption, or the title of a panel; an empty text takes it away."""

    which: str
    text: str | None = None

    def edits(self, script: EditedScript) -> list[Edit]:
        if self.which == "panel":
            node, _ = script.window_body(self.line)
            if not isinstance(node, tree.Panel):
                raise NotInked("this is no panel")
            return [Edit(node.start, node.head_end, f"panel {quoted(self.text)}" if self.text else "panel")]
        if self.which not in ("title", "caption"):
            raise NotInked(f"a figure has no '{self.which}'")
        found: tree.Heading | None = script.find_word(self.line, tree.Heading, lambda s: s.which == self.which)
        if not self.text:
            return [script.line_gone(found)] if found is not None else []
        written = f"{self.which} {quoted(self.text)}"
        return [Edit(found.start, found.end, written)] if found is not None else script.add_to(self.line, written)
