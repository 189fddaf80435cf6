"""From what stands in a sentence to the sentences in this language that may be meant, the likeliest first."""

from __future__ import annotations

import re

from ...vocabulary import NOUNS, OPTIONS, STATEMENTS
from ..asked import Asked
from ..lexicon import ANSWERED, Meaning
from .data import table_from
from .drawings import drawn
from .parts import WRITERS, Around, Offer, solved_name, value_of
from .requests import plain_request, solution_of
from .settings import dressed_above, option_of_drawing
from .shape import (
    as_list,
    asked_by_sign,
    by_shape,
    decimal_comma,
    each_of,
    file_named,
    given_back,
    logarithm,
    of_a_list,
    with_unit,
)  # fmt: skip
from .statements import check
from .values import function, shown

# Words that say little beside others: `points of intersection` asks for crossings.
_GENERAL = frozenset(
    ("curve", "points", "values", "line", "show", "label", "solution", "order", "define", "figure", "no", "tune", "levels")
)


def sure_offers(a: Asked, around: Around) -> list[Offer]:
    """What the form of the text says without doubt: lists, units, values asked for with a sign of equality."""
    text = a.text.strip().rstrip(";").strip()
    rules = (decimal_comma, as_list, with_unit, of_a_list, logarithm, file_named, asked_by_sign, each_of, given_back)
    return [o for rule in rules for o in rule(text, a, around)]


def offers(a: Asked, around: Around) -> list[list[Offer]]:
    """What may be meant, the likeliest first, in tiers: a tier counts only if nothing of those before would do.

    It is not tried here whether a sentence would do.
    """
    return [list(dict.fromkeys(tier)) for tier in (by_shape(a, around), _by_words(a, around), _whatever(a, around), _example(a))]


def _by_words(a: Asked, around: Around) -> list[Offer]:
    found: list[Offer] = []
    if a.dress and not a.formulas and not any(m.kind in ("noun", "setting") and m.name not in _GENERAL for m in a.meanings):
        found += dressed_above(a, around)
    if a.means("draw", "table") and any(re.search(r"\.\w{2,7}$", t) for t in a.texts):
        found += table_from(a, around)
    equations = [f for f in a.formulas if f.is_equation]
    if len(equations) > 1 and not a.means("draw") and not any(m.kind == "noun" for m in a.meanings):
        found += solution_of(a, around)
    if a.places and not a.means("draw") and not any(m.kind in ("noun", "statement", "setting") for m in a.meanings):
        found += shown(a, around)
    for meaning in _in_order(a):
        writer = WRITERS.get(meaning.name)
        if writer is not None:
            found += writer(a, around)
        elif meaning.name.startswith("answered "):
            if a.formulas or a.texts or meaning.name != a.meanings[0].name:
                continue
            found.append(Offer("", why=ANSWERED[meaning.name.removeprefix("answered ")].answer))
        elif meaning.kind == "option":
            found += option_of_drawing(a, around, meaning.name)
        elif meaning.kind == "function":
            found += function(meaning.name)(a, around)
        elif meaning.kind == "noun":
            found += plain_request(meaning.name)(a, around)
    return [_with_its_curve(o, a, around) for o in found]


def _with_its_curve(offer: Offer, a: Asked, around: Around) -> Offer:
    """`plot exp(x) with log scale`: the setting and what it is about, in one figure."""
    if (
        not offer.setting
        or all(f.is_constant for f in a.functions)
        or around.in_figure
        or offer.above
        or offer.text.startswith(("mark", "text"))
    ):
        return offer
    found = drawn(a, around)
    if not found or "figure" in found[0].text:
        return offer
    *above, last = found[0].text.split("\n")
    body = "\n".join(f"    {line}" for line in [last, *offer.text.split("\n")])
    return Offer("\n".join([*above, f"figure:\n{body}"]))


def _example(a: Asked) -> list[Offer]:
    """Nothing but a word: the example of its page."""
    if a.formulas or a.texts or a.spans:
        return []
    found = []
    for meaning in _in_order(a):
        record = {"noun": NOUNS, "statement": STATEMENTS, "option": OPTIONS}.get(meaning.kind, {}).get(meaning.name)  # type: ignore[attr-defined]
        if meaning.name == "define":
            found.append(Offer(STATEMENTS["definition"].example))
        if record is not None:
            found.append(Offer(record.example))
    return found


def _in_order(a: Asked) -> list[Meaning]:
    def weight(item: tuple[int, Meaning]) -> tuple[bool, int, int, int]:
        place, m = item
        return (m.name in _GENERAL or m.kind == "verb", -m.length, min(m.rank, 8), place)

    said = sorted(enumerate(a.meanings), key=weight)
    kept: dict[str, Meaning] = {}
    for _, meaning in said:
        kept.setdefault(meaning.name, meaning)
    return list(kept.values())


def _whatever(a: Asked, around: Around) -> list[Offer]:
    """What is left when no word says it: equations are solved, formulas drawn, numbers shown, dress belongs to the drawing above."""
    found: list[Offer] = []
    if a.dress and not a.formulas:
        found += dressed_above(a, around)
    equations = [f for f in a.formulas if f.is_equation or f.is_condition]
    if len(equations) == 1 and {"x", "y"} <= set(equations[0].free) and equations[0].is_equation and not a.means("find"):
        found += drawn(a, around)
    if equations and not a.means("draw"):
        solved = solved_name(equations[0])
        if len(equations) == 1 and solved is not None and "(" not in solved and equations[0].free == (solved,):
            found.append(Offer(f"{solved} = {value_of(equations[0])}"))
        if len(equations) > 1 or solved is None or a.means("find"):
            if any(f.free for f in equations):
                found += solution_of(a, around)
            else:
                found += check(a, around)
    if a.means("find") or (a.places and not a.means("draw")):
        found += shown(a, around)
    if a.functions and all(f.is_constant for f in a.functions) and not a.lists:
        found += shown(a, around)
    found += drawn(a, around) if (a.formulas or a.against is not None or a.means("draw") or a.dress) else []
    if a.means("show", "find"):
        found += shown(a, around)
    return found
