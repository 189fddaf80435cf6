"""Sentences that draw."""

from __future__ import annotations

import re

from ... import tree
from ...shapes import unwrapped
from ..asked import Asked
from ..formulas import Formula, read_formula
from .parts import (
    WRITERS,
    Around,
    Offer,
    Writer,
    called,
    defined_above,
    dress_of,
    free_of,
    given_values,
    n_text,
    parameters_above,
    place_of,
    solved_name,
    subject_of,
    value_of,
    variable_of,
    window_of,
    windows_of,
)


def drawn(a: Asked, around: Around) -> list[Offer]:
    """Something is to be drawn: what, its kind tells."""
    if a.against is not None:
        return _against(a, around)
    points = [f for f in a.formulas if f.kind in ("point", "points")]
    if points:
        return points_typed(a, points)
    lists = a.lists
    if lists and not a.functions:
        return _lists_drawn(a, lists)
    table = a.first_of("table")
    if table is not None:
        return _table_drawn(table.text, a, around)
    equations = [f for f in a.formulas if f.is_equation]
    if equations and solved_name(equations[0]) is None:
        free = free_of(equations[0])
        if len(free) >= 2:
            two = [n for n in ("x", "y") if n in free] if {"x", "y"} <= set(free) else list(free[:2])
            noun = "surface" if len(free) == 3 and {"x", "y", "z"} <= set(free) else "curve"
            two = ["x", "y", "z"] if noun == "surface" else two
            above = given_values(n for n in free if n not in two)
            return [Offer(f"{above}{noun} of {equations[0].text}{windows_of(a, two)}{dress_of(a, noun)}")]
    conditions = [f for f in a.formulas if f.is_condition]
    if conditions and not a.functions:
        free = conditions[0].free
        return [Offer(f"solution of {conditions[0].text} for {variable_of(a, free)}")]
    if len(a.formulas) > 1 and all(f.is_constant for f in a.formulas):
        listed = read_formula(f"[{', '.join(f.text for f in a.formulas)}]", around.names)
        return _lists_drawn(a, [listed]) if listed is not None else []
    subjects = [f for f in a.formulas if f.kind in ("number", "function", "equation") and not (f.is_constant and len(a.formulas) > 1)]
    if not subjects:
        return _latest_drawn(a, around)
    if len(subjects) == 1 and subjects[0].is_constant and not subjects[0].is_equation and subjects[0].kind == "number":
        if not a.means("draw", "curve"):
            return [Offer(f"show {subjects[0].text}")]
        name = subjects[0].text
        if around.names.find(name) is None:
            return [Offer(f"curve of {name} for x from -5 to 5{dress_of(a)}")]
        return [Offer(f"line horizontal at {name}", setting=True), Offer(f"show {name}")]
    return functions_drawn(a, subjects)


def functions_drawn(a: Asked, subjects: list[Formula]) -> list[Offer]:
    """Functions as curves, as a surface where one of two variables is meant; each in its own variable."""
    above, written = defined_above(subjects)
    free = list(dict.fromkeys(n for f in subjects for n in free_of(f)))
    solved = solved_name(subjects[0])
    if solved is not None and "(" in solved:
        inside = [v.strip() for v in solved[solved.index("(") + 1 : -1].split(",")]
        free = inside + [n for n in free if n not in inside]
    two = _two_variables(subjects[0], free, a) if len(subjects) == 1 else None
    if two is not None:
        return [
            Offer(
                f"{given_values(n for n in free if n not in two)}{above}surface of {written[0]}{windows_of(a, two)}{dress_of(a, 'surface')}"
            )
        ]
    variable = variable_of(a, free)
    variables = [variable]
    for span in a.spans:
        # Nothing is drawn to infinity.
        span.low = "-10" if "infinity" in span.low else span.low
        span.high = "10" if "infinity" in span.high else span.high
    if (
        len(subjects) > 1
        and len({free_of(f) for f in subjects}) > 1
        and not all(variable in free_of(f) or not free_of(f) for f in subjects)
    ):
        # Each has a variable of its own: one curve each.
        lines = []
        for f, said in zip(subjects, written, strict=True):
            own = variable_of(a, free_of(f))
            lines.append(f"    curve of {said}{window_of(a, own)}")
            variables.append(own)
        return [Offer(f"{given_values(n for n in free if n not in variables)}{above}figure:\n" + "\n".join(lines))]
    above = given_values(n for n in free if n != variable) + above
    items = ", ".join(written)
    window = window_of(a, variable, always=len(written) > 1 or (len(free) != 1 and bool(free)))
    if not free and not window:
        window = " for x from -5 to 5"
    subject = f"[{items}]" if len(written) > 1 else items
    return [Offer(f"{above}curve of {subject}{window}{dress_of(a)}")]


