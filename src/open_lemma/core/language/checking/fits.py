"""Fits and interpolations: data, model, parameters, what is asked of a fit."""

from __future__ import annotations

from .. import tree
from ..messages import Fix, Message, advise, replace
from ..shapes import MOST_DEGREE, columns_of, model_names, polynomial_degree, unwrapped
from .context import CheckContext
from .kinds import NUMBER, Known, Scope
from .lists import same_lengths
from .options import option_of
from .subjects import bare_function, free_names, window_ends

# What a fitted function has by name, beside its parameters.
FIT_PARTS = ("residuals", "fitted", "spread", "sum_of_squares", "degrees_of_freedom", "r_squared", "aicc")


def from_data(context: CheckContext, d: tree.Definition, request: tree.Request, scope: Scope) -> Known:
    """`NAME(x) = interpolation of …` or `fit of …`."""
    assert d.parameters is not None
    if d.domain:
        context.error("domain", "a function got from data is known on the span of the data", d.domain[0].start, d.domain[0].end)
    _options_of(context, request, scope)
    predictors = columns_of(request.against) if request.against is not None else ()
    if len(predictors) != len(d.parameters):
        said = f"{d.name}({', '.join(d.parameters)}) has {len(d.parameters)} variable{'s' if len(d.parameters) != 1 else ''}"
        context.error(
            "predictor-count", f"{said}, and the data go against {len(predictors)} list{'s' if len(predictors) != 1 else ''}",
            request.start, request.end, advise(f"{d.name}(x, z) = {request.noun} of ... against (xs, zs)"),
        )  # fmt: skip
    if request.noun == "fit":
        parts = (*_fit(context, request, d.parameters, scope), *FIT_PARTS)
    else:
        _interpolation(context, request, d.parameters, scope)
        parts = ()
    return Known("function", context.line, d.parameters, True, parts=parts, from_data=True, fitted=request.noun == "fit")


def without_function(context: CheckContext, request: tree.Request, scope: Scope) -> None:
    """A fit or interpolation that no definition gives a variable."""
    if request.noun == "fit" and isinstance(request.subjects[0], tree.ListOf):
        _options_of(context, request, scope)
        _several(context, request, scope)
        return
    at = request.start
    head = "level(t) = " if request.noun == "interpolation" else "rating(x) = "
    context.error(
        "name-needed", f"{'an interpolation' if request.noun == 'interpolation' else 'a fit'} gives a function; "
        "say its name and its variable", request.start, request.end, replace(at, at, head, f"{head}..."),
    )  # fmt: skip


def _options_of(context: CheckContext, request: tree.Request, scope: Scope) -> None:
    for option in request.options:
        option_of(context, request, option, scope)


def _columns(context: CheckContext, values: tree.Expression, against: tree.Expression, scope: Scope) -> None:
    sides = [values, *columns_of(against)]
    for side in sides:
        context.need_list(side, scope)
    same_lengths(context, values, sides, scope)


def _interpolation(context: CheckContext, request: tree.Request, names: tuple[str, ...], scope: Scope) -> None:
    assert request.against is not None
    for window in request.windows:
        context.error("unknown-option", "an interpolation has no 'for'", window.start, window.end)
    _columns(context, request.subjects[0], request.against, scope)
    by = request.option("by")
    kind = by.value if by is not None else None
    plane = kind in ("bilinear", "bicubic", "thin-plate")
    if by is not None and len(names) == 1 and plane:
        context.error("option-not-here", f"'by {kind}' goes over two variables", by.start, by.end, advise("by spline"))
    if by is not None and len(names) == 2 and not plane:
        context.error("option-not-here", f"'by {kind}' goes over one variable", by.start, by.end, advise("by thin-plate"))
    if len(names) > 2:
        context.not_yet("an interpolation over three variables", request.start, request.end)
    ends, errors = request.option("ends"), request.option("errors")
    if ends is not None and (kind not in (None, "spline") or len(names) != 1):
        context.error("option-not-here", "'ends' belongs to a spline", ends.start, ends.end)
    if errors is not None and kind != "smoothing":
        context.error(
            "option-not-here", "'errors' belongs to a smoothing curve: all the others go through the points", errors.start, errors.end,
            advise("by smoothing"),
        )  # fmt: skip


