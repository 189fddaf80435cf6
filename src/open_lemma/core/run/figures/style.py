"""Options that say how drawn things look, and the texts in a figure, as the script writes them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from ...figure.colours import colour_code, known_names
from ...figure.dates import BadDates, since
from ...figure.draw import BadText, check_text
from ...figure.letters import missing_letters, named
from ...formula.units import Unit
from ...language import tree
from ...language.messages import Refused, advise, replace
from ...language.nearness import nearest
from ...language.vocabulary import NOUNS, OPTIONS
from ...language.vocabulary.options import range_of
from ...record.notation import format_short
from ..evaluate.evaluator import Evaluator
from ..evaluate.refusals import described, refusal
from ..values import PointValue, TextValue


def _drawn(request: tree.Request) -> str:
    return {"curve": "curve", "surface": "surface"}.get(request.noun, "list" if request.against is not None else "curve")


class StyleReader:
    """Works out options with the names of the place where they stand. All of it raises Refused."""

    def __init__(self, scope: Evaluator, text: str) -> None:
        self.scope, self.text = scope, text

    def of_request(self, request: tree.Request, place: int, count: int) -> dict[str, Any]:
        """What the options of a request say of one of its `count` things. Raises Refused."""
        style: dict[str, Any] = {}
        for option in request.options:
            value = option.value
            if option.by or option.name in ("errors", "at", "levels", "by", "bins"):
                continue
            if isinstance(value, tree.ListOf) and option.name in ("label", "colour"):
                if len(value.items) != count:
                    text = f"{len(value.items)} {option.name}s are given for {count} {_drawn(request)}{'s' if count > 1 else ''}"
                    raise refusal("option-count", text, option)
                value = value.items[place]
            self._add(style, option, value)
        # Bars are filled unless it is said that they are not; a pattern is that of a filled area.
        if request.noun in ("bars", "histogram") or ("hatch" in style and NOUNS[request.noun].has_option("fill")):
            style.setdefault("fill", True)
        return style

    def of_statement(self, statement: tree.Statement, options: tuple[tree.Option, ...]) -> dict[str, Any]:
        """What the options of a text, mark or line say. Raises Refused."""
        style: dict[str, Any] = {}
        for option in options:
            self._add(style, option, option.value)
        if "place" in style:
            style["side"] = style.pop("place")
        if isinstance(statement, tree.TextAt):
            style.setdefault("size", 7.0)
        return style

    def _add(self, style: dict[str, Any], option: tree.Option, value: tree.Expression | str) -> None:
        name = option.name
        if name == "label":
            assert isinstance(value, tree.Expression)
            style["label"] = self.label(value)
            self.check_text(style["label"], option)
        elif name == "colour":
            style["colour"] = self._colour(value.value if isinstance(value, tree.Text) else value, option)
        elif name == "axis":
            style["right"] = value == "right"
        elif name == "fill":
            assert isinstance(value, tree.Expression)
            style["fill"] = self.scope.truth(value).truth
        elif isinstance(value, str):
            style[name] = value
        elif OPTIONS[name].kind == "whole":
            style[name] = self.whole(option, value)
        else:
            style[name] = self._measure(option, self.scope.number(value).value)

    def label(self, e: tree.Expression) -> str:
        """A text. Raises Refused for anything else."""
        found = self.scope.value(e)
        if not isinstance(found, TextValue):
            raise refusal("text-needed", f"a label is a text; this is {described(found)}", e)
        return found.text

    def _measure(self, option: tree.Option, value: float) -> float:
        low, high = range_of(OPTIONS[option.name])
        if not low <= value <= high:
            text = f"{option.name} is {low:g} to {high:g}{OPTIONS[option.name].unit}, not {value:g}"
            raise refusal("option-range", text, option)
        return value

    def whole(self, option: tree.Option, e: tree.Expression) -> int:
        """A whole number within the range of its option. Raises Refused."""
        value = self.scope.number(e).value
        low, high = range_of(OPTIONS[option.name])
        if value != round(value) or not low <= value <= high:
            raise refusal("option-range", f"{option.name} is a whole number from {low:g} to {high:g}, not {format_short(value)}", option)
        return int(value)

    def _colour(self, value: Any, option: tree.Option) -> str:
        if not isinstance(value, str):
            raise refusal("colour", "a colour is a name or a code in quotes", option, advise('colour brick, colour "#BC4B2C"'))
        code = colour_code(value)
        if code is None:
            meant = nearest(value, known_names())
            fixes = [replace(option.end - len(value), option.end, meant)] if meant and self.text[option.end - 1] != '"' else []
            raise refusal("colour", f"there is no colour '{value}'", option, *fixes)
        return code

    def check_text(self, text: str, node: tree.Node) -> None:
        """Refuse what cannot be set: letters that no font here has, and mathematics that the typesetter does not know."""
        if letters := missing_letters(text):
            raise no_letters(letters, node)
        try:
            check_text(text)
        except BadText as trouble:
            raise refusal("bad-mathematics", f"the mathematics in this text cannot be typeset: {trouble}", node) from None

    def dates(self, option: tree.Option) -> str:
        """Unit and beginning of numbers that are points in time. Raises Refused."""
        assert isinstance(option.value, tree.Expression)
        text = self.label(option.value)
        try:
            since(text)
        except BadDates as trouble:
            raise refusal("dates", str(trouble), option) from None
        return text

    def point(self, e: tree.Expression) -> tuple[float, float]:
        """A point of two coordinates. Raises Refused."""
        place = self.coordinates(e)
        if len(place) != 2:
            raise refusal("point-needed", "a point of two coordinates is needed here", e, advise("(x, y)"))
        return place[0], place[1]

    def coordinates(self, e: tree.Expression) -> tuple[float, ...]:
        """A point in the plane, or in space."""
        return self.placed(e)[0]

    def placed(self, e: tree.Expression, units: Sequence[Unit | None] = ()) -> tuple[tuple[float, ...], tuple[Unit | None, ...]]:
        """The same with the units of its coordinates; in those `units` where they are given. Raises Refused."""
        found = self.scope.value(e)
        if not isinstance(found, PointValue) or len(found.items) not in (2, 3):
            raise refusal("point-needed", f"a point is needed here; this is {described(found)}", e, advise("(x, y), in space (x, y, z)"))
        items = [self.scope.in_unit(i, u, e) for i, u in zip(found.items, [*units, None, None, None], strict=False)]
        place = tuple(float(i.value) for i in items)
        if not np.isfinite(place).all():
            raise refusal("point-needed", "this point has a coordinate without a value", e)
        return place, tuple(i.unit for i in items)


def no_letters(letters: list[str], node: tree.Node) -> Refused:
    """The refusal of a text that would print as boxes."""
    them = "this letter" if len(letters) == 1 else "these letters"
    return refusal(
        "letters", f"figures have no font that can set {named(letters)}; it would print as a box", node,
        advise(f"write this text without {them}; Latin, Greek and Cyrillic letters and the signs of mathematics are there"),
    )  # fmt: skip
