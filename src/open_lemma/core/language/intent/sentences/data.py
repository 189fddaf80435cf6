"""Sentences about data: tables, fits, curves through points."""

from __future__ import annotations

import re

from ... import tree
from ..asked import Asked
from ..formulas import read_formula
from ..lexicon import ANSWERED
from .drawings import flat_first, functions_drawn
from .parts import WRITERS, Around, Offer, Writer, dress_of, free_name, free_of, n_text, subject_of, value_of, variable_of
from .values import values_of

_FORMULAS = {
    "exponential": "A*exp(k*x)", "power": "C*x^n", "logarithmic": "A + B*ln(x)", "sine": "A*sin(w*x + p) + c",
    "gauss": "A*exp(-((x - m)/s)^2)",
}  # fmt: skip


def _pair(a: Asked, around: Around) -> tuple[str, str, str] | None:
    """The lists of a fit: upright, flat, and lines above that make them."""
    if a.against is not None:
        return (*a.against, "")
    lists = [f.text for f in a.lists]
    if len(lists) >= 2:
        flat, upright = (lists[0], lists[1]) if flat_first(a.lists[:2]) else (lists[1], lists[0])
        return upright, flat, ""
    table = a.first_of("table")
    name = table.text if table else None
    if name is None and not lists and len(around.lists) < 2 and around.tables:
        name = around.tables[0]
    if name is not None:
        known = around.names.find(name)
        columns = (known.columns if known is not None and known.columns and len(known.columns) >= 2 else None) or ("x", "y")
        return f"{name}.{columns[1]}", f"{name}.{columns[0]}", ""
    if len(lists) == 1:
        other = next((n for n in around.lists if n != lists[0]), None)
        if other is not None:
            f = [x for t in (lists[0], other) if (x := read_formula(t, around.names)) is not None]
            return (f[1].text, f[0].text, "") if flat_first(f) else (f[0].text, f[1].text, "")
    if len(around.lists) >= 2:
        f = [x for t in (around.lists[1], around.lists[0]) if (x := read_formula(t, around.names)) is not None]
        return (f[1].text, f[0].text, "") if flat_first(f) else (f[0].text, f[1].text, "")
    points = [f for f in a.formulas if f.kind == "point"]
    if len(points) >= 2 and all(isinstance(p.inner, tree.PointOf) for p in points):
        columns_of = [[n_text(p, i) for i in p.inner.items] for p in points if isinstance(p.inner, tree.PointOf)]
        above = f"xs = [{', '.join(c[0] for c in columns_of)}]\nys = [{', '.join(c[1] for c in columns_of)}]\n"
        return "ys", "xs", above
    return "ys", "xs", "xs = [1, 2, 3, 4, 5]\nys = [2.1, 3.9, 6.2, 7.8, 10.1]\n"


def _fit(a: Asked, around: Around) -> list[Offer]:
    pair = _pair(a, around)
    if pair is None:
        return []
    upright, flat, above = pair
    model = a.model or "polynomial 1"
    own = next((f for f in a.formulas if f.kind in ("number", "equation") and len(free_of(f)) > 1), None)
    name = free_name(around, ("trend", "model", "fitted", "trend_2", "model_2"))
    if own is not None:
        variable = variable_of(a, free_of(own))
        return [Offer(f"{above}{name}({variable}) = fit of {value_of(own)} to {upright} against {flat}")]
    if model == "polynomial N":
        model = f"polynomial {a.numbers.get('degree', '2')}"
    elif "degree" in a.numbers and model.startswith("polynomial"):
        model = f"polynomial {a.numbers['degree']}"
    formula = _FORMULAS.get(model, model)
    return [Offer(f"{above}{name}(x) = fit of {formula} to {upright} against {flat}")]


def _interpolation(a: Asked, around: Around) -> list[Offer]:
    pair = _pair(a, around)
    if pair is None:
        return []
    upright, flat, above = pair
    by = "polynomial" if a.model and a.model.startswith("polynomial") and re.search(r"polynomial", a.text, re.I) else "spline"
    by = "segments" if re.search(r"\blinear|straight|segments", a.text, re.I) else by
    name = free_name(around, ("through", "level", "between"))
    variable = "x"
    return [Offer(f"{above}{name}({variable}) = interpolation of {upright} against {flat}, by {by}")]


def _of_fit(noun: str) -> Writer:
    def write(a: Asked, around: Around) -> list[Offer]:
        fit = next((f.text for f in a.formulas if f.text.split("(")[0] in around.fits), None) or (around.fits[0] if around.fits else None)
        if fit is None:
            return [Offer(o.text + f"\n{noun} of {o.text.splitlines()[-1].split('(')[0]}") for o in _fit(a, around)]
        return [Offer(f"{noun} of {fit.split('(')[0]}{dress_of(a, noun)}")]

    return write


def _compare(a: Asked, around: Around) -> list[Offer]:
    if len(around.fits) >= 2:
        return [Offer(f"compare {around.fits[1]}, {around.fits[0]}")]
    return [] if len(a.functions) < 2 else functions_drawn(a, a.functions)


def _budget(a: Asked, around: Around) -> list[Offer]:
    f = subject_of(a, around)
    return [Offer(f"budget of {f.text}")] if f is not None else []


def table_from(a: Asked, around: Around) -> list[Offer]:
    """A table of a file that is named, with its points if they are to be drawn; without a file, rows to change."""
    file = next((t for t in a.texts if re.search(r"\.\w{2,7}$", t)), a.texts[0] if a.texts else None)
    if a.functions and file is None and a.means("values", "table"):
        return values_of(a, around)
    name = _named(a, file)
    if file is None and a.loose and re.search(r"\bimport|\bload|\buse", a.text):
        return [Offer("", why=ANSWERED["packages"].answer)]
    if file is None:
        return [Offer(f"table {name}:\n    x    y\n    1    2.1\n    2    3.9\n    3    6.2")]
    drawn = "" if not a.means("draw") else f"\npoints of {name}.y against {name}.x"
    return [Offer(f'table {name} from "{file}"{drawn}')]


def _named(a: Asked, file: str | None) -> str:
    match = re.match(r"\s*([A-Za-z]\w*)\s*=", a.text)
    if match:
        return match.group(1)
    match = re.search(r"\bas\s+([A-Za-z]\w*)", a.text)
    if match and match.group(1) not in ("a", "the"):
        return match.group(1)
    plain = re.sub(r"\W+", "_", (file or "data").rsplit(".", 1)[0]).strip("_")
    plain = plain if re.match(r"[^\W\d]", plain) else f"data_{plain}".rstrip("_")
    return plain if a.names.find(plain) is None and not a.names.builtins.is_protected(plain) and len(plain) > 1 else "data"


WRITERS.update(
    {
        "fit": _fit,
        "interpolation": _interpolation,
        "residuals": _of_fit("residuals"),
        "confidence": _of_fit("confidence"),
        "prediction": _of_fit("prediction"),
        "compare": _compare,
        "budget": _budget,
        "table": table_from,
    }
)