def with_samples(context: CheckContext, request: tree.Request, scope: Scope) -> None:
    """`crossings of f(x) and ys against xs`: a curve and the straight pieces between samples, over the span of these."""
    assert request.against is not None
    curve, values = request.subjects
    _columns(context, values, request.against, scope)
    names = [w.name for w in request.windows] or free_names(context, curve, scope)
    if len(names) != 1:
        context.error(
            "variable-needed",
            "say which one is the variable of the curve",
            request.start,
            request.end,
            advise(f"for {names[0] if names else 'x'}"),
        )
        return
    for window in request.windows:
        window_ends(context, window, scope)
    if not (isinstance(curve, tree.Name | tree.Prime) and bare_function(context, curve, scope)):
        context.number(curve, Scope({names[0]: NUMBER}, scope))


def _fit(context: CheckContext, request: tree.Request, predictors: tuple[str, ...], scope: Scope) -> tuple[str, ...]:
    """A fit of one model; its parameters."""
    assert request.to is not None
    assert request.against is not None
    _columns(context, request.to, request.against, scope)
    model = request.subjects[0]
    if isinstance(model, tree.ListOf):
        context.error(
            "name-needed", "a fit of several models together has no one variable", model.start, model.end, advise("both = fit of ...")
        )
        return ()
    names = model_names(request)
    if names or (isinstance(model, tree.Call) and isinstance(model.function, tree.Name) and model.function.name == "polynomial"):
        _polynomial(context, request, len(predictors))
    else:
        names = _parameters(context, request, [model], predictors, scope)
        inner = Scope(dict.fromkeys([*predictors, *names], NUMBER), scope)
        if context.number(model, inner) == "any":
            context.error("no-derivative", "what is given by a block has values only; a model is one formula", model.start, model.end)
    _of_parameters(context, request, names)
    return names


def _polynomial(context: CheckContext, request: tree.Request, variables: int) -> None:
    degree = polynomial_degree(request.subjects[0])
    model = request.subjects[0]
    if degree is None or degree > MOST_DEGREE:
        context.error("degree", f"the degree of a polynomial is a whole number from 0 to {MOST_DEGREE}", model.start, model.end)
    if variables != 1:
        context.error("degree", "'polynomial' is one of one variable; write the model out", model.start, model.end, advise("a + b*x + c*z"))
    for window in request.windows:
        context.error("unknown-option", "the coefficients of a polynomial are c0, c1, ...; leave out 'for'", window.start, window.end)


def _parameters(context: CheckContext, request: tree.Request, models: list[tree.Expression], predictors: tuple[str, ...], scope: Scope
) -> tuple[str, ...]:  # fmt: skip
    """The parameters that are said, or the names without a value."""
    said = [w.name for w in request.windows]
    for window in request.windows:
        if window.low is not None or window.values is not None:
            context.error(
                "parameter-window", "a parameter is named here; a span goes to 'limit'", window.name_end, window.end,
                replace(window.name_end, window.end, "", f"{window.name}, limit {window.name} = ..."),
            )  # fmt: skip
        if window.name in predictors:
            context.error("parameter-is-variable", f"'{window.name}' is the variable of this function", window.start, window.end)
    if len(set(said)) < len(said):
        context.error("said-twice", "one parameter is named twice", request.windows[0].start, request.windows[-1].end)
    free: list[str] = []
    for model in models:
        free += [n for n in free_names(context, model, Scope(dict.fromkeys(predictors, NUMBER), scope)) if n not in free]
    if said:
        named = {n.name for m in models for n in tree.walk(m) if isinstance(n, tree.Name)}
        for window in request.windows:
            if window.name not in named:
                context.error("parameter-missing", f"the model does not hold '{window.name}'", window.start, window.end)
        return tuple(said)
    if not free:
        context.error(
            "no-parameters", "this model has nothing to adjust: all its names have values", models[0].start, models[0].end,
            advise("for a, b"),
        )  # fmt: skip
        return ()
    text = f" for {', '.join(free)}"
    at = request.options[0].start if request.options else request.end
    at = context.source.text.rfind(",", 0, at) if request.options else at
    context.messages.add(_taken(request, free, replace(at, at, text, text.strip())))
    return tuple(free)


