"""Requests that give a formula: derivatives, antiderivatives, series, simplifications."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from ...formula.nodes import Formula, substitute
from ...language import tree
from ...language.messages import advise
from ...numerics.algebra import MOST_ORDER, Form, NoForm, antiderivative, series_of, simplification
from ...numerics.integrals.integrals import NoIntegral
from ...numerics.proving.identities import prove_identity, prove_taylor
from ...record.notation import format_short
from .calls import differentiated
from .refusals import refusal

if TYPE_CHECKING:
    from .evaluator import Evaluator


def form_of(scope: Evaluator, e: tree.Request) -> Form:
    """A request that gives a formula: a derivative, an antiderivative, a series, a shorter form."""
    if e.noun == "derivative":
        return _derivative_form(scope, e)
    subject = e.subjects[0]
    try:
        if e.noun == "simplification":
            formula = scope.formula(subject)
            found = simplification(formula)
            return replace(found, prove=lambda row: prove_identity(formula, (), found.formula, row))
        if not e.windows:
            raise refusal("no-variable", "say which one is the variable", e, advise("for x"))
        variable = e.windows[0].name
        formula = scope.within(variable).formula(subject)
        if e.noun == "integral":
            found = antiderivative(formula, variable)
            return replace(found, prove=lambda row: prove_identity(found.formula, (variable,), formula, row))
        at, order = e.option("at"), e.option("order")
        assert at is not None
        assert isinstance(at.value, tree.Expression)
        times = _order(scope, order, MOST_ORDER, 0) if order is not None else 5
        place = scope.formula(at.value)
        found = series_of(formula, variable, place, times)
        return replace(found, prove=lambda row: prove_taylor(formula, variable, place, times, found.formula, row))
    except (NoForm, NoIntegral) as reason:
        raise refusal("no-form", str(reason), e) from None


def _order(scope: Evaluator, option: tree.Option, most: int, least: int = 1) -> int:
    assert isinstance(option.value, tree.Expression)
    said = scope.number(option.value)
    if said.value != int(said.value) or not least <= said.value <= most:
        raise refusal("order", f"an order is a whole number from {least} to {most}, not {format_short(said.value)}", option)
    return int(said.value)


def _derivative_form(scope: Evaluator, e: tree.Request) -> Form:
    found = derivative_of(scope, e)
    at, order, variable = e.option("at"), e.option("order"), e.windows[0].name
    method = "differentiated by rule"
    if at is not None:
        return Form(found, "proven", method)
    formula = scope.within(variable).formula(e.subjects[0])
    times = 1 if order is None else _order(scope, order, 20)
    return Form(found, "proven", method, lambda row: prove_identity(formula, (variable,) * times, found, row))


def derivative_of(scope: Evaluator, e: tree.Request) -> Formula:
    """`derivative of … for x, order 2, at 3` as a formula; the variable stays open without `at`."""
    variable = e.windows[0].name
    found = scope.within(variable).formula(e.subjects[0])
    order = e.option("order")
    times = _order(scope, order, 20) if order is not None else 1
    found = differentiated(found, variable, times, e.subjects[0])
    at = e.option("at")
    if at is not None and isinstance(at.value, tree.Expression):
        return substitute(found, {variable: scope.formula(at.value)})
    return found
