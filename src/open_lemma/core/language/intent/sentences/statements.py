"""Statements: sliders, figures, parts, notes."""

from __future__ import annotations

import re

from ..asked import Asked
from .drawings import drawn
from .parts import WRITERS, Around, Offer, called, value_of
from .settings import text_of


def check(a: Asked, around: Around) -> list[Offer]:
    """A condition that is to be checked."""
    f = next((f for f in a.formulas if f.is_equation or f.is_condition), None)
    return [Offer(f"check {f.text}")] if f is not None else []


def _tune(a: Asked, around: Around) -> list[Offer]:
    match = re.search(r"\b([A-Za-zα-ω]\w*)\s*=\s*(-?[\d.]+)", a.text)
    span = a.spans[0] if a.spans else None
    names = (
        [f.text for f in a.formulas if re.fullmatch(r"[A-Za-zα-ω]\w*", f.text)] + [s.variable for s in a.spans if s.variable] + a.variables
    )
    name = match.group(1) if match else names[0] if names else "a"
    low, high = (span.low, span.high) if span else ("0", "5")
    start = match.group(2) if match and span is not None and match.group(2) != span.low else (low if span else "1")
    return [Offer(f"tune {name} = {start} from {low} to {high}")]


def _figure(a: Asked, around: Around) -> list[Offer]:
    title = f' "{a.texts[0]}"' if a.texts else ""
    found = drawn(Asked(a.text, a.names, [], a.formulas, a.spans, a.places, a.near, a.variables, [], a.dress, a.numbers, a.against), around)
    if not found:
        return []
    lines = found[0].text.split("\n")
    above = [line for line in lines[:-1] if "=" in line]
    return [Offer("\n".join([*above, f"figure{title}:", f"    {lines[-1]}"]))] if "figure:" not in lines else found


def _panels(a: Asked, around: Around) -> list[Offer]:
    functions = (
        [value_of(f) for f in a.functions if not f.is_constant]
        or [called(n, around.names) for n in reversed(around.functions[:2])]
        or ["sin(x)", "cos(x)"]
    )
    if len(functions) == 1:
        functions.append(functions[0])
    body = "".join(f"    panel:\n        curve of {f}\n" for f in functions)
    return [Offer(f"figure, 1 by {len(functions)}:\n{body}".rstrip())]


def part_of(a: Asked, around: Around) -> list[Offer]:
    """The beginning of a part."""
    return [Offer(f'part "{text_of(a, "section")}"')]


def _note(a: Asked, around: Around) -> list[Offer]:
    return [Offer(f'note "{text_of(a, "words")}"')]


WRITERS.update(
    {
        "check": check,
        "tune": _tune,
        "figure": _figure,
        "panel": _panels,
        "part": part_of,
        "note": _note,
    }
)
