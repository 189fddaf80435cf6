"""Names and calls of functions: those of the script, those of data, those of the catalogue."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from ...formula import catalogue as c
from ...formula.calculus import NoDerivative, derivative
from ...formula.certain import certain_value
from ...formula.domain import end_value
from ...formula.nodes import ONE, Apply, Formula, Given, Named, Variable, substitute, variables, walk
from ...formula.quantities import converted, has_units, inferred, unit_of
from ...formula.tape import Tape
from ...formula.units import MixedUnits, Unit
from ...language import tree
from ...language.shapes import gives_formula
from ...record.notation import format_short
from ..values import GAP, DefinedFunction, FunctionValue, Scalar, Value
from .list_functions import list_call
from .refusals import refusal

if TYPE_CHECKING:
    from .evaluator import Evaluator


def named(scope: Evaluator, e: tree.Name) -> Value | None:
    """What a name stands for, where that is no number: a list, a table, a function. None: a variable, a number, or nothing."""
    if e.name in scope.variables:
        return None
    found = scope.names.find(e.name)
    if found is None:
        return GAP if e.name == "gap" else None
    return None if isinstance(found, Scalar) and not found.gap else found


def plain_call(scope: Evaluator, e: tree.Call) -> Value | None:
    """The value of a call of a `define` function or of a function of lists. None: the call is part of a formula. Raises Refused."""
    if not isinstance(e.function, tree.Name):
        return None
    found = scope.names.find(e.function.name)
    if isinstance(found, DefinedFunction):
        if scope.variables and any(scope.holds_variable(a) for a in e.arguments):
            return None
        return found.call(tuple(scope.value(a) for a in e.arguments), e)  # type: ignore[no-any-return]
    return list_call(scope, e, e.function.name)


def asked(scope: Evaluator, e: tree.Request) -> Value | None:
    if gives_formula(e):
        return None  # a formula
    return scope.request(e, scope)


def name_formula(scope: Evaluator, e: tree.Name) -> Formula:
    """A name in a formula: a variable, what it stands for, or a constant."""
    if e.name in scope.variables:
        return Variable(e.name)
    found = scope.names.find(e.name)
    if found is not None:
        return scope.given(found, e.name, e)
    return GAP.formula if e.name == "gap" else c.constant(e.name)


def call_formula(scope: Evaluator, e: tree.Call) -> Formula:
    """A call in a formula, of a function of the script or of the catalogue, with its primes. Raises Refused."""
    primes = 0
    function: tree.Expression = e.function
    if isinstance(function, tree.Prime):
        primes, function = function.order, function.function
    assert isinstance(function, tree.Name)
    found = scope.names.find(function.name)
    if isinstance(found, FunctionValue):
        arguments = tuple(scope.formula(a) for a in e.arguments)
        return applied(scope, found, arguments, primes, e)
    plain = scope.plain_call(e)
    if plain is not None:
        return scope.given(plain, "", e)
    if isinstance(found, DefinedFunction):
        scope.rounded.append(found.name)
        return Apply(found.entry, tuple(scope.formula(a) for a in e.arguments))
    return Apply(c.ENTRIES[function.name], tuple(scope.formula(a) for a in e.arguments))


def applied(scope: Evaluator, function: FunctionValue, arguments: tuple[Formula, ...], primes: int, e: tree.Expression) -> Formula:
    """A function of the script with its arguments put in, kept within its domain."""
    whole = derived(function, primes, e) if primes else function.body
    arguments = _in_their_units(scope, function, arguments, e)
    numbers = tuple(_number_in(a, u) for a, u in zip(arguments, _data_units(function), strict=True))
    body = _put_in(whole, function.parameters, numbers)
    for parameter, argument in zip(function.parameters, arguments, strict=True):
        if parameter in function.domain:
            low, high = function.domain[parameter]
            body = Apply(c.GUARD, (body, argument, low, high))
        if function.source is not None and parameter in function.source.spans:
            period = _period(function, parameter)
            if period is None:
                body = _on_data(scope, function, parameter, argument, body, e)
            else:
                turned = c.add(period[0], Apply(c.ENTRIES["mod"], (c.subtract(numbers[0], period[0]), c.subtract(period[1], period[0]))))
                body = Apply(c.PERIOD, (_put_in(whole, function.parameters, (turned,)), argument, *period, body))
    return Named(function.name, body, arguments, primes)


def _put_in(body: Formula, parameters: tuple[str, ...], arguments: tuple[Formula, ...]) -> Formula:
    if all(isinstance(a, Variable) and a.name == p for a, p in zip(arguments, parameters, strict=True)):
        return body
    return substitute(body, dict(zip(parameters, arguments, strict=True)))


def _period(function: FunctionValue, parameter: str) -> tuple[Formula, Formula] | None:
    """From where to where a curve through points goes once around; None where it does not repeat itself."""
    source = function.source
    return source.spans[parameter] if source is not None and getattr(source.result, "around", False) else None


def _data_units(function: FunctionValue) -> tuple[Unit | None, ...]:
    """In which units the variables of a function from data are."""
    if function.source is None:
        return (None,) * len(function.parameters)
    return tuple(None if u is None or u.plain else u for u in function.source.units[: len(function.parameters)])


def _number_in(argument: Formula, unit: Unit | None) -> Formula:
    """An argument in the unit of the data: x/(1 [cm]) is the number of x in cm; plain numbers are taken to be in it."""
    if unit is None:
        return argument
    if not variables(argument) and not has_units(argument):
        return argument
    return Apply(c.DIVIDE, (argument, Named("", ONE, unit=unit)))


def _in_their_units(scope: Evaluator, function: FunctionValue, arguments: tuple[Formula, ...], e: tree.Expression) -> tuple[Formula, ...]:
    """Plain numbers as arguments of a function whose formula says in which unit they must be: that is said too."""
    if function.source is not None or not has_units(function.body):
        return arguments
    bare = [p for p, a in zip(function.parameters, arguments, strict=True) if not variables(a) and not has_units(a)]
    said: dict[str, Unit] = {}
    try:
        for p, a in zip(function.parameters, arguments, strict=True):
            unit = None if variables(a) else unit_of(a)
            if unit is not None:
                said[p] = unit
        known = inferred(function.body, bare, said)
    except MixedUnits:
        return arguments
    for name, unit in known.items():
        scope.say(f"{name} of {function.name} is taken in {unit}, as the units in its formula ask", e)
    return tuple(Named("", a, unit=known[p]) if p in known else a for p, a in zip(function.parameters, arguments, strict=True))


def _on_data(scope: Evaluator, function: FunctionValue, parameter: str, argument: Formula, body: Formula, e: tree.Expression) -> Formula:
    """A function got from data: for numbers it is seen here whether they lie inside of the data, for variables later."""
    assert function.source is not None
    low, high = function.source.spans[parameter]
    unit = _data_units(function)[function.parameters.index(parameter)]
    if not variables(argument):
        number = _fitting(scope, function, parameter, argument, unit, e)
        said = [n.data for n in walk(number) if isinstance(n, Given) and np.ndim(n.data)]
        values = np.asarray(Tape([number], []).numeric()[0], dtype=float) if said else np.array([certain_value(number).value])
        ends = end_value(low), end_value(high)
        outside = values[(values < ends[0]) | (values > ends[1])]
        if outside.size:
            scope.warn(
                "extrapolation",
                f"{parameter} = {format_short(float(outside[0]))} lies beyond the data of {function.name}, which go from "
                f"{format_short(ends[0])} to {format_short(ends[1])}: this is extrapolated", e,
            )  # fmt: skip
    if unit is not None:
        low, high = (Named("", end, unit=unit) for end in (low, high))
    return Apply(c.DATA, (body, argument, low, high))


def _fitting(
    scope: Evaluator, function: FunctionValue, parameter: str, argument: Formula, unit: Unit | None, e: tree.Expression
) -> Formula:  # fmt: skip
    """The number of an argument in the unit of the data; a plain number is taken to be in it. Raises Refused for another dimension."""
    formula, found = scope.coherent(argument, e)
    if found is None or found.plain or unit is None:
        return formula
    if not found.like(unit):
        raise refusal("units", f"units do not fit: {parameter} of {function.name} is in [{unit}], and this is in [{found}]", e)
    return converted(formula, found, unit)


def derived(function: FunctionValue, primes: int, e: tree.Expression) -> Formula:
    return differentiated(function.body, function.parameters[0], primes, e)


def differentiated(formula: Formula, variable: str, order: int, e: tree.Expression) -> Formula:
    """The derivative of that order. Raises Refused where there is none by rule."""
    for _ in range(order):
        try:
            formula = derivative(formula, variable)
        except NoDerivative as missing:
            raise refusal("no-derivative", f"there is no derivative by rule of {missing}", e) from None
    return formula
