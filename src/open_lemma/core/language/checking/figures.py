"""Figure blocks: which words stand where, and what their options may say."""

from __future__ import annotations

from .. import tree
from ..messages import Fix, advise, replace
from ..nearness import nearest
from ..shapes import _SHEET_WORDS, _WINDOW_WORDS
from ..vocabulary import STATEMENTS
from ..vocabulary.names import CORNERS, STYLES
from .context import CheckContext
from .kinds import WORDS, Scope
from .options import labels, option_value


def figure(context: CheckContext, figure: tree.Figure, scope: Scope) -> None:
    """Check a figure with all that stands in its block."""
    if figure.name is not None:
        if figure.name in context.figures:
            text = f"there is already a figure '{figure.name}'"
            context.error("figure-name", text, figure.start, figure.head_end, advise("give it another name"))
        context.figures.add(figure.name)
    panels = [s for s in figure.body if isinstance(s, tree.Panel)]
    if figure.grid is not None:
        _grid(context, figure, figure.grid, len(panels))
    _window_body(context, figure.body, Scope({}, scope), bool(panels))
    drawn = any(_draws(n) for n in tree.walk(figure))
    if not drawn and not context.has_error_inside(figure):
        context.error(
            "empty-figure", "nothing is drawn in this figure", figure.start, figure.head_end,
            advise("curve of f(x) for x from LOW to HIGH"),
        )  # fmt: skip


def _grid(context: CheckContext, figure: tree.Figure, grid: tuple[int, int], panels: int) -> None:
    rows, columns = grid
    if not (1 <= rows <= 8 and 1 <= columns <= 8):
        context.error("grid", f"a figure has 1 to 8 rows and columns of panels, not {rows} by {columns}", figure.start, figure.head_end)
    elif panels > rows * columns:
        text = f"{rows} by {columns} has room for {rows * columns} panel{'s' if rows * columns > 1 else ''}; there are {panels}"
        context.error("grid", text, figure.start, figure.head_end, advise(f"{-(-panels // columns)} by {columns}"))
    elif not panels and not context.has_error_inside(figure):
        context.error("grid", "a figure of several windows holds panel blocks", figure.start, figure.head_end, advise('panel "title":'))


def _moved_out(context: CheckContext, inner: tree.Figure) -> Fix:
    """The figure and its block one step to the left."""
    text = context.source.text
    start = text.rfind("\n", 0, inner.start) + 1
    indent = text[start : inner.start]
    lines = text[start : inner.end].split("\n")
    return replace(start, inner.end, "\n".join(line.removeprefix(indent) for line in lines), "move it out of the figure")


def _window_body(context: CheckContext, body: tuple[tree.Statement, ...], local: Scope, panels: bool = False) -> None:
    seen: dict[str, int] = {}
    for inner in body:
        word = _setting(inner)
        if word is not None and word in seen:
            text = f"'{word}' is said twice in this figure; it stands in line {seen[word]} too"
            context.error("said-twice", text, inner.start, inner.end)
        if word is not None:
            seen.setdefault(word, context.source.line_of(inner.start))
        if isinstance(inner, tree.Figure):
            fixes = [_moved_out(context, inner)] if inner is body[-1] else [advise("move it out of the figure")]
            context.error("figure-in-figure", "a figure stands in no other figure", inner.start, inner.head_end, *fixes)
        elif isinstance(inner, tree.Part):
            context.error("part-in-figure", "a part begins outside of figures", inner.start, inner.end)
        elif isinstance(inner, tree.Define):
            context.error(
                "misplaced", "a define block stands outside of figures", inner.start, inner.head_end,
                advise("move it out of the figure block"),
            )  # fmt: skip
        elif panels and (isinstance(inner, _WINDOW_WORDS) or _draws(inner)):
            text = "this belongs to one window; the figure has several"
            context.error("panel-needed", text, inner.start, inner.end, advise("move it into a panel block"))
        else:
            context.statement(inner, local, in_figure=True)


