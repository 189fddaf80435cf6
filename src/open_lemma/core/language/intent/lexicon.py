"""Common words and what they ask for: made from the records of the vocabulary, and a few verbs that stand for no single word.

Only words of mathematics and of everyday work with figures stand here. A word that is not known is taken apart
(`plotpoints` is plot and points), completed (`deriv`) or compared with those that are known (`derivitive`).
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from typing import Literal

from ..nearness import nearest
from ..vocabulary import NOUNS, OPTIONS, STATEMENTS

MeaningKind = Literal["noun", "statement", "option", "verb", "setting", "function"]


@dataclass(frozen=True, slots=True)
class Meaning:
    """What a phrase asks for; `rank` 0 is the surest phrase of its record, `length` how many words the phrase had."""

    kind: MeaningKind
    name: str
    rank: int = 0
    length: int = 1
    said: str = ""


@dataclass(frozen=True, slots=True)
class Answered:
    """What is asked for that is no sentence of a script: where it is done instead."""

    words: str
    answer: str


# Verbs that ask for whatever their object is.
VERBS = {
    "draw": (
        "plot, draw, graph, chart, sketch, diagram, visualise, visualize, render, picture, drawing, plotting, graphing, show graph, "
        "show plot, make a plot, make a graph, display graph, display plot"
    ),
    "find": "find, determine, obtain, get, search, where, when, locate, give, what, which, find out, question, answer, exercise",
    "define": "let, set, assign, const, constant, var, variable, declare, given, define, put, define function, local, parameter, global",
}
ANSWERED = {
    "export": Answered(
        "save, export, download, save as, save figure, save picture, save plot, write file, print to file, to pdf, as pdf, as png, copy",
        "a figure is taken out with Export, above it; the script keeps itself",
    ),
    "run": Answered(
        "run, execute, start, go, compile, refresh, update, redraw, show figure",
        "a script runs by itself when you stop typing, or with Run",
    ),
    "clear": Answered(
        "clear, clean, reset, close, close all, hold, hold on, hold off, wipe, flush, new",
        "nothing is left over from an earlier run, so nothing has to be cleared: each figure is what its block says",
    ),
    "zoom": Answered("zoom, zoom in, zoom out, pan", "drag a window on the figure to zoom; 'x axis from … to …' in its block keeps it"),
    "help": Answered("help, manual, documentation, examples, tutorial, how to, hello, hi", "the handbook is above, with a first course"),
    "leave": Answered("exit, quit, stop, bye, leave, logout, goodbye", "nothing has to be closed: the folio keeps what is in it"),
    "undo": Answered("undo, redo, back", "the editor takes back with Ctrl+Z"),
    "packages": Answered(
        "using, include, package, library, require, from math, import math, use", "nothing has to be loaded: all functions are there"
    ),
    "block end": Answered(
        "end, endfor, end for, endif, end if, endwhile, end while, fi, done, next, begin, end function, pass, wend",
        "a block ends where its indent ends; no word closes it",
    ),
}
# Settings that several statements write, each in its own way.
SETTINGS = {
    "x label": (
        "x label, label x, label x axis, label the x axis, name x axis, x axis label, x title, x axis title, x axis name, x axis called"
    ),
    "y label": (
        "y label, label y, label y axis, label the y axis, name y axis, y axis label, y title, y axis title, y axis name, y axis called"
    ),
    "z label": "z label, label z, label z axis, z axis label, z axis title, z axis name",
    "x range": (
        "x range, x limits, x limit, x lim, x axis range, x axis limits, limits of x axis, "
        "range of x axis, x min, x max, x window, x bounds"
    ),
    "y range": (
        "y range, y limits, y limit, y lim, y axis range, y axis limits, limits of y axis, "
        "range of y axis, y min, y max, y window, y bounds"
    ),
    "x axis": "x axis, horizontal axis",
    "y axis": "y axis, vertical axis",
    "z axis": "z axis",
    "x log": (
        "log x, x log, log scale x, x log scale, logarithmic x, logarithmic x axis, semilog x, x scale "
        "log, log x axis, x axis log, x axis logarithmic"
    ),
    "y log": (
        "log y, y log, log scale y, y log scale, logarithmic y, logarithmic y axis, semilog y, semilog, y "
        "scale log, log y axis, y axis log, y axis logarithmic, log scale, log plot, logarithmic scale, "
        "logarithmic plot, log axis, logarithmic axis"
    ),
    "both log": "log log, double log, double logarithmic, both axes log, both axes logarithmic, log log plot, log axes, loglog",
    "both labels": "axes, name axes, axis labels, axes labels, label axes, label the axes, label both axes, axis label, axis title",
    "no legend": "no legend, hide legend, remove legend, legend off, without legend, turn off legend",
    "no grid": "no grid, no gridlines, hide grid, remove grid, grid off, without grid, turn off grid, gridlines off",
    "no frame": "no frame, no box, hide frame, frame off, box off, without frame, remove frame, no axes, axes off, hide axes, axis off",
    "right axis": "second y axis, secondary axis, right axis, second axis, twin axis, two y axes, axis on the right, right y axis",
    "half width": "one column, column width, single column",
}
# Functions of lists and numbers by what people call them.
FUNCTIONS = {
    "ln": "natural logarithm", "exp": "exponential function, e to the x", "sin": "sine, sinus", "cos": "cosine",
    "median": "median, middle value", "sd": "standard deviation, sd, std dev, std", "variance": "variance",
    "sort": "sort, sorted, sorting, in order", "sqrt": "square root", "cbrt": "cube root", "abs": "absolute value, magnitude, modulus",
    "round": "round, rounded, rounding", "floor": "floor, round down", "ceil": "ceiling, round up", "mod": "remainder, modulo",
    "running_sum": (
        "cumulative sum, running total, running "
        "sum"
    ), "differences": "differences, increments", "reverse": "reverse, reversed, backwards",
    "normal": "random numbers, random, random normal, normal distribution, gaussian random numbers, noise",
    "uniform": "uniform random numbers, random uniform", "length": (
        "how many, count elements, number of "
        "elements, size of list"
    ), "Gamma": "factorial",
}  # fmt: skip
FILLERS = frozenset(
    (
        "a an the of me my please i we want wants would like to need how do does can could you is are be this that it its some all any "
        "just also then so there here with in on into as at by over and or one two three now will shall should such given make create "
        "our their his her was were has have having whose try s ll number down up quadratic cubic linear polynomial expression "
        "formula easy simple both between under very more than us"
    ).split()
)
_SKIPPED = frozenset(
    "a an the of me my please i we to is are be this that its your our some do does you can could would like need want us it".split()
)


def stem(word: str) -> str:
    """The part of a word that stays when it is bent: `integrating`, `integrated` and `integrate` are one."""
    word = word.lower()
    for ending in _ENDINGS:
        if word.endswith(ending) and len(word) - len(ending) >= 4:
            return word[: -len(ending)]
    return word


_ENDINGS = (
    "isations", "izations", "isation", "ization", "ations", "ation", "ating", "ated", "ates", "ator", "ate", "ised", "ized", "ise", "ize",
    "ising", "izing", "ings", "ing", "ies", "ied", "ers", "er", "es", "ed", "e", "s", "y",
)  # fmt: skip


def _phrases(said: str) -> list[tuple[str, ...]]:
    return [key for key in (key_of(phrase.split()) for phrase in said.split(",")) if key]


def key_of(words: Sequence[str]) -> tuple[str, ...]:
    """The stems of a phrase without its small words."""
    kept = [w for w in words if w.lower() not in _SKIPPED]
    return tuple(stem(w) for w in (kept or words))


@cache
def phrases() -> dict[tuple[str, ...], Meaning]:
    """Each known phrase by its stems. Of two records that claim a phrase, the one for which it is surer keeps it."""
    found: dict[tuple[str, ...], Meaning] = {}

    def keep(kind: MeaningKind, name: str, said: str, bonus: int = 0) -> None:
        for rank, key in enumerate(_phrases(said)):
            meaning = Meaning(kind, name, max(rank - bonus, 0), len(key), " ".join(key))
            known = found.get(key)
            if known is None or known.rank > meaning.rank:
                found[key] = meaning

    for name, said in VERBS.items():
        keep("verb", name, said, 99)
    for name, answered in ANSWERED.items():
        keep("statement", f"answered {name}", answered.words, 1)
    for name, said in SETTINGS.items():
        keep("setting", name, said, 99)
    for name, said in FUNCTIONS.items():
        keep("function", name, said)
    for noun in NOUNS.values():
        keep("noun", noun.name, noun.asked_as)
    for statement in STATEMENTS.values():
        keep("statement", statement.name, statement.asked_as)
    for option in OPTIONS.values():
        keep("option", option.name, option.asked_as)
    for noun in NOUNS.values():
        found.setdefault((stem(noun.name),), Meaning("noun", noun.name, 2, 1, noun.name))
    # Then what the handbook knows, where nothing surer is known.
    for noun in NOUNS.values():
        for key in _phrases(noun.common_words):
            found.setdefault(key, Meaning("noun", noun.name, 20, len(key), " ".join(key)))
    return found


@cache
def _single() -> dict[str, Meaning]:
    return {key[0]: meaning for key, meaning in phrases().items() if len(key) == 1}


@cache
def _spelled() -> tuple[str, ...]:
    """The single words as they are spelled, for those that are typed wrongly."""
    words: set[str] = set()
    for said in _all_said():
        for phrase in said.split(","):
            words.update(w.lower() for w in phrase.split() if len(w) > 3)
    return tuple(sorted(words))


@cache
def _longest() -> int:
    return max(len(key) for key in phrases())


def meaning_at(words: Sequence[str], place: int) -> tuple[Meaning, int] | None:
    """The longest known phrase that begins at a word, and the number of words it takes. Small words inside of it do not count."""
    best: tuple[Meaning, int] | None = None
    kept: list[str] = []
    for count, word in enumerate(words[place:], 1):
        if word.lower() in _SKIPPED:
            if not kept:
                return None
            continue
        kept.append(stem(word))
        if len(kept) > _longest():
            break
        found = phrases().get(tuple(kept))
        if found is not None:
            best = found, count
    return best


def request_meant(word: str) -> str | None:
    """The request that a word is meant for: by what people call it, by its parts, or by its spelling."""
    for said in ([word], taken_apart(word)):
        found = meaning_at(said, 0) if said else None
        if found is not None and found[0].kind == "noun":
            return found[0].name
        if found is not None and found[0].name == "draw":
            return "curve"
    near = nearest(word, NOUNS)
    return near if near is not None and near[0] == word[0].lower() else None


def taken_apart(word: str) -> list[str]:
    """An unknown word as known ones: by its capitals and underscores, by known words within it, by what it begins, or by nearness.

    An empty list where nothing is meant by it.
    """
    pieces = [p for p in re.split(r"[_\d]+|(?<=[a-z])(?=[A-Z])", word) if p]
    if len(pieces) > 1 and all(stem(p) in _single() or len(p) == 1 or _cut(p.lower()) for p in pieces):
        return [q for p in pieces for q in (_cut(p.lower()) or [p.lower()])]
    plain = word.lower().strip("_")
    whole = _cut(plain)
    if whole:
        return list(whole)
    if len(plain) >= 3:
        begun = [(m.rank, k) for k, m in _single().items() if k.startswith(plain) and len(plain) * 5 >= len(k) * 2]
        if begun:
            return [min(begun)[1]]
    meant = nearest(plain, (k for k in _spelled() if k.startswith(plain[0]))) if len(plain) >= 4 else None
    return [meant] if meant is not None else []


@cache
def _pieces() -> frozenset[str]:
    """The words that may be found within others."""
    return frozenset(w for said in _all_said() for w in said.replace(",", " ").split() if len(w) >= 3) | {"x", "y", "z"}


@cache
def _all_said() -> tuple[str, ...]:
    """Every line of common words."""
    records = [r.asked_as for table in (NOUNS, STATEMENTS, OPTIONS) for r in table.values()]
    return (
        *records,
        *FUNCTIONS.values(),
        *(n.common_words for n in NOUNS.values()),
        *VERBS.values(),
        *SETTINGS.values(),
        *(a.words for a in ANSWERED.values()),
    )


@cache
def _cut(word: str) -> tuple[str, ...]:
    """A word as two or three known ones that fill it, the longest first; empty where it is none."""
    if stem(word) in _single():
        return (word,)
    for size in range(len(word) - 1, 0, -1):
        head, tail = word[:size], word[size:]
        if head not in _pieces() or (size == 1 and len(tail) < 3):
            continue
        if tail in _pieces() or stem(tail) in _single():
            return (head, tail)
        rest = _cut(tail) if len(tail) > 5 else ()
        if len(rest) > 1:
            return (head, *rest)
        begun = [p for p in _pieces() if len(tail) >= 3 and p.startswith(tail)]
        if begun and len(head) >= 3:
            return (head, min(begun, key=lambda p: (len(p), p)))
    for size in range(len(word) - 3, 2, -1):
        head, tail = word[:size], word[size:]
        begun = [p for p in _pieces() if p.startswith(head)]
        if begun and stem(tail) in _single():
            return (min(begun, key=lambda p: (-len(p), p)) if head == "poly" else min(begun, key=lambda p: (len(p), p)), tail)
    return ()
