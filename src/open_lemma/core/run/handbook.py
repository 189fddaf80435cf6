"""The handbook: a page for each idea, noun, statement, option, kind of value and function, made from the language's own tables.

Nothing is listed here: what the tables hold has a page, and what they do not hold has none.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import asdict, dataclass, field
from functools import cache
from typing import Any

from ..formula.catalogue import BUILTINS, ENTRIES
from ..formula.entry import Entry
from ..formula.nodes import Variable
from ..formula.typeset import name_tex, tex
from ..language import front
from ..language.intent.formulas import applied
from ..language.vocabulary import IDEAS, METHODS, NOUNS, OPTIONS, STATEMENTS, VALUES, Noun, Option, Statement, Topic


@dataclass(frozen=True)
class Slip:
    """What is typed, and the sentence that was meant."""

    typed: str
    meant: str


@dataclass(frozen=True)
class Page:
    """kind: request, drawing, statement, value, option, method, function, constant, idea.

    examples  from plain to rich; `example` is the one that is tried
    slips     lines that people write, with what was meant, worked out by the language's own messages
    more      further paragraphs
    see       ids of pages that lie near
    """

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
    examples: list[str] = field(default_factory=list)
    slips: list[Slip] = field(default_factory=list)
    see: list[str] = field(default_factory=list)

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
    return Page(
        _noun_id(n), "drawing" if n.draws else "request", n.name, _usage(n.usage), n.summary, n.example, n.common_words,
        options=sorted(n.option_names()), examples=_from_plain_to_rich(n), slips=_slips(n.slips), see=_near(n),
    )  # fmt: skip


def _noun_id(n: Noun) -> str:
    return f"{'drawing' if n.draws else 'request'}-{n.name}"


def _from_plain_to_rich(record: Noun | Topic) -> list[str]:
    return list(dict.fromkeys(e for e in (record.plain, record.example, record.rich) if e))


def _near(n: Noun) -> list[str]:
    """Other words that stand in its examples, then those of its family."""
    written = "\n".join(_from_plain_to_rich(n))
    used = [o for o in NOUNS.values() if o is not n and re.search(rf"\b{o.name} of\b", written)]
    family = [o for o in NOUNS.values() if o is not n and o.family == n.family]
    return [_noun_id(o) for o in dict.fromkeys([*used, *family])][:5]


def _slips(typed: Sequence[str]) -> list[Slip]:
    """Each with what the first buttons of its messages make of it."""
    found = []
    for line in typed:
        script = line
        for _ in range(2):
            messages = [m for m in front.read(script, BUILTINS)[0].messages.in_order() if m.severity == "error"]
            edits = next((f.edits for m in messages[:1] for f in m.fixes if f.edits), None)
            if edits is None:
                break
            script = applied(script, edits)
        if script != line:
            found.append(Slip(line, script))
    return found


def _of_topic(kind: str, t: Statement | Topic, options: Sequence[str] = ()) -> Page:
    examples = _from_plain_to_rich(t)
    return Page(
        f"{kind}-{t.name.lower().replace(' ', '-').replace(chr(39), '')}", kind, t.name,
        "\n".join(t.usage) if kind == "idea" else _usage(t.usage), t.summary, t.example,
        t.common_words, options=list(options), more=list(t.more), examples=examples,
        slips=_slips(t.slips),
    )  # fmt: skip


def _of_option(o: Option) -> Page:
    takers = [n.name for n in NOUNS.values() if o in n.options] + [s.name for s in STATEMENTS.values() if o in s.options]
    words = f"belongs to {', '.join(takers)}" if takers else ""
    return Page(
        f"option-{o.name}",
        "option",
        o.name,
        o.written,
        o.summary,
        o.example,
        words,
        bool(takers),
        choices=list(o.choices),
        examples=[o.example],
    )


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
        f"{kind}-{e.name}", kind, e.name, usage, e.help, e.example, words, e.available, domain=e.domain, latex=latex,
        parameters=list(names), examples=_of_function(e, letter),
    )  # fmt: skip


def _of_function(e: Entry, letter: str) -> list[str]:
    """The entry's own example; of a function of one number also its curve, and its slope beside it."""
    if e.arity != (1, 1) or e.category not in ("elementary", "special", "waveform") or not e.available:
        return [e.example] if e.example else []
    called = f"{e.name}({letter})"
    drawn = f"curve of {called}"
    slope = f"(derivative of {called} for {letter})"
    both = f'figure:\n    curve of [{called}, {slope}] for {letter}, label ["{e.name}", "slope"]\n    legend top left'
    return [x for x in (e.example, drawn, both if e.category == "elementary" else "") if x]
