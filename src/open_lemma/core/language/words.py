"""The words of the language: one table each for reserved words, nouns, statement words and options.

Parser, checker, handbook and the editor's highlighting read these tables; there is no second list.
`available` is False for what the language has but this version cannot do yet: it is parsed, then refused by name.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

RESERVED = frozenset("of for from to in and or not if else when otherwise while define return join show check true false".split())

Shape = Literal["plain", "pair", "equations", "against", "data", "fit"]


@dataclass(frozen=True, slots=True)
class Noun:
    """A request: `NOUN of SUBJECT …`. `shape` says what stands between `of` and `for`."""

    name: str
    shape: Shape
    draws: bool
    available: bool
    help: str
    options: frozenset[str] = frozenset()


def _noun(name: str, shape: Shape, help: str, options: str = "", draws: bool = False, available: bool = False) -> Noun:
    return Noun(name, shape, draws, available, help, frozenset(options.split()))


_LINE = "colour width dash opacity label axis"
_POINTS = "colour marker size opacity label axis errors width dash"

NOUNS: dict[str, Noun] = {
    n.name: n
    for n in (
        _noun("roots", "plain", "every place in a window where a function is zero", "near digits within", available=True),
        _noun("crossings", "pair", "where two curves meet", "near digits", available=True),
        _noun("minima", "plain", "all lowest places of a window", "near digits where"),
        _noun("maxima", "plain", "all highest places of a window", "near digits where"),
        _noun("inflections", "plain", "where a curve turns from bending one way to the other", "near digits"),
        _noun("extremes", "plain", "minima and maxima in order", "near digits"),
        _noun("lowest", "plain", "the one lowest value", "digits"),
        _noun("highest", "plain", "the one highest value", "digits"),
        _noun("integral", "plain", "area under a curve; without a window the antiderivative", "digits"),
        _noun("solution", "equations", "all solutions of equations", "near digits", available=True),
        _noun("derivative", "plain", "the rate of change as a formula", "order at", available=True),
        _noun("limit", "plain", "what a value tends to", "at"),
        _noun("series", "plain", "expansion in powers", "at order"),
        _noun("sum", "plain", "sum of a formula over whole numbers", "digits"),
        _noun("product", "plain", "product of a formula over whole numbers", "digits"),
        _noun("values", "plain", "a table of values", "digits", available=True),
        _noun("interpolation", "against", "a curve through given points", "by ends"),
        _noun("fit", "fit", "a model adjusted to data", "start limit fix errors"),
        _noun("curve", "plain", "a function drawn as a line", _LINE + " detail", draws=True, available=True),
        _noun("points", "data", "data drawn as marks", _POINTS, draws=True, available=True),
        _noun("line", "data", "data joined by straight pieces", _LINE + " marker size", draws=True, available=True),
        _noun("steps", "against", "data drawn as a staircase", _LINE, draws=True, available=True),
        _noun("bars", "against", "data drawn as bars", _LINE, draws=True),
        _noun("band", "pair", "the area between two curves", _LINE, draws=True),
        _noun("tangent", "plain", "the straight line that touches a curve", _LINE + " at", draws=True),
        _noun("surface", "plain", "a function of two variables in space", "colour mesh levels opacity detail label", draws=True),
        _noun("contours", "plain", "level lines in the plane", "colour levels width label fill", draws=True),
        _noun("section", "plain", "where a plane cuts a surface", "at colour width label", draws=True),
        _noun("residuals", "plain", "what a fit leaves over", _POINTS, draws=True),
    )
}

DASHES = ("solid", "dashed", "dotted", "dash-dotted")
MARKERS = ("dot", "ring", "square", "diamond", "triangle", "cross", "plus", "none")
SCALES = ("linear", "logarithmic", "signed-logarithmic")
CORNERS = ("top", "bottom", "left", "right", "outside", "centre")

# Options whose value is one word (or a hyphenated one), with the words they take.
WORD_OPTIONS: dict[str, tuple[str, ...]] = {
    "dash": DASHES,
    "marker": MARKERS,
    "scale": SCALES,
    "axis": ("left", "right"),
    "ends": ("natural", "clamped"),
    "by": ("spline", "segments", "monotone", "polynomial"),
}
PARAMETER_OPTIONS = frozenset({"start", "limit", "fix"})
COLOUR_OPTIONS = frozenset({"colour", "color"})
VALUE_OPTIONS = frozenset(
    "near width size opacity detail levels errors label azimuth elevation digits at mesh within order where fill".split()
)
OPTIONS = frozenset(WORD_OPTIONS) | PARAMETER_OPTIONS | COLOUR_OPTIONS | VALUE_OPTIONS

# What a student may type for one of our words, by plain English; never a word of some other notation.
LIKELY_MEANT = {"thickness": "width", "style": "dash", "symbol": "marker", "title": "label", "name": "label"}

# Words that open a statement when nothing but that statement fits.
STATEMENT_WORDS = frozenset(
    "part note figure panel table tune compare legend gridlines size view no mark text line true x y z right".split()
)

GREEK = dict(
    zip(
        (
            "alpha beta gamma delta epsilon zeta eta theta iota kappa lambda mu nu xi omicron pi rho sigma tau upsilon phi chi psi omega"
        ).split(),
        "αβγδεζηθικλμνξοπρστυφχψω",
        strict=True,
    )
)
GREEK_BY_LETTER = {letter: name for name, letter in GREEK.items()} | {"ς": "sigma", "ϕ": "phi", "ϵ": "epsilon", "ϑ": "theta"}
_CAPITALS = {letter.upper(): name.capitalize() for name, letter in GREEK.items() if not letter.upper().isascii()}
GREEK_BY_LETTER |= {letter: name for letter, name in _CAPITALS.items() if letter not in "ΑΒΕΖΗΙΚΜΝΟΡΤΥΧ"}


def canonical_name(text: str) -> str:
    """One spelling for a name: `α` and `alpha`, `Δ_1` and `Delta_1` are the same name."""
    if text.isascii():
        return text
    if text == "∞":
        return "infinity"
    head, tail = text[0], text[1:]
    if head in GREEK_BY_LETTER and (not tail or not tail[0].isalpha()):
        return GREEK_BY_LETTER[head] + tail
    return text