def _of_parameters(context: CheckContext, request: tree.Request, names: tuple[str, ...]) -> None:
    seen: set[tuple[str, str]] = set()
    for option in request.options:
        if option.parameter is None:
            continue
        if names and option.parameter not in names:
            context.error(
                "no-parameter", f"'{option.parameter}' is no parameter of this fit", option.start, option.end, advise(", ".join(names))
            )
        if (option.name, option.parameter) in seen:
            context.error("said-twice", f"'{option.name} {option.parameter}' is said twice", option.start, option.end)
        seen.add((option.name, option.parameter))
        if ("fix", option.parameter) in seen and len([o for o in seen if o[1] == option.parameter]) > 1:
            context.error("fixed", f"'{option.parameter}' is fixed, so it has no start and no limits", option.start, option.end)


def _several(context: CheckContext, request: tree.Request, scope: Scope) -> None:
    """`fit of [M, N] to [ys, zs] against [xs, ts] for …`: one fit over several tables, parameters shared by name."""
    models = request.subjects[0]
    assert isinstance(models, tree.ListOf)
    sides = [unwrapped(s) if s is not None else None for s in (request.to, request.against)]
    lists = [s.items for s in sides if isinstance(s, tree.ListOf)]
    if len(lists) < 2 or any(len(items) != len(models.items) for items in lists):
        context.error(
            "several-models", f"{len(models.items)} models need as many lists of values, and as many to go against",
            models.start, request.end, advise("to [ys, zs] against [xs, ts]"),
        )  # fmt: skip
        return
    for values, against in zip(*lists, strict=True):
        _columns(context, values, against, scope)
    free: list[str] = []
    for model in models.items:
        free += [n for n in free_names(context, model, scope) if n not in free]
    said = [w.name for w in request.windows]
    variables = [n for n in free if n not in said]
    if not said or len(variables) != 1:
        context.error(
            "fit-for", "say the parameters, so that one name is left for the variable", request.start, request.end, advise("for a, b"),
        )  # fmt: skip
        return
    names = _parameters(context, request, list(models.items), (variables[0],), scope)
    inner = Scope(dict.fromkeys([variables[0], *names], NUMBER), scope)
    for model in models.items:
        context.number(model, inner)
    _of_parameters(context, request, names)


def compared_fits(context: CheckContext, statement: tree.Compare, scope: Scope) -> None:
    """`compare`: names of fits, at least two."""
    for item in statement.items:
        _fitted(context, item, scope)
    if len(statement.items) < 2:
        context.error("compare", "two fits or more are compared", statement.start, statement.end, advise("compare rating, trend"))


def of_result(context: CheckContext, request: tree.Request, scope: Scope) -> None:
    """`residuals of rating`: of a fit by its name."""
    known = _fitted(context, request.subjects[0], scope)
    if known is not None and len(known.parameters) != 1:
        context.not_yet(f"'{request.noun} of' a fit with several variables", request.start, request.end)
    for window in request.windows:
        if request.noun == "residuals":
            context.error("unknown-option", "residuals stand at the data; they have no window", window.start, window.end)
        window_ends(context, window, scope)


def _fitted(context: CheckContext, item: tree.Expression, scope: Scope) -> Known | None:
    called = item.function if isinstance(item, tree.Call) else None
    if isinstance(called, tree.Name) and (known := scope.find(called.name)) is not None and known.fitted:
        context.error(
            "fit-needed",
            "the fit is named without its variable",
            item.start,
            item.end,
            replace(called.end, item.end, "", called.spelling),
        )
        return None
    if not isinstance(item, tree.Name):
        context.error("fit-needed", "the name of a fit is needed here", item.start, item.end)
        return None
    known = scope.find(item.name)
    if known is None:
        context.kind_of(item, scope)
    elif known.kind not in ("broken", "any") and not known.fitted:
        context.error(
            "fit-needed", f"'{item.spelling}' is no fit", item.start, item.end, advise("rating(x) = fit of ... to ... against ...")
        )
    return known if known is not None and known.fitted else None


def _taken(request: tree.Request, free: list[str], fix: Fix) -> Message:
    text = f"the names without a value are adjusted: {', '.join(free)}"
    return Message("note", "parameters-taken", request.start, request.end, text, (fix,))
