"""What the script says of a drawn thing and of the window and figure around it, as it is written: the inverse of the actions."""

from __future__ import annotations

from dataclasses import dataclass, field

from ..language import tree
from ..language.builtins import Builtins
from .changes import NotInked
from .script import EditedScript


@dataclass(frozen=True, kw_only=True)
class Description:
    """Options by name and as they are written; whether lists are drawn, one against another; the two coordinates of `at (…, …)`; what is
    said of the window and the figure, None where nothing is."""

    options: dict[str, str] = field(default_factory=dict)
    place: list[str] | None = None
    against: bool = False
    title: str | None = None
    caption: str | None = None
    gridlines: str | None = None
    frame: bool = True
    decimal_comma: bool = False


def describe(text: str, builtins: Builtins, line: int, window: int, figure: int) -> Description:
    """line, window, figure: lines of the statement, of its panel or figure, and of the figure. Lines that hold nothing say nothing."""
    script = EditedScript(text, builtins)
    try:
        node = script.dressed(line)
    except NotInked:
        node = None
    at = getattr(node, "at", None)
    own, whole = script.body_of(window), script.body_of(figure)
    headings = {s.which: s.text for s in whole if isinstance(s, tree.Heading)}
    return Description(
        options={} if node is None else {o.name: text[o.value_start : o.end].strip() for o in node.options},
        place=[script.written(i) for i in at.items[:2]] if isinstance(at, tree.PointOf) else None,
        against=getattr(node, "against", None) is not None,
        title=headings.get("title"),
        caption=headings.get("caption"),
        gridlines=next((s.which for s in own if isinstance(s, tree.Gridlines)), None),
        frame=not any(isinstance(s, tree.Without) and s.what == "frame" for s in own),
        decimal_comma=any(isinstance(s, tree.Decimal) and s.which == "comma" for s in whole),
    )