def _panel(context: CheckContext, panel: tree.Panel, scope: Scope) -> None:
    for inner in panel.body:
        if isinstance(inner, _SHEET_WORDS):
            text = "this belongs to the figure as a whole" if not isinstance(inner, tree.Panel) else "a panel stands in no other panel"
            context.error("sheet-word", text, inner.start, inner.end, advise("move it out of the panel"))
    if not any(_draws(n) for n in tree.walk(panel)) and not context.has_error_inside(panel):
        context.error("empty-figure", "nothing is drawn in this panel", panel.start, panel.head_end)
    _window_body(context, tuple(s for s in panel.body if not isinstance(s, _SHEET_WORDS)), Scope({}, scope))


def _inset(context: CheckContext, inset: tree.Inset, scope: Scope) -> None:
    _corner(context, inset, inset.words, "an inset")
    if inset.at is not None:
        _place(context, inset.at, scope)
    _options(context, inset.options, "inset", scope)
    for inner in inset.body:
        if isinstance(inner, (*_SHEET_WORDS, tree.Inset, tree.Legend, tree.Heading)):
            context.error("inset-word", "this does not belong into an inset", inner.start, inner.end, advise("move it out of the inset"))
    kept = tuple(s for s in inset.body if not isinstance(s, (*_SHEET_WORDS, tree.Inset, tree.Legend, tree.Heading)))
    _window_body(context, kept, Scope({}, scope))


def figure_word(context: CheckContext, statement: tree.Statement, scope: Scope, in_figure: bool) -> None:
    """Check a statement that stands in figures only."""
    if not in_figure:
        text = "this belongs inside a figure block"
        context.error("outside-figure", text, statement.start, statement.end, advise('figure name "title":'))
    elif isinstance(statement, tree.Panel):
        _panel(context, statement, scope)
    elif isinstance(statement, tree.Inset):
        _inset(context, statement, scope)
    elif isinstance(statement, tree.Axis):
        _axis(context, statement, scope)
    elif isinstance(statement, tree.Legend):
        _corner(context, statement, statement.words, "a legend")
        if statement.at is not None:
            _place(context, statement.at, scope)
        _options(context, statement.options, "legend", scope)
    elif isinstance(statement, tree.TextAt | tree.Marked | tree.Ruled):
        _put(context, statement, scope)
    elif isinstance(statement, tree.View):
        _options(context, statement.options, "view", scope)
    else:
        _plain_word(context, statement, scope)


def _plain_word(context: CheckContext, statement: tree.Statement, scope: Scope) -> None:
    start, end = statement.start, statement.end
    if isinstance(statement, tree.Gridlines) and statement.which not in ("major", "minor"):
        context.error("gridlines", f"gridlines are major or minor, not '{statement.which}'", start, end, advise("gridlines major"))
    elif isinstance(statement, tree.Without) and statement.what not in ("legend", "gridlines", "frame"):
        text = f"a figure has no '{statement.what}' to leave out"
        context.error("without", text, start, end, advise("no legend, no gridlines, no frame"))
    elif isinstance(statement, tree.Size) and not (20 <= statement.width <= 1000 and 20 <= statement.height <= 1000):
        text = f"a figure is 20 to 1000 mm wide and high, not {statement.width:g} by {statement.height:g}"
        context.error("size", text, start, end)
    elif isinstance(statement, tree.Decimal) and statement.which not in ("comma", "point"):
        context.error("decimal", f"the decimal sign is comma or point, not '{statement.which}'", start, end, advise("decimal comma"))
    elif isinstance(statement, tree.Style):
        _style(context, statement, scope)


def _style(context: CheckContext, statement: tree.Style, scope: Scope) -> None:
    for word in statement.words:
        if word not in STYLES:
            _no_such_word(context, statement, word, STYLES, "style", f"there is no style '{word}'")
    if len({*statement.words} - {"grey"}) > 1:
        context.error("style", "a figure is made for one purpose", statement.start, statement.end, advise("style print grey"))
    _options(context, statement.options, "style", scope)


