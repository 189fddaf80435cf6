"""Fits proposed for drawn points: the models of the trade ranked by how well each does, or a formula of one's own."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from typing import Any

import numpy as np

from ..formula.calculus import NoDerivative
from ..formula.catalogue import BUILTINS
from ..language import tree
from ..language.checking.checker import check
from ..language.messages import Refused
from ..language.syntax.parser import parse
from ..numerics.fitting.fit import DataColumn, Fit, NotFittable, Problem, fit
from ..numerics.fitting.standard_models import StandardModel, suitable
from .evaluate.evaluator import Evaluator
from .execute.faults import OnFault
from .execute.interpreter import run
from .tables import Tables
from .undefined import with_unit
from .values import Frame, ListValue

_CURVE, _POINTS = 120, 240
_MOST_ROWS = 20_000
_BUDGET_S = 9.0


class NotProposed(Exception):
    """Why nothing can be proposed."""


def propose(
    script: str,
    line: int,
    tables: Tables | None,
    clock: Callable[[], float],
    own: str | None = None,
    starts: dict[str, float] | None = None,
    at: float | None = None,
    on_fault: OnFault | None = None,
) -> dict[str, Any]:
    """Fits for the points that the statement in a line draws.

    own     a formula in x instead of the models of the trade; its names without a value are the parameters
    starts  values that its parameters start from
    at      a place where each fit is asked for its value
    Raises NotProposed.
    """
    x, y, errors, scope, written = _data(script, line, tables, on_fault)
    begun = clock()
    found: list[dict[str, Any]] = []
    for model in [_own(own, scope)] if own is not None else suitable(x, y):
        if found and clock() - begun > _BUDGET_S:
            break
        told = _tried(model, x, y, errors, scope, starts or {}, at)
        if told is not None:
            found.append(told)
        elif own is not None:
            raise NotProposed("this formula cannot be fitted to these points")
    found.sort(key=lambda f: f["aicc"] if f["aicc"] is not None else np.inf)
    chosen = np.arange(len(x)) if len(x) <= _POINTS else np.linspace(0, len(x) - 1, _POINTS).round().astype(int)
    return {
        "x": x[chosen].tolist(), "y": y[chosen].tolist(), "points": len(x), "fits": found, "against": written[1], "of": written[0],
        "has_errors": errors is not None,
    }  # fmt: skip


def _data(script: str, line: int, tables: Tables | None, on_fault: OnFault | None) -> tuple[Any, Any, Any, Evaluator, tuple[str, str]]:
    """The numbers behind drawn points, the names of the script, and how the lists are written."""
    outcome = run(script, tables=tables, on_fault=on_fault)
    source = outcome.reading.source
    request = next(
        (
            n
            for n in tree.walk(outcome.reading.script)
            if isinstance(n, tree.Request) and n.noun in ("points", "line") and source.line_of(n.start) == line and n.against is not None
        ),
        None,
    )
    if request is None or request.against is None:
        raise NotProposed("fits are proposed for points of one list against another")
    scope = Evaluator(source.text, Frame(dict(outcome.names)), lambda *_: ListValue(np.array([])))
    try:
        y, x = (scope.as_list(scope.value(e), e).data for e in (request.subjects[0], request.against))
        option = request.option("errors")
        spread = (
            option.value.items[-1] if option is not None and isinstance(option.value, tree.PointOf) else option.value if option else None
        )
        errors = scope.as_list(scope.value(spread), spread).data if isinstance(spread, tree.Expression) else None
    except (Refused, KeyError):
        raise NotProposed("the lists of these points belong to the figure's block; give them names above it") from None
    if errors is not None and len(errors) == 1:
        errors = np.full(len(x), errors[0])
    good = np.isfinite(x) & np.isfinite(y)
    if errors is not None:
        errors = errors if np.all(errors[good] > 0) else None
    if int(good.sum()) < 4:
        raise NotProposed(f"at least 4 points are needed; there are {int(good.sum())}")
    step = max(1, -(-int(good.sum()) // _MOST_ROWS))
    rows = np.flatnonzero(good)[::step]
    texts = (source.text[e.start : e.end] for e in (request.subjects[0], request.against))
    return x[rows], y[rows], None if errors is None else errors[rows], scope, tuple(texts)  # type: ignore[return-value]


def _own(formula: str, scope: Evaluator) -> StandardModel:
    reading = parse(f"own(x) = {formula}", BUILTINS)
    statements = reading.script.statements
    if reading.messages.has_errors() or len(statements) != 1 or not isinstance(statements[0], tree.Definition):
        raise NotProposed(next((m.text for m in reading.messages.items), "this is no formula"))
    body = statements[0].body
    called = {id(n.function) for n in tree.walk(body) if isinstance(n, tree.Call)}
    known = set(BUILTINS.names()) | {"x"}
    inside = [n for n in tree.walk(body) if isinstance(n, tree.Name) and id(n) not in called]
    names = [n.name for n in inside if n.name not in known and not scope.names.has(n.name)]
    joined = next((n for n in names if _holds_x(n)), None)
    if joined is not None and not any(n.name == "x" for n in inside):
        raise NotProposed(f"{joined} is one name here, and x does not stand in this formula; {_apart(joined)}")
    if not names:
        raise NotProposed("this formula has nothing to adjust: all its names have values")
    parameters = tuple(dict.fromkeys(names))
    _checked(f"{_free_name(scope)}({', '.join(('x', *parameters))}) = {formula}", scope)
    return StandardModel("own formula", formula, parameters)


def _checked(definition: str, scope: Evaluator) -> None:
    """The formula below the script must have no mistake, as a function of its parameters. Raises NotProposed."""
    reading = parse(f"{scope.text}\n{definition}", BUILTINS)
    check(reading, BUILTINS)
    mistakes = [m for m in reading.messages.items if m.severity == "error" and m.start > len(scope.text)]
    if mistakes:
        raise NotProposed(mistakes[0].text)


def _free_name(scope: Evaluator) -> str:
    return next(name for name in map("own_{}".format, itertools.count(1)) if not scope.names.has(name))


def _holds_x(name: str) -> bool:
    """Whether a short name may be meant as a product with x, such as bx."""
    return len(name) in (2, 3) and name.isalpha() and (name.endswith("x") or name.startswith("x"))


def _apart(name: str) -> str:
    letter = name[:-1] if name.endswith("x") else name[1:]
    return f"write {letter}*x for {letter} times x"


def _words_on_names(model: StandardModel) -> list[str]:
    """What a formula may have been meant to say and does not: a name that holds x, and e, which is a number."""
    if model.name != "own formula":
        return []
    said = [f"{n} is one name, a parameter of its own; {_apart(n)}" for n in model.parameters if _holds_x(n)]
    if any(isinstance(n, tree.Name) and n.name == "e" for n in tree.walk(parse(f"own(x) = {model.formula}", BUILTINS).script)):
        said.append("e is the number 2.718…, no parameter; call a parameter otherwise")
    return said


def _tried(
    model: StandardModel, x: Any, y: Any, errors: Any, scope: Evaluator, starts: dict[str, float], at: float | None
) -> dict[str, Any] | None:  # fmt: skip
    reading = parse(f"show {model.formula}", BUILTINS)
    (statement,) = reading.script.statements
    assert isinstance(statement, tree.Show)
    inner = Evaluator(reading.source.text, scope.names, scope.request, frozenset({"x", *model.parameters}))
    try:
        formula = inner.formula(statement.items[0])
        column = None if errors is None else DataColumn(errors)
        given = {k: v for k, v in starts.items() if k in model.parameters}
        problem = Problem(formula, ("x",), model.parameters, [DataColumn(x)], DataColumn(y), column, {}, given)
        found = fit(problem, quick=model.name != "own formula")
    except (Refused, NotFittable, NoDerivative, KeyError, ArithmeticError) as reason:
        if model.name == "own formula":
            said = str(reason.message.text if isinstance(reason, Refused) else reason)
            raise NotProposed("; ".join([said, *_words_on_names(model)])) from None
        return None
    if not np.isfinite(found.quality.squares) or found.search.best.suspect:
        return None
    return _told(model, found, x, at)


def _told(model: StandardModel, found: Fit, x: Any, at: float | None) -> dict[str, Any]:
    line = np.linspace(float(x.min()), float(x.max()), _CURVE)
    values, _ = found.slopes_at([line])
    told: dict[str, Any] = {
        "name": model.name, "formula": model.formula, "about": model.about, "evidence": found.evidence,
        "parameters": [
            {"name": n, "value": float(v), "standard_error": _plain(e), "said": with_unit(float(v), float(e), None)}
            for n, v, e in zip(found.parameters, found.values, found.standard, strict=True)
        ],
        "aicc": _plain(found.quality.aicc), "spread": _plain(found.quality.spread), "r_squared": _plain(found.quality.r_squared),
        "chi": _plain(found.quality.chi), "curve": [line.tolist(), [_plain(v) for v in values]],
        "residuals": [float(v) for v in _thinned(found.residuals)], "words": [*_words_on_names(model), *found.pattern.words],
    }  # fmt: skip
    if at is not None:
        value, error = found.errors_at([np.array([at])])
        told["at"] = {
            "x": at, "value": _plain(float(value[0])), "error": _plain(float(error[0])), "beyond": not x.min() <= at <= x.max(),
            "said": with_unit(float(value[0]), float(error[0]), None),
        }  # fmt: skip
    return told


def _plain(value: Any) -> float | None:
    return None if value is None or not np.isfinite(value) else float(value)


def _thinned(values: Any) -> Any:
    return values if len(values) <= _POINTS else values[np.linspace(0, len(values) - 1, _POINTS).round().astype(int)]
