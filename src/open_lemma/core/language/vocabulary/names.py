"""Reserved words, words that open statements, and the one spelling of a name."""

from __future__ import annotations

RESERVED = frozenset("of for from to in and or not if else when otherwise while define return join show check true false".split())
CORNERS = ("top", "bottom", "left", "right", "outside", "centre")
STYLES = ("print", "slide", "poster", "grey")

# Words that open a statement when nothing but that statement fits.
STATEMENT_WORDS = frozenset(
    (
        "part note figure panel inset table tune compare legend gridlines size view style title caption decimal shared no mark text line "
        "true x y z right"
    ).split()
)

# What a student may type for one of our words, by plain English; never a word of some other notation.
LIKELY_MEANT = {"thickness": "width", "style": "dash", "symbol": "marker", "title": "label", "name": "label"}

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