def _corner(context: CheckContext, statement: tree.Statement, words: tuple[str, ...], what: str) -> None:
    for word in words:
        known = CORNERS if what == "a legend" else tuple(c for c in CORNERS if c != "outside")
        if word not in known:
            _no_such_word(context, statement, word, known, "legend-place", f"'{word}' is no place for {what}")


def _no_such_word(context: CheckContext, statement: tree.Statement, word: str, known: tuple[str, ...], code: str, text: str) -> None:
    meant = nearest(word, known)
    at = context.source.text.find(word, statement.start, statement.end)
    fixes = [replace(at, at + len(word), meant)] if meant else []
    context.error(code, text, at, at + len(word), *fixes, advice="" if fixes else ", ".join(known))


def _put(context: CheckContext, statement: tree.TextAt | tree.Marked | tree.Ruled, scope: Scope) -> None:
    if isinstance(statement, tree.TextAt):
        labels(context, statement.text, scope)
        _place(context, statement.at, scope)
        _options(context, statement.options, "text", scope)
    elif isinstance(statement, tree.Marked):
        kind = context.kind_of(statement.finding, scope)
        if kind not in ("finding", "point", "any", "broken"):
            text = f"a finding or a point is marked; this is {WORDS[kind]}"
            finding = statement.finding
            context.error("mark", text, finding.start, finding.end, advise("r = roots of f(x) for x ..., then mark r"))
        _options(context, statement.options, "mark", scope)
    else:
        if statement.which == "from":
            for end in (statement.at, statement.to):
                if end is not None:
                    _place(context, end, scope)
        elif context.kind_of(statement.at, scope) != "list":
            context.number(statement.at, scope)
        _options(context, statement.options, "line", scope)


def _place(context: CheckContext, place: tree.Expression, scope: Scope) -> None:
    kind = context.kind_of(place, scope)
    if kind not in ("point", "any", "broken") or (isinstance(place, tree.PointOf) and len(place.items) not in (2, 3)):
        context.error("point-needed", "a point is needed here", place.start, place.end, advise("(x, y), in space (x, y, z)"))


def _axis(context: CheckContext, axis: tree.Axis, scope: Scope) -> None:
    for end in (axis.low, axis.high):
        if end is not None:
            context.number(end, scope)
    _options(context, axis.options, "axis", scope)


def _options(context: CheckContext, options: tuple[tree.Option, ...], word: str, scope: Scope) -> None:
    known = [o.name for o in STATEMENTS[word].options]
    for option in options:
        if option.name not in known:
            meant = nearest(option.name, known)
            end = option.start + len(option.name)
            what = {"axis": "an axis", "inset": "an inset"}.get(word, f"a {word}")
            fixes = [replace(option.start, end, meant)] if meant else []
            text = f"'{option.name}' is not an option of {what}"
            context.error("unknown-option", text, option.start, option.end, *fixes, advice="" if fixes else ", ".join(known))
        elif option.by:
            context.not_yet("'colour by' here", option.start, option.end)
        elif isinstance(option.value, tree.Expression):
            option_value(context, option, scope)
    context.said_twice(options)


def _draws(node: tree.Node) -> bool:
    """Whether anything is seen of it: a request, or what is put there by hand."""
    return (isinstance(node, tree.Bare) and isinstance(node.expression, tree.Request)) or isinstance(
        node, tree.TextAt | tree.Marked | tree.Ruled
    )


def _setting(statement: tree.Statement) -> str | None:
    if isinstance(statement, tree.Axis):
        return f"{statement.which} axis"
    if isinstance(statement, tree.Heading):
        return statement.which
    if isinstance(statement, tree.Shared):
        return f"shared {statement.which} axis"
    words: dict[type, str] = {tree.Legend: "legend", tree.Size: "size", tree.Style: "style", tree.TrueScale: "true scale",
                              tree.View: "view"}  # fmt: skip
    return words.get(type(statement))
