"""What can be known of a figure block before it is drawn: which words stand where, and what their options may say."""

from __future__ import annotations

from . import tree
from .cursor import Builtins, nearest
from .kinds import WORDS, KindChecker, Scope
from .messages import Fix, advise, replace
from .parser import Reading
from .vocabulary import STATEMENTS
from .vocabulary.names import CORNERS, STYLES

# Words that stand at a window, and words that stand at the figure as a whole.
_WINDOW_WORDS = (
    tree.Axis, tree.Legend, tree.Gridlines, tree.Without, tree.TrueScale, tree.TextAt, tree.Marked, tree.Ruled, tree.Inset, tree.View,
)  # fmt: skip
_SHEET_WORDS = (tree.Size, tree.Style, tree.Decimal, tree.Shared, tree.Panel)
FIGURE_ONLY = (*_WINDOW_WORDS, *_SHEET_WORDS, tree.Heading)


class FigureChecker(KindChecker):
    def __init__(self, reading: Reading, builtins: Builtins) -> None:
        super().__init__(reading, builtins)
        self.figures: set[str] = set()

    def statement(self, statement: tree.Statement, scope: Scope, in_figure: bool = False) -> None:
        raise NotImplementedError

    def option_value(self, option: tree.Option, scope: Scope) -> None:
        raise NotImplementedError

    def _has_error_inside(self, statement: tree.Statement) -> bool:
        raise NotImplementedError

    def _labels(self, value: tree.Expression, scope: Scope) -> None:
        raise NotImplementedError

    # ------------------------------------------------------------ blocks

    def figure(self, figure: tree.Figure, scope: Scope) -> None:
        """Check a figure with all that stands in its block."""
        if figure.name is not None:
            if figure.name in self.figures:
                text = f"there is already a figure '{figure.name}'"
                self.error("figure-name", text, figure.start, figure.head_end, advise("give it another name"))
            self.figures.add(figure.name)
        panels = [s for s in figure.body if isinstance(s, tree.Panel)]
        if figure.grid is not None:
            self._grid(figure, figure.grid, len(panels))
        self._window_body(figure.body, Scope({}, scope), bool(panels))
        drawn = any(_draws(n) for n in tree.walk(figure))
        if not drawn and not self._has_error_inside(figure):
            self.error(
                "empty-figure", "nothing is drawn in this figure", figure.start, figure.head_end,
                advise("curve of f(x) for x from LOW to HIGH"),
            )  # fmt: skip

    def _grid(self, figure: tree.Figure, grid: tuple[int, int], panels: int) -> None:
        rows, columns = grid
        if not (1 <= rows <= 8 and 1 <= columns <= 8):
            self.error("grid", f"a figure has 1 to 8 rows and columns of panels, not {rows} by {columns}", figure.start, figure.head_end)
        elif panels > rows * columns:
            text = f"{rows} by {columns} has room for {rows * columns} panel{'s' if rows * columns > 1 else ''}; there are {panels}"
            self.error("grid", text, figure.start, figure.head_end, advise(f"{-(-panels // columns)} by {columns}"))
        elif not panels and not self._has_error_inside(figure):
            self.error("grid", "a figure of several windows holds panel blocks", figure.start, figure.head_end, advise('panel "title":'))

    def _moved_out(self, inner: tree.Figure) -> Fix:
        """The figure and its block one step to the left."""
        text = self.source.text
        start = text.rfind("\n", 0, inner.start) + 1
        indent = text[start : inner.start]
        lines = text[start : inner.end].split("\n")
        return replace(start, inner.end, "\n".join(line.removeprefix(indent) for line in lines), "move it out of the figure")

    def _window_body(self, body: tuple[tree.Statement, ...], local: Scope, panels: bool = False) -> None:
        seen: dict[str, int] = {}
        for inner in body:
            word = _setting(inner)
            if word is not None and word in seen:
                text = f"'{word}' is said twice in this figure; it stands in line {seen[word]} too"
                self.error("said-twice", text, inner.start, inner.end)
            if word is not None:
                seen.setdefault(word, self.source.line_of(inner.start))
            if isinstance(inner, tree.Figure):
                fixes = [self._moved_out(inner)] if inner is body[-1] else [advise("move it out of the figure")]
                self.error("figure-in-figure", "a figure stands in no other figure", inner.start, inner.head_end, *fixes)
            elif isinstance(inner, tree.Part):
                self.error("part-in-figure", "a part begins outside of figures", inner.start, inner.end)
            elif isinstance(inner, tree.Define):
                self.error(
                    "misplaced", "a define block stands outside of figures", inner.start, inner.head_end,
                    advise("move it out of the figure block"),
                )  # fmt: skip
            elif panels and (isinstance(inner, _WINDOW_WORDS) or _draws(inner)):
                text = "this belongs to one window; the figure has several"
                self.error("panel-needed", text, inner.start, inner.end, advise("move it into a panel block"))
            else:
                self.statement(inner, local, in_figure=True)

    def _panel(self, panel: tree.Panel, scope: Scope) -> None:
        for inner in panel.body:
            if isinstance(inner, _SHEET_WORDS):
                text = "this belongs to the figure as a whole" if not isinstance(inner, tree.Panel) else "a panel stands in no other panel"
                self.error("sheet-word", text, inner.start, inner.end, advise("move it out of the panel"))
        if not any(_draws(n) for n in tree.walk(panel)) and not self._has_error_inside(panel):
            self.error("empty-figure", "nothing is drawn in this panel", panel.start, panel.head_end)
        self._window_body(tuple(s for s in panel.body if not isinstance(s, _SHEET_WORDS)), Scope({}, scope))

    def _inset(self, inset: tree.Inset, scope: Scope) -> None:
        self._corner(inset, inset.words, "an inset")
        if inset.at is not None:
            self._place(inset.at, scope)
        self._options(inset.options, "inset", scope)
        for inner in inset.body:
            if isinstance(inner, (*_SHEET_WORDS, tree.Inset, tree.Legend, tree.Heading)):
                self.error("inset-word", "this does not belong into an inset", inner.start, inner.end, advise("move it out of the inset"))
        kept = tuple(s for s in inset.body if not isinstance(s, (*_SHEET_WORDS, tree.Inset, tree.Legend, tree.Heading)))
        self._window_body(kept, Scope({}, scope))

    # ------------------------------------------------------------ words

    def figure_word(self, statement: tree.Statement, scope: Scope, in_figure: bool) -> None:
        """Check a statement that stands in figures only."""
        if not in_figure:
            text = "this belongs inside a figure block"
            self.error("outside-figure", text, statement.start, statement.end, advise('figure name "title":'))
        elif isinstance(statement, tree.Panel):
            self._panel(statement, scope)
        elif isinstance(statement, tree.Inset):
            self._inset(statement, scope)
        elif isinstance(statement, tree.Axis):
            self._axis(statement, scope)
        elif isinstance(statement, tree.Legend):
            self._corner(statement, statement.words, "a legend")
            if statement.at is not None:
                self._place(statement.at, scope)
            self._options(statement.options, "legend", scope)
        elif isinstance(statement, tree.TextAt | tree.Marked | tree.Ruled):
            self._put(statement, scope)
        elif isinstance(statement, tree.View):
            self._options(statement.options, "view", scope)
        else:
            self._plain_word(statement, scope)

    def _plain_word(self, statement: tree.Statement, scope: Scope) -> None:
        start, end = statement.start, statement.end
        if isinstance(statement, tree.Gridlines) and statement.which not in ("major", "minor"):
            self.error("gridlines", f"gridlines are major or minor, not '{statement.which}'", start, end, advise("gridlines major"))
        elif isinstance(statement, tree.Without) and statement.what not in ("legend", "gridlines", "frame"):
            text = f"a figure has no '{statement.what}' to leave out"
            self.error("without", text, start, end, advise("no legend, no gridlines, no frame"))
        elif isinstance(statement, tree.Size) and not (20 <= statement.width <= 1000 and 20 <= statement.height <= 1000):
            text = f"a figure is 20 to 1000 mm wide and high, not {statement.width:g} by {statement.height:g}"
            self.error("size", text, start, end)
        elif isinstance(statement, tree.Decimal) and statement.which not in ("comma", "point"):
            self.error("decimal", f"the decimal sign is comma or point, not '{statement.which}'", start, end, advise("decimal comma"))
        elif isinstance(statement, tree.Style):
            self._style(statement, scope)

    def _style(self, statement: tree.Style, scope: Scope) -> None:
        for word in statement.words:
            if word not in STYLES:
                self._no_such_word(statement, word, STYLES, "style", f"there is no style '{word}'")
        if len({*statement.words} - {"grey"}) > 1:
            self.error("style", "a figure is made for one purpose", statement.start, statement.end, advise("style print grey"))
        self._options(statement.options, "style", scope)

    def _corner(self, statement: tree.Statement, words: tuple[str, ...], what: str) -> None:
        for word in words:
            known = CORNERS if what == "a legend" else tuple(c for c in CORNERS if c != "outside")
            if word not in known:
                self._no_such_word(statement, word, known, "legend-place", f"'{word}' is no place for {what}")

    def _no_such_word(self, statement: tree.Statement, word: str, known: tuple[str, ...], code: str, text: str) -> None:
        meant = nearest(word, known)
        at = self.source.text.find(word, statement.start, statement.end)
        fixes = [replace(at, at + len(word), meant)] if meant else []
        self.error(code, text, at, at + len(word), *fixes, advice="" if fixes else ", ".join(known))

    def _put(self, statement: tree.TextAt | tree.Marked | tree.Ruled, scope: Scope) -> None:
        if isinstance(statement, tree.TextAt):
            self._labels(statement.text, scope)
            self._place(statement.at, scope)
            self._options(statement.options, "text", scope)
        elif isinstance(statement, tree.Marked):
            kind = self.kind_of(statement.finding, scope)
            if kind not in ("finding", "point", "any", "broken"):
                text = f"a finding or a point is marked; this is {WORDS[kind]}"
                finding = statement.finding
                self.error("mark", text, finding.start, finding.end, advise("r = roots of f(x) for x ..., then mark r"))
            self._options(statement.options, "mark", scope)
        else:
            if statement.which == "from":
                for end in (statement.at, statement.to):
                    if end is not None:
                        self._place(end, scope)
            else:
                self._number(statement.at, scope)
            self._options(statement.options, "line", scope)

    def _place(self, place: tree.Expression, scope: Scope) -> None:
        kind = self.kind_of(place, scope)
        if kind not in ("point", "any", "broken") or (isinstance(place, tree.PointOf) and len(place.items) not in (2, 3)):
            self.error("point-needed", "a point is needed here", place.start, place.end, advise("(x, y), in space (x, y, z)"))

    def _axis(self, axis: tree.Axis, scope: Scope) -> None:
        for end in (axis.low, axis.high):
            if end is not None:
                self._number(end, scope)
        self._options(axis.options, "axis", scope)

    def _options(self, options: tuple[tree.Option, ...], word: str, scope: Scope) -> None:
        known = [o.name for o in STATEMENTS[word].options]
        for option in options:
            if option.name not in known:
                meant = nearest(option.name, known)
                end = option.start + len(option.name)
                what = {"axis": "an axis", "inset": "an inset"}.get(word, f"a {word}")
                fixes = [replace(option.start, end, meant)] if meant else []
                text = f"'{option.name}' is not an option of {what}"
                self.error("unknown-option", text, option.start, option.end, *fixes, advice="" if fixes else ", ".join(known))
            elif option.by:
                self._not_yet("'colour by' here", option.start, option.end)
            elif isinstance(option.value, tree.Expression):
                self.option_value(option, scope)
        self.said_twice(options)


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