def _two_variables(f: Formula, free: list[str], a: Asked) -> list[str] | None:
    """The variables of a surface, where one is meant."""
    if f.kind == "function":
        known = f.names.find(f.text)
        return list(known.parameters) if known is not None and len(known.parameters) == 2 else None
    inner = f.inner
    if isinstance(inner, tree.Call) and isinstance(inner.function, tree.Name):
        known = f.names.find(inner.function.name)
        if known is not None and len(known.parameters) == 2 and len(free) == 2:
            return free
    if solved_name(f) in ("z", "h") or a.means("surface", "contours"):
        pair = [n for n in free if n in ("x", "y", "u", "v", "r", "t")]
        return sorted(pair[:2], key="xyuvrt".index) if len(pair) >= 2 else (free[:2] if len(free) >= 2 else None)
    if {"x", "y"} <= set(free) and solved_name(f) is None:
        return ["x", "y"]
    named = [s.variable for s in a.spans if s.variable in free]
    return named if len(named) == 2 else None


def points_typed(a: Asked, points: list[Formula], noun: str = "points") -> list[Offer]:
    """Places that were typed: points, or a line through them; with a variable in them, a curve."""
    first = points[0]
    if first.kind == "point" and isinstance(first.inner, tree.PointOf):
        parts = [n_text(first, i) for i in first.inner.items]
        free = first.free
        if free:
            variable = variable_of(a, free)
            return [
                Offer(
                    f"{given_values(n for n in free if n != variable)}curve of "
                    f"{first.text}{window_of(a, variable, '0 to 2pi')}{dress_of(a)}"
                )
            ]
        del parts
        return [Offer(f"{noun} of [{', '.join(f.text for f in points if f.kind == 'point')}]{dress_of(a, noun)}")]
    return [Offer(f"{noun} of {first.text}{dress_of(a, noun)}")]


def flat_first(lists: list[Formula]) -> bool:
    """Whether of two lists the first lies on the horizontal axis; the letters may say it, else it is as tables have it."""
    level = re.compile(r"^(?:x|t|time|times|xs|ts|x\w*|t\w*)$", re.I)
    first, second = lists[0].text, lists[1].text
    return bool(level.match(first.split(".")[-1]) or not level.match(second.split(".")[-1]))


def _lists_drawn(a: Asked, lists: list[Formula], noun: str = "points") -> list[Offer]:
    if len(lists) == 1:
        one = lists[0].text
        inner = unwrapped(lists[0].tree)
        count = f"{len(inner.items)}" if isinstance(inner, tree.ListOf) else f"length({one})"
        other = next(
            (n for n in ("xs", "x", "ts", "t") if (k := lists[0].names.find(n)) is not None and k.kind == "list" and n != one), None
        )
        if other is not None:
            return [Offer(f"{noun} of {one} against {other}{dress_of(a, noun)}")]
        return [Offer(f"{noun} of {one} against 1 to {count} step 1{dress_of(a, noun)}")]
    flat, upright = (lists[0], lists[1:]) if flat_first(lists) else (lists[-1], lists[:-1])
    subject = upright[0].text if len(upright) == 1 else f"[{', '.join(f.text for f in upright)}]"
    noun = "line" if len(upright) > 1 and noun == "points" else noun
    return [Offer(f"{noun} of {subject} against {flat.text}{dress_of(a, noun)}")]


