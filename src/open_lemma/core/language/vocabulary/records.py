"""What is known of a word of the language: one record for each noun, option, statement, kind of value and method.

Parser, checker, evaluator, completion, handbook, pen and drawer read these records; there is no second list.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

Shape = Literal["plain", "pair", "surface", "equations", "against", "data", "list", "fit", "result", "one or pair"]
Gives = Literal["finding", "formula", "function", "table", "drawing"]
OptionKind = Literal[
    "choice", "number", "whole", "colour", "text", "truth", "numbers", "numbers or number", "levels", "place", "condition",
    "parameter", "parameter span", "unit",
]  # fmt: skip


def lines(*texts: str) -> str:
    """A text of several lines."""
    return "\n".join(texts)


@dataclass(frozen=True, slots=True)
class Option:
    """`WORD VALUE` after a comma.

    kind      what stands behind the word; `choice` is one of some words
    choices   these words
    low, high the least and greatest number, in `unit`; None where only the request knows
    summary   what it says, for the handbook
    written   how it is written
    example   a script that runs
    asked_as  words by which people ask for it who do not know ours, the surest first
    """

    name: str
    kind: OptionKind
    summary: str
    written: str
    example: str
    choices: tuple[str, ...] = ()
    low: float | None = None
    high: float | None = None
    unit: str = ""
    asked_as: str = ""


@dataclass(frozen=True, slots=True)
class Noun:
    """A request: `NOUN of SUBJECT for VARIABLE from LOW to HIGH, OPTION VALUE`.

    shape          what stands between `of` and `for`
    gives          what a request is worth: a finding, a formula in its variables, a function of which it is the definition,
                   a table, or a drawing, which has no value
    options        those that it takes
    span_question  what is said where the span of its variable is missing; empty where it needs none
    endless        whether its span may have no end
    variables      over how many variables it may go at most; 0: it is asked of a value
    nested         whether the span of its second variable may depend on the first
    one_each       whether a list as a subject means one finding each
    of_lists       whether the word is a function of lists, too
    coloured_by    whether `colour by` a formula or list is understood
    finding_name   what a finding is called that the pen inks; the noun itself where empty
    summary, usage, example, common_words    for the handbook; the example runs, the common words are for its search
    asked_as       words by which people ask for it who do not know ours, the surest first
    plain, rich    a shorter and a longer example beside `example`
    slips          lines that people write for it; what was meant is worked out
    family         the file that its record stands in
    """

    name: str
    shape: Shape
    summary: str
    gives: Gives
    usage: tuple[str, ...]
    example: str
    common_words: str
    options: tuple[Option, ...] = ()
    span_question: str = ""
    endless: bool = False
    variables: int = 1
    nested: bool = False
    one_each: bool = False
    of_lists: bool = False
    coloured_by: bool = False
    finding_name: str = ""
    asked_as: str = ""
    plain: str = ""
    rich: str = ""
    slips: tuple[str, ...] = ()
    family: str = field(default="", kw_only=True)

    @property
    def draws(self) -> bool:
        return self.gives == "drawing"

    def has_option(self, name: str) -> bool:
        return any(option.name == name for option in self.options)

    def option_names(self) -> tuple[str, ...]:
        return tuple(option.name for option in self.options)


@dataclass(frozen=True, slots=True)
class Topic:
    """What the handbook says of a kind of value, a method, a statement or an idea: how it is written, in one line, by an example that
    runs, and in further paragraphs where one line is not enough."""

    name: str
    usage: tuple[str, ...]
    summary: str
    example: str
    common_words: str
    more: tuple[str, ...] = ()
    plain: str = ""
    rich: str = ""
    slips: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Statement(Topic):
    """A statement that is no request, and the options that may follow it; `asked_as`, `plain`, `rich`, `slips` as in Noun."""

    options: tuple[Option, ...] = ()
    asked_as: str = ""
