"""Sentences that ask for something of a function: roots, areas, derivatives."""

from __future__ import annotations

import re

from ... import tree
from ...vocabulary import NOUNS
from ..asked import Asked
from ..formulas import Formula
from .parts import (
    WHOLE_NUMBERS,
    WRITERS,
    Around,
    Offer,
    Writer,
    called,
    defined_above,
    dress_of,
    free_name,
    free_of,
    given_values,
    parameters_above,
    place_of,
    solved_name,
    span_for,
    subject_of,
    value_of,
    variable_of,
    window_of,
    windows_of,
)


def plain_request(noun: str) -> Writer:
    """`NOUN of FORMULA for VARIABLE from LOW to HIGH`"""

    def write(a: Asked, around: Around) -> list[Offer]:
        f = subject_of(a, around)
        if f is None:
            return []
        if f.is_constant and not f.is_equation and noun in ("mean", "length"):
            return []
        free = free_of(f)
        variable = variable_of(a, free)
        above, written = defined_above([f])
        subject = written[0]
        if f.is_equation and solved_name(f) is None:
            left, right = f.sides()
            subject = left if right == "0" else f"{left} - ({right})"
        named = [v for v in (*a.variables, *(s.variable or "" for s in a.spans)) if v in free]
        several = len(dict.fromkeys(named)) > 1 or (NOUNS[noun].variables > 1 and set(free) == {"x", "y"})
        if several and NOUNS[noun].variables > 1:
            names = list(dict.fromkeys(named)) if len(set(named)) > 1 else list(free)
            return [Offer(f"{above}{noun} of {subject}{windows_of(a, names, '-10 to 10')}")]
        above = parameters_above(a, f, [variable]) + above
        near = f", near {place_of(a)}" if place_of(a) and NOUNS[noun].has_option("near") else ""
        digits = f", digits {a.numbers['digits']}" if "digits" in a.numbers and NOUNS[noun].has_option("digits") else ""
        default = "" if near and not a.spans else _searched(noun, f)
        return [Offer(f"{above}{noun} of {subject}{window_of(a, variable, default, always=True)}{near}{digits}")]

    return write


def _searched(noun: str, f: Formula) -> str:
    """The span in which something is sought where none was said: everywhere for a polynomial, about zero otherwise."""
    if NOUNS[noun].gives == "formula":
        return ""
    known = f.names.find(f.text.split("(")[0]) if f.kind == "function" or "(" in f.text else None
    if known is not None and known.has_domain:
        return ""
    powers = not any(isinstance(n, tree.Call | tree.Radical | tree.Pieces) for n in tree.walk(f.tree)) and f.kind != "function"
    return (
        "-infinity to infinity"
        if powers and NOUNS[noun].endless and not re.search(r"\^\(?[A-Za-z-]|/\(?[^()]*[a-z]", f.text)
        else "-10 to 10"
    )


def _roots(a: Asked, around: Around) -> list[Offer]:
    f = subject_of(a, around)
    if f is not None and f.is_equation and len(free_of(f)) == 1 and solved_name(f) is None and not a.spans and not a.places and not a.near:
        return [Offer(f"solution of {f.text} for {variable_of(a, free_of(f))}"), *plain_request("roots")(a, around)]
    return plain_request("roots")(a, around)


def _crossings(noun: str) -> Writer:
    def write(a: Asked, around: Around) -> list[Offer]:
        functions = [f for f in a.formulas if f.kind in ("number", "function", "equation")]
        if len(functions) == 1 and functions[0].is_equation and solved_name(functions[0]) is None:
            left, right = functions[0].sides()
            pair, free = [left, right], list(free_of(functions[0]))
            above = ""
        else:
            above, pair = defined_above(functions)
            free = list(dict.fromkeys(n for f in functions for n in free_of(f)))
        if len(pair) < 2:
            others = [called(n, around.names) for n in around.functions if called(n, around.names) not in pair]
            pair = (pair + list(reversed(others[: 2 - len(pair)])))[:2]
        if len(pair) == 1 and noun == "area":
            pair.append("0")
        if len(pair) < 2:
            return _solved_pair(a) if noun == "crossings" else []
        variable = variable_of(a, [n for n in free if n != "y"] or _variables_of(pair[0], around))
        default = "-10 to 10" if noun == "crossings" else "0 to 1"
        above = given_values(n for n in free if n not in (variable, "y")) + above
        if noun == "area" and not a.spans and pair[1] != "0":
            # The area that two curves enclose lies between the places where they meet.
            name = free_name(around, ("c", "meet", "ends"))
            met = f"{name} = crossings of {pair[0]} and {pair[1]} for {variable} from -10 to 10"
            return [Offer(f"{above}{met}\narea of {pair[0]} and {pair[1]} for {variable} from {name}.x[1] to last({name}.x)")]
        return [Offer(f"{above}{noun} of {pair[0]} and {pair[1]}{window_of(a, variable, default)}")]

    return write


def _solved_pair(a: Asked) -> list[Offer]:
    return []


def _variables_of(called: str, around: Around) -> tuple[str, ...]:
    known = around.names.find(called.split("(")[0])
    return known.parameters if known is not None else ()


