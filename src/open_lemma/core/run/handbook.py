"""The handbook: a page for each idea, noun, statement, option, kind of value and function, made from the language's own tables.

Nothing is listed here: what the tables hold has a page, and what they do not hold has none.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass, field
from functools import cache
from typing import Any

from ..formula.catalogue import ENTRIES
from ..formula.entry import Entry
from ..formula.nodes import Variable
from ..formula.typeset import name_tex, tex
from ..language.vocabulary import IDEAS, METHODS, NOUNS, OPTIONS, STATEMENTS, VALUES, Noun, Option, Statement, Topic


@dataclass(frozen=True)
class Page:
    """kind: request, drawing, statement, value, option, method, function, constant, idea. more: further paragraphs."""

    id: str
    kind: str
    name: str
    usage: str
    help: str
    example: str
    words: str = ""
    available: bool = True
    options: list[str] = field(default_factory=list)
    choices: list[str] = field(default_factory=list)  # the words that an option takes
    domain: str = ""
    latex: str = ""
    parameters: list[str] = field(default_factory=list)
    more: list[str] = field(default_factory=list)

    def as_record(self) -> dict[str, Any]:
        return asdict(self)


_KINDS = {
    "constant": "constant", "elementary": "function", "special": "function", "rounding": "function", "waveform": "function",
    "list": "function", "random": "function",
}  # fmt: skip
# What the arguments of functions of several numbers are called.
_ARGUMENTS = {
    "besselj": ("order", "x"), "bessely": ("order", "x"), "mod": ("a", "b"), "min": ("a", "b"), "max": ("a", "b"), "column": ("rows", "k"),
    "normal": ("n", "mean", "sd", "seed"), "uniform": ("n", "low", "high", "seed"),
}  # fmt: skip


@cache
def pages() -> tuple[Page, ...]:
    """All pages, in the order of the tables."""
    found = [_of_topic("idea", t) for t in IDEAS]
    found += [_of_noun(n) for n in NOUNS.values()]
    found += [_of_topic("statement", s, sorted(o.name for o in s.options)) for s in STATEMENTS.values()]
    found += [_of_topic("value", v) for v in VALUES]
    found += [_of_topic("method", m) for m in METHODS]
    found += [_of_option(o) for o in OPTIONS.values()]
    found += [_of_entry(e) for e in ENTRIES.values() if e.category in _KINDS]
    return tuple(found)


def _usage(ways: tuple[str, ...]) -> str:
    return "   or   ".join(ways)


def _of_noun(n: Noun) -> Page:
    kind = "drawing" if n.draws else "request"
    return Page(
        f"{kind}-{n.name}", kind, n.name, _usage(n.usage), n.summary, n.example, n.common_words, options=sorted(n.option_names())
    )  # fmt: skip


def _of_topic(kind: str, t: Statement | Topic, options: Sequence[str] = ()) -> Page:
    plain = t.name.lower().replace(" ", "-").replace("'", "")
    return Page(
        f"{kind}-{plain}", kind, t.name, _usage(t.usage), t.summary, t.example, t.common_words, options=list(options), more=list(t.more)
    )


def _of_option(o: Option) -> Page:
    takers = [n.name for n in NOUNS.values() if o in n.options] + [s.name for s in STATEMENTS.values() if o in s.options]
    words = f"belongs to {', '.join(takers)}" if takers else ""
    return Page(f"option-{o.name}", "option", o.name, o.written, o.summary, o.example, words, bool(takers), choices=list(o.choices))


def _of_entry(e: Entry) -> Page:
    kind = _KINDS[e.category]
    letter = "xs" if e.category == "list" else "t" if e.category == "waveform" else "x"
    names = _ARGUMENTS.get(e.name, (letter,) * e.arity[0]) if kind == "function" else ()
    usage = f"{e.name}({', '.join(names)}{', ...' if e.arity[1] > len(names) else ''})" if kind == "function" else e.name
    latex = ""
    if e.category == "waveform" and e.expansion is not None:
        latex = rf"\operatorname{{{e.name}}}(t) = {tex(e.expansion(Variable('t')))}"
    elif kind == "function" and e.category not in ("list", "random") and e.typeset is not None:
        latex = e.typeset(*(name_tex(n) if len(n) == 1 else "n" for n in names))
    words = " ".join([e.words, {"waveform": "wave signal periodic period 1", "list": "statistics of data"}.get(e.category, "")]).strip()
    return Page(
        f"{kind}-{e.name}", kind, e.name, usage, e.help, e.example, words, e.available, domain=e.domain, latex=latex, parameters=list(names)
    )


def search(text: str) -> list[Page]:
    """Pages for some words, the best first: a name counts most, then common words, then the rest."""
    wanted = text.lower().replace("“", "").split()
    found: list[tuple[int, int, Page]] = []
    for place, page in enumerate(pages()):
        score = 0
        for word in wanted:
            best = max(
                100 if page.name.lower() == word else 60 if page.name.lower().startswith(word) else 0,
                30 if _holds(page.words, word) else 0,
                12 if _holds(page.help, word) or _holds(page.usage, word) else 0,
            )
            if not best and word not in _SMALL:
                score = 0
                break
            score += best
        if score:
            found.append((-score, place, page))
    return [page for _, _, page in sorted(found, key=lambda f: f[:2])]


_SMALL = frozenset("a an the of in on to for how do i is are where what which".split())


def _holds(text: str, word: str) -> bool:
    """Whether a word of the text begins like the word asked for, plural or not."""
    stem = word[:-1] if word.endswith("s") and len(word) > 3 else word
    return any(w.strip(",.();").startswith(stem) for w in text.lower().split())
