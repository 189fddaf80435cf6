"""Walking along the tokens: looking, taking, and refusing at a place."""

from __future__ import annotations

from typing import NoReturn

from ..builtins import Builtins
from ..messages import Fix, Message, Messages, replace
from ..source import Source
from ..vocabulary.names import RESERVED, canonical_name
from .tokens import MOST_DIGITS, Kind, Token, digits_of, tokenize


class StopReading(Exception):
    """Reading of this statement ends; its message is already kept."""


class Cursor:
    def __init__(self, source: Source, builtins: Builtins) -> None:
        self.source = source
        self.text = source.text
        self.builtins = builtins
        self.messages = Messages(source)
        self.tokens = tokenize(self.text, self.messages)
        self.at = 0

    # ------------------------------------------------------------ looking

    @property
    def at(self) -> int:
        """The place among the tokens; `token` is the one that stands there."""
        return self._at

    @at.setter
    def at(self, place: int) -> None:
        self._at = place
        self.token = self.tokens[place]

    def stands(self, *kinds: Kind) -> bool:
        """Whether the token here is of one of these kinds."""
        return self.token.kind in kinds

    @property
    def before(self) -> Token:
        return self.tokens[max(self.at - 1, 0)]

    def ahead(self, count: int = 1) -> Token:
        return self.tokens[min(self.at + count, len(self.tokens) - 1)]

    def at_line_end(self, token: Token | None = None) -> bool:
        return (token or self.token).kind in (Kind.NEWLINE, Kind.END, Kind.DEDENT, Kind.INDENT)

    def slice(self, start: int, end: int) -> str:
        return self.text[start:end]

    # ------------------------------------------------------------ taking

    def take(self) -> Token:
        """The token here; the next one stands here then."""
        token = self.token
        if token.kind is not Kind.END:
            self._at += 1
            self.token = self.tokens[self._at]
        return token

    def take_sign(self, *signs: str) -> Token | None:
        return self.take() if self.token.is_sign(*signs) else None

    def take_word(self, *words: str) -> Token | None:
        return self.take() if self.token.is_word(*words) else None

    def need_sign(self, sign: str, code: str, text: str, *fixes: Fix) -> Token:
        return self.take_sign(sign) or self.refuse(code, text, *fixes)

    def need_word(self, word: str, code: str, text: str, *fixes: Fix) -> Token:
        return self.take_word(word) or self.refuse(code, text, *fixes)

    def need_name(self, text: str = "a name is needed here") -> Token:
        """The name that must stand here. Refuses anything else, and words of the language."""
        token = self.token
        if token.kind is not Kind.NAME:
            self.refuse("name-needed", text)
        if token.text in RESERVED:
            self.reserved(token)
        return self.take()

    def reserved(self, token: Token) -> NoReturn:
        fix = Fix(f"{token.text}_1")
        self.refuse("reserved-word", f"'{token.text}' is a word of the language and cannot be a name", fix, token=token)

    def need_text(self) -> str:
        """The text in quotes that must stand here. Refuses anything else."""
        token = self.token
        if token.kind is not Kind.TEXT:
            if token.text == '"':
                self.open_quote(token)
            self.refuse("text-needed", "a text in quotes is needed here", Fix('"..."'))
        self.take()
        return token.text[1:-1]

    def open_quote(self, token: Token) -> NoReturn:
        """Refuse a quote that is not closed on its line."""
        line_end = self.source.line_end(self.source.line_of(token.start))
        self.refuse(
            "open-quote",
            "this text has no closing quote on its line",
            replace(line_end, line_end, '"', 'add a closing quote "'),
            token=token,
        )

    def need_number(self) -> Token:
        if self.token.kind is not Kind.NUMBER:
            self.refuse("number-needed", "a number is needed here")
        return self.take_number()

    def take_number(self) -> Token:
        """The number that stands here; refused where its digits would be too many to work with."""
        token = self.token
        if len(token.text) > 4 and digits_of(token.text) > MOST_DIGITS:
            self.refuse("number-too-long", f"a number may have up to {MOST_DIGITS} digits, and this one has {digits_of(token.text)}")
        return self.take()

    def need_plain_word(self) -> str:
        """A word such as `solid`; `dash-dotted` is one word too."""
        token = self.token
        if token.kind is not Kind.NAME:
            self.refuse("word-needed", "a word is needed here")
        self.take()
        word = token.text
        while self.token.is_sign("-") and self.token.glued and self.ahead().kind is Kind.NAME and self.ahead().glued:
            self.take()
            word += "-" + self.take().text
        return word

    def name_of(self, token: Token) -> str:
        return canonical_name(token.text)

    # ------------------------------------------------------------ refusing

    def refuse(self, code: str, text: str, *fixes: Fix, token: Token | None = None, advice: str = "") -> NoReturn:
        """Keep an error at the current token (or the one given) and end this statement."""
        place = token or self.token
        self.refuse_span(code, text, place.start, place.end if not self.at_line_end(place) else place.start, *fixes, advice=advice)

    def refuse_span(self, code: str, text: str, start: int, end: int, *fixes: Fix, advice: str = "") -> NoReturn:
        self.complain(code, text, start, end, *fixes, advice=advice)
        raise StopReading

    def complain(self, code: str, text: str, start: int, end: int, *fixes: Fix, advice: str = "") -> None:
        """Keep an error and read on."""
        self.messages.add(Message("error", code, start, end, text, tuple(fixes), advice))