def _against(a: Asked, around: Around, noun: str = "points") -> list[Offer]:
    assert a.against is not None
    upright, flat = a.against
    up, along = read_formula(upright, around.names), read_formula(flat, around.names)
    if up is None or along is None:
        return []
    if along.kind == "list" or up.kind == "list":
        return [Offer(f"{noun} of {upright} against {flat}{dress_of(a, noun)}")]
    if along.free == (along.text,):
        # A function over its variable.
        return functions_drawn(Asked(a.text, a.names, a.meanings, [up], a.spans, a.places, a.near, [flat], a.texts, a.dress), [up])
    return []


def _table_drawn(name: str, a: Asked, around: Around, noun: str = "points") -> list[Offer]:
    known = around.names.find(name)
    columns = known.columns if known is not None and known.columns else None
    if columns and len(columns) >= 2:
        two = [f"{name}.{c}" if re.fullmatch(r"[^\W\d]\w*", c) else f'{name}."{c}"' for c in columns[:2]]
        return [Offer(f"{noun} of {two[1]} against {two[0]}{dress_of(a, noun)}")]
    return [Offer(f"{noun} of {name}.y against {name}.x{dress_of(a, noun)}")]


def _latest_drawn(a: Asked, around: Around, noun: str = "curve") -> list[Offer]:
    """Nothing is named: what the script has last, or something to begin with."""
    if around.functions and noun == "curve":
        f = read_formula(around.functions[0], around.names)
        assert f is not None
        return functions_drawn(a, [f])
    if len(around.lists) >= 2:
        found = [f for n in reversed(around.lists[:2]) if (f := read_formula(n, around.names)) is not None]
        return _lists_drawn(a, found, "points" if noun == "curve" else noun)
    if around.tables:
        return _table_drawn(around.tables[0], a, around, "points" if noun == "curve" else noun)
    if noun == "curve":
        span = a.spans[0] if a.spans else None
        return [Offer(f"curve of x^2 for x from {span.low if span else -2} to {span.high if span else 2}{dress_of(a)}")]
    return [Offer(f"xs = [1, 2, 3, 4]\nys = [2.1, 3.9, 6.2, 7.8]\n{noun} of ys against xs")]


def of_data(noun: str) -> Writer:
    """Data drawn by a noun: lists against each other, typed places, columns of a table."""

    def write(a: Asked, around: Around) -> list[Offer]:
        if noun == "points" and (a.functions and not a.lists and a.against is None) and not a.means("mark"):
            return []
        if a.against is not None:
            return _against(a, around, noun)
        points = [f for f in a.formulas if f.kind in ("point", "points")]
        if points and noun in ("points", "line"):
            return points_typed(a, points, noun)
        if a.lists:
            return _lists_drawn(a, a.lists, noun)
        if not a.formulas and a.spans and "count" in a.numbers:
            return [Offer(f"xs = {a.spans[0].low} to {a.spans[0].high} count {a.numbers['count']}")]
        table = a.first_of("table")
        if table is not None:
            return _table_drawn(table.text, a, around, noun)
        return _latest_drawn(a, around, noun) if not a.functions else []

    return write


def _histogram(a: Asked, around: Around) -> list[Offer]:
    bins = f", bins {a.numbers['bins']}" if "bins" in a.numbers else ""
    data = a.lists[0].text if a.lists else around.lists[0] if around.lists else ""
    above = "" if data else "xs = [1.2, 2.1, 2.3, 2.9, 3.4, 3.5, 4.8]\n"
    return [Offer(f"{above}histogram of {data or 'xs'}{bins}{dress_of(a, 'histogram')}")]


