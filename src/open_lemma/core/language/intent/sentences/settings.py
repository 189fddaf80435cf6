"""Settings of a figure and dress of what is drawn above."""

from __future__ import annotations

import re
from collections.abc import Callable

from ... import tree
from ...vocabulary import NOUNS
from ..asked import Asked, Span
from .drawings import drawn, functions_drawn, of_data, points_typed
from .parts import WRITERS, Around, Offer, Writer, free_name, n_text
from .requests import plain_request

_DRAWN_OPTIONS = ("colour", "width", "size", "dash", "marker", "opacity", "label", "fill", "levels", "errors")


def text_of(a: Asked, default: str) -> str:
    """The text that is meant: in quotes, or what stands behind the word."""
    if a.texts:
        return a.texts[0]
    rest = a.text.strip().rstrip(":;")
    if ":" in rest:
        return rest.split(":", 1)[1].strip() or default
    rest = re.sub(r"^\s*(?:please\s+|set\s+|add\s+|the\s+)*", "", rest, flags=re.I)
    for meaning in a.meanings[:1]:
        for word in meaning.said.split():
            rest = re.sub(rf"^\W*\b{re.escape(word)}\w*\b", "", rest, flags=re.I)
    rest = re.sub(r"^\W*(?:of|for|the|a|is|to|text|label|name|axis|plot|figure|graph|with)\b", "", rest, flags=re.I)
    rest = (
        re.sub(r"^\W*[xyz]?\W*\b(?:axis|label|lab|title|caption|name)?\b", "", rest, flags=re.I) if not rest.strip()[:1].isupper() else rest
    )
    return rest.strip(" =:,()'\"") or default


def _setting(text: str | Callable[[Asked], str]) -> Writer:
    def write(a: Asked, around: Around) -> list[Offer]:
        return [Offer(text if isinstance(text, str) else text(a), setting=True)]

    return write


def _axis_label(which: str) -> Writer:
    def write(a: Asked, around: Around) -> list[Offer]:
        span = f" from {a.spans[0].low} to {a.spans[0].high}" if a.spans else ""
        if span and not a.texts:
            return [Offer(f"{which} axis{span}", setting=True)]
        if not a.texts and re.search(r"\blog", a.text, re.I):
            return [Offer(f"{which} axis, scale logarithmic", setting=True)]
        return [Offer(f'{which} axis "{text_of(a, which)}"{span}', setting=True)]

    return write


def axis_range(which: str) -> Writer:
    """The window of an axis."""

    def write(a: Asked, around: Around) -> list[Offer]:
        span = a.spans[0] if a.spans else None
        numbers = [f.text for f in a.formulas if f.is_constant]
        if span is None and len(numbers) == 2:
            span = Span(None, numbers[0], numbers[1])
        inner = a.first_of("list", "point")
        if span is None and inner is not None and isinstance(inner.inner, tree.ListOf | tree.PointOf) and len(inner.inner.items) == 2:
            span = Span(None, *(n_text(inner, i) for i in inner.inner.items))
        if span is None:
            one = a.places[0] if a.places else numbers[0] if numbers else None
            low, high = ("0", one or "10") if not re.search(r"min", a.text, re.I) else (one or "0", "10")
            span = Span(None, low, high)
        return [Offer(f"{which} axis from {span.low} to {span.high}", setting=True)]

    return write


def _both_labels(a: Asked, around: Around) -> list[Offer]:
    two = a.texts[:2] if len(a.texts) >= 2 else ["x", "y"] if not a.texts else [a.texts[0], "y"]
    return [Offer(f'x axis "{two[0]}"\ny axis "{two[1]}"', setting=True)]


def _axis(a: Asked, around: Around) -> list[Offer]:
    which = re.search(r"\b([xyz])\b|\b([xyz])(?=label|axis|lim|range|title)", a.text)
    if a.spans and not a.texts:
        return axis_range(which.group(1) or which.group(2) if which else "x")(a, around)
    if which:
        return _axis_label(which.group(1) or which.group(2))(a, around)
    return _both_labels(a, around)


def _label(a: Asked, around: Around) -> list[Offer]:
    which = re.search(r"\b([xyz])\b(?!\s*[\^*/+(])|\b([xyz])(?=label|axis)", a.text)
    if which and not a.functions:
        return _axis_label(which.group(1) or which.group(2))(a, around)
    if a.functions:
        return drawn(a, around)
    return [Offer(f'label "{text_of(a, "curve")}"', option=True)]


def _title(a: Asked, around: Around) -> list[Offer]:
    return [Offer(f'title "{text_of(a, "A title")}"', setting=True)]


def _caption(a: Asked, around: Around) -> list[Offer]:
    return [Offer(f'caption "{text_of(a, "What is seen")}"', setting=True)]


