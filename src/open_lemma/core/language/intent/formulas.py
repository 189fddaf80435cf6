"""Formulas within a sentence: read by the reader of the language, with its own mends applied."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cached_property

from .. import tree
from ..builtins import Builtins
from ..checking.kinds import Known, Scope
from ..messages import Edit
from ..shapes import unwrapped
from ..source import Source
from ..syntax.cursor import StopReading
from ..syntax.statements import StatementReader
from ..tree import Expression
from ..vocabulary.names import GREEK, RESERVED, canonical_name
from .lexicon import FILLERS

MOST_MENDS = 8
_SAID_OTHERWISE = (
    (re.compile(r"\barc(sin|cos|tan)\b"), r"a\1"),
    (re.compile(r"\b(sin|cos|tan)\s*\^\s*-1\b"), r"a\1"),
    (re.compile(r"\bsqr(?=\()"), "sqrt"),
    (re.compile(r"\|([^|]+)\|"), r"abs(\1)"),
    (re.compile(r"\blog(?=\()"), "ln"),
    (re.compile(r"\blog\s+(?=\w)"), "ln "),
    (re.compile(r"(?<=[\w)])\s*:\s*(?=[\w(])"), "/"),
    (re.compile(r"÷"), "/"),
    (re.compile(r"\b(?:equals|is equal to|is)\b"), "="),
    (re.compile(r"==+|:="), "="),
    (re.compile(r"[⋅∙•]"), "*"),
    (re.compile(r"\be\^\{([^{}]*)\}"), r"exp(\1)"),
    (re.compile(r"\^\{([^{}]*)\}"), r"^(\1)"),
    (re.compile(r"\\(sin|cos|tan|ln|exp|pi|alpha|beta|theta|omega|sqrt)\b"), r"\1"),
    (re.compile(r"\bdegrees?\b"), "deg"),
    (re.compile(r"(?<![\w.])\.(?=\d)"), "0."),
)  # fmt: skip


IN_WORDS = (
    (re.compile(r"(?<=[\w)])\s+plus\s+(?=[\w(])"), " + "),
    (re.compile(r"(?<=[\w)])\s+minus\s+(?=[\w(])"), " - "),
    (re.compile(r"(?<=\d)\s*(?:degrees?\b|°(?![CF]))"), "deg"),
    (re.compile(r"\b([\w.]+)\s+mod(?:ulo)?\s+([\w.]+)"), r"mod(\1, \2)"),
    (re.compile(r"(?<![\w.])(\d+|[a-z])!(?![=\w])"), r"Gamma(\1 + 1)"),
    (re.compile(r"\b(\d+(?:\.\d+)?)\s?%(?=\s*(?:$|of\b|[-+*/)]))"), r"\1/100"),
    (re.compile(r"\b([xyz])-(?=axis|label|title|range|limit)"), r"\1 "),
    (re.compile(r"(?<=[\w)])\s+times\s+(?=[a-zA-Z(]\w*\b)"), "*"),
    (re.compile(r"(?<=[\w)])\s+divided by\s+(?=\d|[a-z]\b|\()"), "/"),
    (re.compile(r"(?<=[\w)])\s+squared\b"), "^2"),
    (re.compile(r"(?<=[\w)])\s+cubed\b"), "^3"),
    (re.compile(r"(?<=[\w)])\s+to the power (?:of )?(-?\w+)"), r"^\1"),
    (re.compile(r"\b(?:the )?square root of\s+(\w|\d+|\([^()]*\))(?=$|[\s,;)])"), r"sqrt(\1)"),
)  # fmt: skip
# A blank between two factors, as on paper: 1/2 m v^2 is no quotient by 2m.
_FACTORS = re.compile(r"(?<=[\w)])[ \t]+(?=[A-Za-zα-ω(√])")


@dataclass(frozen=True)
class Formula:
    """A formula as it would be written, and its tree."""

    text: str
    tree: Expression
    names: Names

    @cached_property
    def inner(self) -> Expression:
        return unwrapped(self.tree)

    @cached_property
    def free(self) -> tuple[str, ...]:
        """Names without a value, in their order; a function that is called is none."""
        found: list[str] = []
        called = {id(n.function) for n in tree.walk(self.tree) if isinstance(n, tree.Call)}
        for node in tree.walk(self.tree):
            if isinstance(node, tree.Name) and id(node) not in called and node.spelling not in found and self.names.is_free(node.name):
                found.append(node.spelling)
        return tuple(found)

    @property
    def is_equation(self) -> bool:
        return isinstance(self.inner, tree.Comparison) and self.inner.signs == ("=",)

    @property
    def is_condition(self) -> bool:
        return isinstance(self.inner, tree.Comparison | tree.Logical) and not self.is_equation

    @property
    def is_constant(self) -> bool:
        """A number, as far as can be seen."""
        return not self.free and self.kind == "number"

    @property
    def kind(self) -> str:
        """number (or formula), list, point, points, text, table, function, condition, equation"""
        inner = self.inner
        if isinstance(inner, tree.Name):
            known = self.names.find(inner.name)
            if known is not None:
                return {"items": "list", "finding": "number", "any": "number", "broken": "number"}.get(known.kind, known.kind)
        if isinstance(inner, tree.Field) and isinstance(inner.target, tree.Name):
            known = self.names.find(inner.target.name)
            return "list" if known is not None and known.kind == "table" else "number"
        if isinstance(inner, tree.ListOf) and inner.items and all(isinstance(i, tree.PointOf) for i in inner.items):
            return "points"
        if isinstance(inner, tree.ListOf | tree.Comprehension | tree.Range):
            return "list"
        if isinstance(inner, tree.PointOf):
            return "point"
        if isinstance(inner, tree.Text):
            return "text"
        if isinstance(inner, tree.Comparison | tree.Logical):
            return "equation" if self.is_equation else "condition"
        parts = [n for n in tree.walk(self.tree) if isinstance(n, tree.Name | tree.Field)]
        return (
            "list" if any(Formula(n_text(self.text, n), n, self.names).kind == "list" for n in parts if n is not self.inner) else "number"
        )

    def sides(self) -> tuple[str, str]:
        """The two sides of an equation, as written."""
        assert isinstance(self.inner, tree.Comparison)
        left, right = self.inner.operands[0], self.inner.operands[1]
        return self.text[left.start : left.end], self.text[right.start : right.end]


def n_text(text: str, node: tree.Expression) -> str:
    return text[node.start : node.end]


@dataclass(frozen=True)
class Names:
    """What is known of names where the sentence stands."""

    scope: Scope
    builtins: Builtins

    def find(self, name: str) -> Known | None:
        return self.scope.find(canonical_name(name))

    def is_free(self, name: str) -> bool:
        name = canonical_name(name)
        known = self.scope.find(name)
        return known is None and not self.builtins.is_constant(name) and not self.builtins.is_function(name) and name != "gap"

    def looks_like_one(self, word: str) -> bool:
        """Whether a word looks like a name in a formula: a letter, a Greek one, a letter with an index, or one that has a value."""
        plain = canonical_name(word)
        if word in RESERVED:
            return False
        if self.find(word) is not None or self.builtins.is_constant(plain) or plain in GREEK or len(plain) == 1:
            return True
        return bool(re.fullmatch(r"[A-Za-zα-ωΑ-Ω](?:_?\d+|_\w{1,4})", word)) or plain.split("_")[0] in GREEK


def read_formula(text: str, names: Names) -> Formula | None:
    """A formula, an equation, a list or a point; small slips are mended as the language's own messages offer. None where it is none."""
    text = text.strip().rstrip(",.;:?!").strip()
    parts = text.split('"')
    for pattern, plain in _SAID_OTHERWISE:
        parts[::2] = [pattern.sub(plain, part) for part in parts[::2]]
    parts[::2] = [_with_signs(part, names) for part in parts[::2]]
    text = split_names('"'.join(parts), names)
    for _ in range(MOST_MENDS):
        if not text or len(text) > 2_000:
            return None
        reader = StatementReader(Source(text), names.builtins)
        try:
            found = reader.pieces_or_expression()
            ended = reader.at_line_end()
            if not ended:
                reader.stray()
        except StopReading:
            found, ended = None, False
        if found is not None and ended and not reader.messages.has_errors():
            return Formula(text, found, names)
        fix = next((f.edits for m in reader.messages.in_order() for f in m.fixes if f.edits), None)
        if fix is None:
            return None
        mended = applied(text, fix)
        if mended == text:
            return None
        text = mended
    return None


