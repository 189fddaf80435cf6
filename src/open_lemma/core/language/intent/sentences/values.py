"""Sentences that ask for numbers: values, sums, functions of lists."""

from __future__ import annotations

import re

from ..asked import Asked, Span
from ..formulas import read_formula
from .drawings import functions_drawn
from .parts import (
    WRITERS,
    Around,
    Offer,
    Writer,
    defined_above,
    free_name,
    free_of,
    parameters_above,
    place_of,
    solved_name,
    span_for,
    subject_of,
    value_of,
    variable_of,
    window_of,
)
from .requests import plain_request, plain_with_span, solution_of


def sum_of(noun: str) -> Writer:
    """A sum or product: of a list, of numbers, of a formula over whole numbers."""

    def write(a: Asked, around: Around) -> list[Offer]:
        data = a.first_of("list")
        if data is not None:
            return [Offer(f"show {noun}({data.text})")]
        constants = [f for f in a.formulas if f.is_constant]
        if len(constants) > 1 and len(constants) == len(a.formulas):
            return [Offer(f"show {noun}([{', '.join(f.text for f in constants)}])")]
        if not a.formulas and a.spans:
            return [Offer(f"{noun} of k{window_of(a, 'k')}")]
        f = subject_of(a, around)
        if f is None:
            return []
        variable = variable_of(a, free_of(f))
        return [Offer(f"{parameters_above(a, f, [variable])}{noun} of {value_of(f)}{window_of(a, variable, '1 to 10')}")]

    return write


def _mean(a: Asked, around: Around) -> list[Offer]:
    data = a.first_of("list")
    if data is not None:
        names = ["mean", *(m.name for m in a.meanings if m.kind == "function")]
        return [Offer("show " + ", ".join(f"{n}({data.text})" for n in names))]
    constants = [f for f in a.formulas if f.is_constant]
    if constants and len(constants) == len(a.formulas):
        return [Offer(f"show mean([{', '.join(f.text for f in constants)}])")]
    if not a.formulas and around.lists:
        return [Offer(f"show mean({around.lists[0]})")]
    return plain_with_span("mean")(a, around)


def _length(a: Asked, around: Around) -> list[Offer]:
    data = a.first_of("list")
    if data is not None:
        return [Offer(f"show length({data.text})")]
    return plain_with_span("length")(a, around)


def _one_of_list(noun: str, function: str) -> Writer:
    def write(a: Asked, around: Around) -> list[Offer]:
        data = a.first_of("list")
        if data is not None:
            return [Offer(f"show {function}({data.text})")]
        constants = [f for f in a.formulas if f.is_constant]
        if len(constants) > 1 and len(constants) == len(a.formulas):
            return [Offer(f"show {function}([{', '.join(f.text for f in constants)}])")]
        return plain_request(noun)(a, around)

    return write


def function(name: str) -> Writer:
    """`median of xs` is a function of a list, or of a number."""

    def write(a: Asked, around: Around) -> list[Offer]:
        constants = [f.text for f in a.formulas if f.is_constant]
        if name in ("normal", "uniform"):
            count = a.numbers.get("count") or (constants[0] if constants and constants[0].isdigit() else "10")
            return [Offer(f"show {name}({count}, 0, 1, 1)")]
        if a.lists:
            names = [m.name for m in a.meanings if m.kind == "function" or m.name in ("mean", "sum", "product")]
            return [Offer("show " + ", ".join(f"{n}({a.lists[0].text})" for n in names))]
        if len(constants) > 1 and name != "mod":
            return [Offer(f"show {name}([{', '.join(constants)}])")]
        if constants:
            return [Offer(f"show {name}({', '.join(constants)})")]
        if a.functions:
            return functions_drawn(a, a.functions) if a.means("draw") else []
        if a.means("draw") and name not in ("median", "sd", "variance", "sort", "length"):
            return [Offer(f"curve of {name}(x){window_of(a, 'x')}")]
        return [Offer(f"show {name}({around.lists[0]})")] if around.lists else []

    return write


def values_of(a: Asked, around: Around) -> list[Offer]:
    """A table of values of functions."""
    if a.places and not a.spans:
        return shown(a, around)
    functions = [f for f in a.formulas if f.kind in ("number", "function", "equation") and not f.is_constant]
    if not functions and around.functions:
        functions = [g for n in around.functions[:1] if (g := read_formula(n, around.names)) is not None]
    if not functions:
        return []
    above, written = defined_above(functions)
    variable = variable_of(a, [n for f in functions for n in free_of(f)])
    span = span_for(a, variable) or Span(None, "0", "10", a.numbers.get("step"), a.numbers.get("count"))
    if not span.step and not span.count:
        span = Span(None, span.low, span.high, a.numbers.get("step"), a.numbers.get("count") or "11")
    subject = f"[{', '.join(written)}]" if len(written) > 1 else written[0]
    return [Offer(f"{above}values of {subject} for {span.written(variable, stepped=True)}")]


def shown(a: Asked, around: Around) -> list[Offer]:
    """Values that are asked for: numbers, a function at a place."""
    if a.means("draw"):
        return []
    digits = f", digits {a.numbers['digits']}" if "digits" in a.numbers else ""
    items: list[str] = []
    above = ""
    for f in a.formulas:
        if f.kind in ("equation", "condition"):
            if f.is_equation and solved_name(f) is None and f.free:
                return solution_of(a, around)
            return [Offer(f"check {f.text}")] if not f.free else []
        if f.free or f.kind == "function":
            place = place_of(a)
            free = free_of(f)
            if place and len(free) == 1:
                if f.kind == "function" or re.fullmatch(rf"\w+\({free[0]}\)", f.text):
                    items.append(f"{f.text.split('(')[0]}({place})")
                    continue
                name = free_name(around, ("f", "g", "h", "y"))
                above += f"{name}({free[0]}) = {f.text}\n"
                items.append(f"{name}({place})")
                continue
            if f.kind == "function":
                items.append(f.text)
                continue
            if len(free) == 1 and a.spans:
                return values_of(a, around)
            if re.fullmatch(r"\w+\(\w+\)", f.text) and around.names.find(f.text.split("(")[0]) is not None:
                items.append(f.text.split("(")[0])
                continue
            return [Offer(f"simplification of {f.text}")] if not a.places else []
        items.append(f.text)
    items += [f'"{t}"' for t in a.texts] if not items or len(a.texts) == 1 else []
    if a.texts and items and items[-1] == f'"{a.texts[0]}"' and len(items) > 1:
        items = [items[-1], *items[:-1]]
    return [Offer(f"{above}show {', '.join(items)}{digits}")] if items else []


WRITERS.update(
    {
        "minima": _one_of_list("minima", "min"),
        "maxima": _one_of_list("maxima", "max"),
        "lowest": _one_of_list("lowest", "min"),
        "highest": _one_of_list("highest", "max"),
        "sum": sum_of("sum"),
        "product": sum_of("product"),
        "mean": _mean,
        "length": _length,
        "values": values_of,
        "show": shown,
    }
)