def _text_at(a: Asked, around: Around) -> list[Offer]:
    at = next((p for p in a.places if p.startswith("(")), None) or next((f.text for f in a.formulas if f.kind == "point"), None)
    numbers = [f.text for f in a.formulas if f.is_constant]
    if at is None and len(numbers) == 2:
        at = f"({numbers[0]}, {numbers[1]})"
    elif at is None and len(numbers) == 1 and len(a.places) == 1:
        at = f"({a.places[0]}, {numbers[0]})"
    return [Offer(f'text "{text_of(a, "words") if a.texts else "words"}" at {at or "(0, 0)"}', setting=True)]


def _ruled(a: Asked, around: Around) -> list[Offer]:
    points = [f for f in a.formulas if f.kind == "point"]
    values = [f.text for f in a.formulas if f.is_constant] or a.places
    if len(points) == 2 or re.search(r"\barrow\b", a.text, re.I):
        two = [p.text for p in points[:2]] + ["(0, 0)", "(1, 1)"][len(points) :]
        head = ", arrow end" if re.search(r"arrow", a.text, re.I) else ""
        return [Offer(f"line from {two[0]} to {two[1]}{head}", setting=True)]
    equation = next((f for f in a.formulas if f.is_equation), None)
    sides = equation.sides() if equation is not None else None
    named = sides[0] if sides else (a.variables[0] if a.variables else "")
    upright = re.search(r"\bvertical|\bv ?line|upright", a.text, re.I) or named == "x"
    lists = [f.text for f in a.lists]
    value = sides[1] if sides else values[0] if values else lists[0] if lists else a.places[0] if a.places else "0"
    if not (upright or named == "y" or re.search(r"\bhorizontal|\bh ?line|threshold|reference|\bline\b", a.text, re.I)):
        return []
    ruled = re.search(r"\bhorizontal|\bvertical|\bthreshold|\breference", a.text, re.I)
    if a.functions and not all(f.is_constant for f in a.functions) and not sides and not ruled:
        return []
    dress = "".join(f", {o} {v}" for o, v in a.dress.items() if o in ("colour", "width", "dash", "label"))
    return [Offer(f"line {'vertical' if upright else 'horizontal'} at {value}{dress}", setting=True)]


def _line(a: Asked, around: Around) -> list[Offer]:
    lists = [f for f in a.formulas if f.kind in ("list", "points")]
    if lists or (a.against is not None):
        return of_data("line")(a, around)
    if a.functions and not all(f.is_constant for f in a.functions):
        return functions_drawn(a, [f for f in a.formulas if f.kind in ("number", "function", "equation") and not f.is_constant])
    ruled = _ruled(a, around)
    points = [f for f in a.formulas if f.kind == "point"]
    return points_typed(a, points, "line") if len(points) > 2 else ruled or of_data("line")(a, around)


def _mark(a: Asked, around: Around) -> list[Offer]:
    point = a.first_of("point")
    if point is not None:
        return [Offer(f"mark {point.text}", setting=True)]
    named = next((f.text for f in a.formulas if f.text in around.findings), None) or (around.findings[0] if around.findings else None)
    if named is not None:
        return [Offer(f"mark {named}", setting=True)]
    nouns = [m.name for m in a.meanings if m.kind == "noun" and NOUNS[m.name].gives == "finding"]
    noun = nouns[0] if nouns else None
    if noun is None:
        place = next((p for p in a.places if p.startswith("(")), None)
        return [Offer(f"mark {place}", setting=True)] if place else []
    found = WRITERS.get(noun, plain_request(noun))(a, around)
    name = free_name(around, ("r", "places", "found"))
    return [Offer(f"mark {name}", setting=True, above=f"{name} = {o.text}") for o in found if "\n" not in o.text]


def _legend(a: Asked, around: Around) -> list[Offer]:
    corner = " ".join(w for w in ("top", "bottom", "left", "right", "outside") if re.search(rf"\b{w}\b", a.text, re.I))
    corner = corner or {"upper": "top", "lower": "bottom"}.get(next((w for w in ("upper", "lower") if w in a.text.lower()), ""), "")
    return [Offer(f"legend {corner or 'top right'}", setting=True)]


def _grid(a: Asked, around: Around) -> list[Offer]:
    if re.search(r"\b(?:off|no|none|without|remove|hide|false)\b", a.text, re.I):
        return [Offer("no gridlines", setting=True)]
    return [Offer("gridlines " + ("minor" if re.search(r"\bminor|fine", a.text, re.I) else "major"), setting=True)]


def _no(a: Asked, around: Around) -> list[Offer]:
    for word, ours in (
        ("legend", "legend"),
        ("key", "legend"),
        ("grid", "gridlines"),
        ("frame", "frame"),
        ("box", "frame"),
        ("axes", "frame"),
        ("axis", "frame"),
    ):
        if re.search(rf"\b{word}", a.text, re.I):
            return [Offer(f"no {ours}", setting=True)]
    return []


