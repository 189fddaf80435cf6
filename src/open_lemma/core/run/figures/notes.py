"""What a figure says of itself: windows that were chosen, places where curves are not joined, what has vanished."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from ...language.messages import Message


@dataclass
class FigureNote:
    """One sentence, for a line of the script."""

    line: int
    text: str


@dataclass
class FigureNotes:
    """What panels know of the figure that they stand in, and where they put what they have to say.

    ids  of all drawn things so far
    """

    line_of: Callable[[int], int]
    text: str
    width_mm: float
    height_mm: float
    notes: list[FigureNote] = field(default_factory=list)
    messages: list[Message] = field(default_factory=list)
    ids: list[str] = field(default_factory=list)

    def new_id(self) -> str:
        self.ids.append(f"s{len(self.ids) + 1}")
        return self.ids[-1]

    def aside(self) -> FigureNotes:
        """The same for a trial, whose notes and messages are not those of the figure."""
        return FigureNotes(self.line_of, self.text, self.width_mm, self.height_mm, ids=self.ids)