def solution_of(a: Asked, around: Around) -> list[Offer]:
    """Equations and inequalities, with the unknowns that were named or the usual ones."""
    equations = [f for f in a.formulas if f.is_equation or f.is_condition]
    if not equations:
        f = subject_of(a, around)
        if f is None or f.is_constant:
            return []
        varying = free_of(f) or ("x",)
        if f.kind == "function" or isinstance(f.inner, tree.Call):
            return plain_request("roots")(a, around)
        variable = variable_of(a, varying)
        return [Offer(f"{parameters_above(a, f, [variable])}solution of {value_of(f)} = 0 for {variable}{_ends(a, variable)}")]
    free = list(dict.fromkeys(n for f in equations for n in f.free))
    if a.variables:
        unknowns = [v for v in dict.fromkeys(a.variables) if v in free] or free[: len(equations)]
    elif len(equations) == 1:
        unknowns = [variable_of(a, free)]
    else:
        usual: list[str] = [n for n in ("x", "y", "z") if n in free]
        unknowns = usual[: len(equations)] if len(usual) >= len(equations) else free[: len(equations)]
    said = ", ".join(f.text for f in equations)
    span = span_for(a, unknowns[0]) if len(unknowns) == 1 and unknowns else None
    window = f" for {span.written(unknowns[0])}" if span else f" for {', '.join(unknowns)}"
    return [Offer(f"solution of {said}{window}")]


def _ends(a: Asked, variable: str) -> str:
    span = span_for(a, variable)
    return f" from {span.low} to {span.high}" if span else ""


def _derivative(a: Asked, around: Around) -> list[Offer]:
    f = subject_of(a, around)
    if f is None:
        return []
    variable = variable_of(a, free_of(f))
    above, written = defined_above([f])
    above = parameters_above(a, f, [variable]) + above
    order = (
        a.numbers.get("degree")
        or a.numbers.get("order")
        or {"second": "2", "third": "3"}.get((re.search(r"second|third", a.text, re.I) or [""])[0].lower())
    )
    tail = f", order {order}" if order and order != "1" else ""
    if a.means("draw"):
        drawn = f"(derivative of {written[0]} for {variable}{tail})"
        if re.search(r"\b(?:and|with|together|plus)\b", a.text, re.I):
            return [Offer(f"{above}curve of [{written[0]}, {drawn}]{window_of(a, variable, always=True)}{dress_of(a)}")]
        return [Offer(f"{above}curve of {drawn}{window_of(a, variable)}{dress_of(a)}")]
    at = f", at {place_of(a)}" if place_of(a) else ""
    return [Offer(f"{above}derivative of {written[0]} for {variable}{tail}{at}")]


def _integral(a: Asked, around: Around) -> list[Offer]:
    f = subject_of(a, around)
    if f is None:
        return []
    free = free_of(f)
    named = list(dict.fromkeys(s.variable for s in a.spans if s.variable))
    above, written = defined_above([f])
    if len(named) == 2:
        return [Offer(f"{above}integral of {written[0]}{windows_of(a, named)}")]
    variable = variable_of(a, free)
    above = parameters_above(a, f, [variable]) + above
    if re.search(r"\barea\b", a.text, re.I) and not a.spans:
        return [Offer(f"{above}integral of {written[0]} for {variable} from 0 to 1")]
    return [Offer(f"{above}integral of {written[0]}{window_of(a, variable, always=True)}")]


def _limit(a: Asked, around: Around) -> list[Offer]:
    f = subject_of(a, around)
    if f is None:
        return WRITERS["x range"](a, around) if a.spans else []
    variable = variable_of(a, free_of(f))
    above, written = defined_above([f])
    return [Offer(f"{above}limit of {written[0]} for {variable}, at {place_of(a) or '0'}")]


def _series(a: Asked, around: Around) -> list[Offer]:
    f = subject_of(a, around)
    if f is None:
        return []
    variable = variable_of(a, free_of(f))
    order = a.numbers.get("degree") or a.numbers.get("terms") or "5"
    above, written = defined_above([f])
    if not free_of(f) or (free_of(f)[0] in WHOLE_NUMBERS and a.spans):
        return WRITERS["sum"](a, around)
    return [Offer(f"{above}series of {written[0]} for {variable}, at {place_of(a) or '0'}, order {order}")]


def plain_with_span(noun: str) -> Writer:
    """A request over a span that is 0 to 1 where none was said."""

    def write(a: Asked, around: Around) -> list[Offer]:
        f = subject_of(a, around)
        if f is None:
            return []
        variable = variable_of(a, free_of(f))
        above, written = defined_above([f])
        return [Offer(f"{parameters_above(a, f, [variable])}{above}{noun} of {written[0]}{window_of(a, variable, '0 to 1')}")]

    return write


def _simplification(a: Asked, around: Around) -> list[Offer]:
    if a.places:
        return _series(a, around)
    f = subject_of(a, around)
    return [Offer(f"simplification of {value_of(f)}")] if f is not None else []


WRITERS.update(
    {
        "roots": _roots,
        "crossings": _crossings("crossings"),
        "area": _crossings("area"),
        "solution": solution_of,
        "derivative": _derivative,
        "integral": _integral,
        "limit": _limit,
        "series": _series,
        "simplification": _simplification,
    }
)