def _size(a: Asked, around: Around) -> list[Offer]:
    numbers = re.findall(r"\d+(?:\.\d+)?", a.text)
    unit = re.search(r"\b(cm|mm|in|inch|inches)\b", a.text)
    factor = {"cm": 10.0, "in": 25.4, "inch": 25.4, "inches": 25.4}.get(unit.group(1) if unit else "mm", 1.0)
    two = [f"{float(n) * factor:g}" for n in numbers[:2]] if len(numbers) >= 2 else ["120", "80"]
    if len(numbers) >= 2 and not unit and float(numbers[0]) < 30:
        two = [f"{float(n) * 10:g}" for n in numbers[:2]]
    elif len(numbers) >= 2 and not unit and float(numbers[0]) > 250:
        two = [f"{float(n) / 5:g}" for n in numbers[:2]]
    return [Offer(f"size {two[0]} mm by {two[1]} mm", setting=True)]


def _view(a: Asked, around: Around) -> list[Offer]:
    numbers = [f.text for f in a.formulas if f.is_constant] or re.findall(r"-?\d+(?:\.\d+)?", a.text)
    if re.search(r"\babove|\btop\b", a.text, re.I):
        return [Offer("view azimuth 270, elevation 90", setting=True)]
    azimuth, elevation = (numbers + ["40", "25"][len(numbers) :])[:2] if len(numbers) < 2 else numbers[:2]
    return [Offer(f"view azimuth {azimuth}, elevation {elevation}", setting=True)]


def _style(a: Asked, around: Around) -> list[Offer]:
    for word, ours in (("black", "grey"), ("gr[ae]y", "grey"), ("slide", "slide"), ("present", "slide"), ("poster", "poster")):
        if re.search(word, a.text, re.I):
            return [Offer(f"style {ours}", setting=True)]
    return [Offer("style print", setting=True)]


def option_of_drawing(a: Asked, around: Around, name: str) -> list[Offer]:
    """An option said alone belongs to the drawing above; with a formula, to that one."""
    if name == "scale":
        which = re.search(r"\b([xy])\b", a.text)
        return [Offer(f"{which.group(1) if which else 'y'} axis, scale logarithmic", setting=True)]
    if name == "direction":
        which = re.search(r"\b([xy])\b", a.text)
        return [Offer(f"{which.group(1) if which else 'y'} axis, direction reversed", setting=True)]
    if name == "ticks":
        which = re.search(r"\b([xy])(?=\b|ticks)", a.text)
        data = a.first_of("list")
        return [Offer(f"{which.group(1) if which else 'x'} axis, ticks {data.text if data else '[0, 1, 2]'}", setting=True)]
    if a.formulas and any(not f.is_constant for f in a.formulas):
        return drawn(a, around)
    value = a.dress.get(name)
    numbers = [f.text for f in a.formulas if f.is_constant]
    defaults = {
        "colour": "brick", "width": "2", "size": "6", "dash": "dashed", "marker": "ring", "opacity": "0.5", "fill": "true",
        "levels": "10", "hatch": "rising", "bins": "12",
    }  # fmt: skip
    value = value or (numbers[0] if numbers and name in ("width", "size", "opacity", "levels", "bins") else None)
    if name == "errors":
        value = (a.lists[0].text if a.lists else numbers[0] if numbers else None) or "0.1"
    if name == "label":
        return _label(a, around)
    if value is None and name == "width" and re.search(r"\bthin", a.text, re.I):
        value = "0.6"
    value = value or defaults.get(name)
    return [Offer(f"{name} {value}", option=True)] if value else []


def dressed_above(a: Asked, around: Around) -> list[Offer]:
    said = ", ".join(f"{o} {v}" for o, v in a.dress.items() if o in _DRAWN_OPTIONS)
    return [Offer(said, option=True)] if said else []


WRITERS.update(
    {
        "line": _line,
        "axis": _axis,
        "title": _title,
        "caption": _caption,
        "text": _text_at,
        "mark": _mark,
        "legend": _legend,
        "gridlines": _grid,
        "no": _no,
        "size": _size,
        "view": _view,
        "style": _style,
        "true": _setting("true scale"),
        "decimal": _setting("decimal comma"),
        "label": _label,
        "x label": _axis_label("x"),
        "y label": _axis_label("y"),
        "z label": _axis_label("z"),
        "x axis": _axis_label("x"),
        "y axis": _axis_label("y"),
        "z axis": _axis_label("z"),
        "x range": axis_range("x"),
        "y range": axis_range("y"),
        "x log": _setting("x axis, scale logarithmic"),
        "y log": _setting("y axis, scale logarithmic"),
        "both log": _setting("x axis, scale logarithmic\ny axis, scale logarithmic"),
        "both labels": _both_labels,
        "no legend": _setting("no legend"),
        "no grid": _setting("no gridlines"),
        "no frame": _setting("no frame"),
        "half width": _setting("style print"),
    }
)