def _surface(noun: str) -> Writer:
    def write(a: Asked, around: Around) -> list[Offer]:
        f = next((f for f in a.formulas if f.kind in ("number", "function", "equation") and not f.is_constant), None)
        if f is not None and f.is_equation and solved_name(f) is None and noun == "contours":
            return drawn(a, around)
        if f is None:
            two = [n for n in around.functions if len(getattr(around.names.find(n), "parameters", ())) == 2]
            f = read_formula(two[0], around.names) if two else read_formula("x^2 - y^2", around.names)
        assert f is not None
        point = a.first_of("point")
        if point is not None and isinstance(point.inner, tree.PointOf) and len(point.inner.items) == 3 and noun == "surface":
            return [Offer(f"surface of {point.text}{windows_of(a, point.free[:2], '0 to 2pi')}{dress_of(a, noun)}")]
        free = list(free_of(f))
        above, written = defined_above([f])
        if f.is_equation and solved_name(f) is None:
            return [Offer(f"surface of {f.text}{windows_of(a, ('x', 'y', 'z'))}{dress_of(a, noun)}")]
        two = _two_variables(f, free, a) or (free + [n for n in ("x", "y") if n not in free])[:2]
        levels = f", levels {a.numbers['levels']}" if "levels" in a.numbers and "levels" not in a.dress else ""
        return [
            Offer(
                f"{given_values(n for n in free if n not in two)}{above}{noun} of "
                f"{written[0]}{windows_of(a, two)}{levels}{dress_of(a, noun)}"
            )
        ]

    return write


def _section(a: Asked, around: Around) -> list[Offer]:
    if a.texts and not a.formulas:
        return WRITERS["part"](a, around)
    f = subject_of(a, around)
    if f is None:
        return []
    equation = next((e for e in a.formulas if e.is_equation and e is not f), None)
    place = equation.text if equation is not None else f"{a.variables[-1]} = {a.places[0]}" if a.places and a.variables else "x = 0"
    free = list(free_of(f))
    two = _two_variables(f, free, a) or (free + [n for n in ("x", "y") if n not in free])[:2]
    return [Offer(f"section of {value_of(f)}{windows_of(a, two)}, at {place}{dress_of(a, 'section')}")]


def _band(a: Asked, around: Around) -> list[Offer]:
    functions = [value_of(f) for f in a.formulas if f.kind in ("number", "function", "equation")]
    if not functions and around.functions:
        functions = [called(n, around.names) for n in around.functions[:2]]
    if not functions:
        return []
    low = functions[1] if len(functions) > 1 else "0"
    free = list(dict.fromkeys(n for f in a.formulas for n in free_of(f))) or ["x"]
    variable = variable_of(a, free)
    return [Offer(f"band of {functions[0]} and {low}{window_of(a, variable, '-5 to 5')}{dress_of(a, 'band')}")]


def _tangent(a: Asked, around: Around) -> list[Offer]:
    f = subject_of(a, around)
    if f is None:
        return []
    variable = variable_of(a, free_of(f))
    above, written = defined_above([f])
    place = place_of(a) or "1"
    drawn = f"{above}figure:\n    curve of {written[0]}{window_of(a, variable)}\n    tangent of {written[0]} for {variable}, at {place}"
    if around.in_figure:
        return [Offer(f"tangent of {written[0]} for {variable}, at {place}{dress_of(a, 'tangent')}")]
    return [Offer(parameters_above(a, f, [variable]) + drawn)]


WRITERS.update(
    {
        "curve": drawn,
        "draw": drawn,
        "band": _band,
        "tangent": _tangent,
        "points": of_data("points"),
        "steps": of_data("steps"),
        "bars": of_data("bars"),
        "histogram": _histogram,
        "surface": _surface("surface"),
        "contours": _surface("contours"),
        "section": _section,
    }
)
