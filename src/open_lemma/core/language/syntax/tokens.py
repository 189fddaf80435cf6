"""Text → tokens, with line ends, indents and dedents where blocks begin and end.

Nothing is refused by the pattern itself: characters that mean nothing become BAD tokens, so that the parser,
which knows what it was reading, can say what was meant.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from enum import Enum

from ..messages import Message, Messages, advise, replace


class Kind(Enum):
    NUMBER = "number"
    NAME = "name"
    TEXT = "text"
    PRIME = "prime"
    SUPERSCRIPT = "superscript"
    SIGN = "sign"
    BAD = "bad"
    NEWLINE = "end of line"
    INDENT = "indent"
    DEDENT = "end of block"
    END = "end of script"


@dataclass(slots=True)
class Token:
    kind: Kind
    text: str
    start: int
    end: int
    glued: bool = False  # nothing stands between this token and the one before it
    carries_on: bool = False  # a comma at a line's end that goes on in the next line

    def is_sign(self, *signs: str) -> bool:
        return self.kind is Kind.SIGN and self.text in signs

    def is_word(self, *words: str) -> bool:
        return self.kind is Kind.NAME and self.text in words


_SUPERSCRIPTS = "⁰¹²³⁴⁵⁶⁷⁸⁹"
_PATTERN = re.compile(
    rf"""
    (?P<NEWLINE>(?:[ ]*(?:\#[^\n]*)?\r?\n)+)
  | (?P<SPACE>[ ]+|\#[^\n]*)
  | (?P<NUMBER>\d+(?:\.\d+)?(?:[eE][+-]?\d+)?)
  | (?P<NAME>∞|[^\W\d{_SUPERSCRIPTS}][^\W{_SUPERSCRIPTS}]*)
  | (?P<TEXT>"[^"\n]*")
  | (?P<PRIME>['′″‴]+)
  | (?P<SUPERSCRIPT>[⁻⁺]?[{_SUPERSCRIPTS}]+)
  | (?P<SIGN><=|>=|!=|±|\+/-|[-−+*·×/^<>=≤≥≠√()\[\],.:])
  | (?P<BAD>==|\*\*|&&|\|\||.)
    """,
    re.X | re.S,
)
_DOUBLED = re.compile(r"==|\*\*|\.[*/^](?!\d)")
_OPENS_STATEMENT = re.compile(r"[^\W\d]\w*(\([^()\n]*\))?\s*=(?!=)|(show|if|for|while|define|part|note|figure|check|table)\b(?!\s*[,)\]])")
_RAW_BLOCK = re.compile(r"(note[ ]*|table[ ]+\S+[ ]*):[ ]*(#.*)?$")
_KINDS = {kind.name: kind for kind in Kind}
_PLAIN_SIGNS = {"−": "-", "·": "*", "×": "*", "≤": "<=", "≥": ">=", "≠": "!=", "+/-": "±"}


MAX_TOKENS, MAX_LINES = 80_000, 10_000


MOST_DIGITS = 4_000  # of a number, before and behind its point when its power of ten is written out


def digits_of(number: str) -> int:
    """How many digits a number has when its power of ten is written out: as many as are worked with where it is exact."""
    mantissa, _, power = number.lower().partition("e")
    if len(power) > 12:
        return 10**12
    whole, _, part = mantissa.partition(".")
    shift = int(power or 0)
    return max(len(whole) + shift, 0) + max(len(part) - shift, 0)


class TooLong(Exception):
    """A script of more words and signs, or of more lines, than are read; what it has too many of."""


def tokenize(text: str, messages: Messages) -> list[Token]:
    """All tokens of a script, ending with NEWLINE and END; trouble with brackets and indents goes to `messages`.

    Raises TooLong for more than MAX_TOKENS tokens or MAX_LINES lines that are neither empty nor rows of a table.
    """
    return _Lexer(text, messages).run()


class _Lexer:
    def __init__(self, text: str, messages: Messages) -> None:
        self.text = text
        self.messages = messages
        self.tokens: list[Token] = []
        self.open: list[Token] = []
        self.indents = [0]
        self.lines = 0

    def run(self) -> list[Token]:
        position = self._skip_blank_start()
        size = len(self.text)
        last_end = -1
        while position < size:
            doubled = _DOUBLED.match(self.text, position) if self.text[position] in "=*." else None
            match = _PATTERN.match(self.text, position)
            assert match is not None  # BAD takes any character
            kind, start, end = match.lastgroup or "BAD", match.start(), match.end()
            if doubled and kind in ("SIGN", "BAD"):
                kind, end = "BAD", doubled.end()
            position = end
            if kind == "SPACE":
                continue
            if kind == "NEWLINE":
                position = self._line_end(start, end)
                continue
            word = self.text[start:end]
            token = Token(_KINDS[kind], _PLAIN_SIGNS.get(word, word), start, end, start == last_end)
            last_end = end
            if token.kind is Kind.SIGN:
                self._brackets(token)
            self.tokens.append(token)
            if len(self.tokens) > MAX_TOKENS:
                raise TooLong(f"{MAX_TOKENS} words, numbers and signs")
        self._finish(size)
        return self.tokens

    def _skip_blank_start(self) -> int:
        match = re.match(r"(?:[ ]*(?:#[^\n]*)?\r?\n)*", self.text)
        position = match.end() if match else 0
        self._indent_to(position)
        return position

    def _brackets(self, sign: Token) -> None:
        if sign.text in "([":
            self.open.append(sign)
        elif sign.text in ")]":
            if self.open:
                self.open.pop()
            else:
                sign.kind = Kind.BAD

    def _line_end(self, start: int, end: int) -> int:
        """Handle a line's end; the return value is where reading goes on."""
        if self.open:
            if end < len(self.text) and (self.text[end] == " " or not _OPENS_STATEMENT.match(self.text, end)):
                return end
            self._not_closed(start)
        last = self.tokens[-1] if self.tokens else None
        if last is not None and last.is_sign(","):
            if end < len(self.text) and self._indent_at(end) > self.indents[-1]:
                last.carries_on = True
                return end
            self.messages.add(
                Message(
                    "error", "comma-at-end", last.start, last.end,
                    "a comma at the end of a line carries on to the next, which must be indented further",
                    (replace(last.start, last.end, "", "remove the comma"),),
                    "remove the comma, or indent the next line",
                )
            )  # fmt: skip
            self.tokens.pop()
        self._newline(start, end)
        raw = self._raw_block(start)
        if raw is not None:
            return self._take_raw(end)
        self._indent_to(end)
        return end

    def _not_closed(self, where: int) -> None:
        opened = self.open[-1]
        closing = ")" if opened.text == "(" else "]"
        self.messages.add(
            Message(
                "error", "bracket-not-closed", opened.start, opened.end, "this bracket is not closed",
                (replace(where, where, closing, f"add {closing}"),),
            )
        )  # fmt: skip
        self.open.clear()

    def _newline(self, start: int, end: int) -> None:
        if self.tokens and self.tokens[-1].kind not in (Kind.NEWLINE, Kind.INDENT, Kind.DEDENT):
            self.tokens.append(Token(Kind.NEWLINE, "", start, end))
            self.lines += 1
            if self.lines > MAX_LINES:
                raise TooLong(f"{MAX_LINES} lines with statements")

    def _raw_block(self, newline: int) -> bool | None:
        """True where the line that ends here opens a block of prose or of table rows."""
        line_start = self.text.rfind("\n", 0, newline) + 1
        return True if _RAW_BLOCK.match(self.text[line_start:newline].strip()) else None

    def _take_raw(self, position: int) -> int:
        """Rows and prose are kept as one TEXT token between INDENT and DEDENT: they are not formulas."""
        base = self.indents[-1]
        end = position
        while end < len(self.text):
            stop = self.text.find("\n", end)
            stop = len(self.text) if stop < 0 else stop + 1
            line = self.text[end:stop]
            if line.strip() and self._indent_at(end) <= base:
                break
            end = stop
        if self.text[position:end].strip():
            self.tokens.append(Token(Kind.INDENT, "", position, position))
            self.tokens.append(Token(Kind.TEXT, self.text[position:end], position, end))
            self.tokens.append(Token(Kind.NEWLINE, "", end, end))
            self.tokens.append(Token(Kind.DEDENT, "", end, end))
        self._indent_to(end)
        return end

    def _indent_at(self, position: int) -> int:
        width = 0
        while position + width < len(self.text) and self.text[position + width] == " ":
            width += 1
        return width

    def _indent_to(self, line_start: int) -> None:
        width = self._indent_at(line_start)
        place = line_start + width
        if place >= len(self.text):
            width = 0
        elif self.text[place] == "\t":
            width = self._tabs(line_start, place)
        if width > self.indents[-1]:
            self.indents.append(width)
            self.tokens.append(Token(Kind.INDENT, "", line_start, place))
        while width < self.indents[-1]:
            self.indents.pop()
            self.tokens.append(Token(Kind.DEDENT, "", place, place))
            if width > self.indents[-1]:
                self._lines_up_with_nothing(line_start, place, width)
                break

    def _tabs(self, line_start: int, place: int) -> int:
        after = place
        while after < len(self.text) and self.text[after] in "\t ":
            after += 1
        width = 4 * self.text.count("\t", line_start, after)
        self.messages.add(
            Message(
                "error", "tab", line_start, after, "blocks are indented with spaces, not with tabs",
                (replace(line_start, after, " " * width, "replace the tab with four spaces"),),
            )
        )  # fmt: skip
        return width

    def _lines_up_with_nothing(self, line_start: int, place: int, width: int) -> None:
        wanted = self.indents[-1]
        self.messages.add(
            Message(
                "error", "indent", line_start, place, "no line above lines up with this one's indent",
                (replace(line_start, place, " " * wanted, f"indent by {wanted}, so that it lines up"),),
                "indent it so that it lines up with the block it belongs to",
            )
        )  # fmt: skip
        self.indents.append(width)
        # The dedent stands, so that the rest of the block is read as part of the block above.
        self.tokens.append(Token(Kind.INDENT, "", line_start, place))

    def _finish(self, size: int) -> None:
        if self.open:
            self._not_closed(size)
        last = self.tokens[-1] if self.tokens else None
        if last is not None and last.is_sign(","):
            self.messages.add(
                Message(
                    "error", "comma-at-end", last.start, last.end, "a comma at the end of the script leads nowhere",
                    (replace(last.start, last.end, "", "remove the comma"),),
                )
            )  # fmt: skip
            self.tokens.pop()
        self._newline(size, size)
        while len(self.indents) > 1:
            self.indents.pop()
            self.tokens.append(Token(Kind.DEDENT, "", size, size))
        self.tokens.append(Token(Kind.END, "", size, size))


__all__ = ["Kind", "Token", "advise", "tokenize"]
