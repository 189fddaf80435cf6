"""A script's text with the way from offsets to lines and columns."""

from __future__ import annotations

from bisect import bisect_right


class Source:
    """Text of a script; offsets count characters (code points) from 0, lines and columns from 1."""

    def __init__(self, text: str) -> None:
        self.text = text
        self._starts = [0, *(i + 1 for i, c in enumerate(text) if c == "\n")]

    def place(self, offset: int) -> tuple[int, int]:
        """Line and column of an offset; the end of the text is a place too."""
        line = bisect_right(self._starts, offset)
        return line, offset - self._starts[line - 1] + 1

    def line_of(self, offset: int) -> int:
        return self.place(offset)[0]

    def line_start(self, line: int) -> int:
        return self._starts[line - 1]

    def line_end(self, line: int) -> int:
        """Offset just after the last character of a line, its newline not included."""
        return self._starts[line] - 1 if line < len(self._starts) else len(self.text)

    @property
    def line_count(self) -> int:
        return len(self._starts)