def _with_signs(text: str, names: Names) -> str:
    return _FACTORS.sub(lambda blank: _blank(text, blank, names), text)


def _blank(text: str, blank: re.Match[str], names: Names) -> str:
    """A sign of multiplication for a blank between two factors; a blank where a word stands on one side."""
    before = re.search(r"[^\W\d]\w*$", text[: blank.start()])
    after = re.match(r"[^\W\d]\w*", text[blank.end() :])
    for word in (before, after):
        if word is not None and word.group(0) in RESERVED:
            return " "
    if before is not None and names.builtins.is_function(canonical_name(before.group(0))):
        return " "
    known = names.find(before.group(0)) if before is not None else None
    if known is not None and known.kind in ("function", "table", "list", "items"):
        return " "
    if after is not None and re.match(r"\(", text[blank.end() + after.end() :]) is None and not names.looks_like_one(after.group(0)):
        return " "
    return "*"


def split_names(text: str, names: Names) -> str:
    """`mx + b`, `3xy`: two letters side by side, of which the second is a usual variable, are a product where the pair has no value."""

    def product(match: re.Match[str]) -> str:
        word = match.group(0)
        plain = (
            word not in FILLERS
            and word not in ("at", "it", "by", "my")
            and names.find(word) is None
            and not names.builtins.is_function(word)
            and not names.builtins.is_constant(word)
        )
        return f"{word[0]}*{word[1]}" if plain else word

    return re.sub(r"(?<![A-Za-z_.\"])[a-ce-z][xyt](?![\w(.\"])", product, text) if '"' not in text else text


def applied(text: str, edits: tuple[Edit, ...]) -> str:
    """A text with some edits carried out."""
    for edit in sorted(edits, key=lambda e: -e.start):
        text = text[: edit.start] + edit.text + text[edit.end :]
    return text
