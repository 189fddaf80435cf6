"""From a figure block to plain drawing data: statements are collected panel by panel, windows agreed on, all of it built."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ...figure.letters import missing_letters
from ...figure.model import FigureData, PanelData
from ...figure.style import THEMES
from ...language import tree
from ...language.messages import Message
from ...record.notation import format_short
from ..evaluate.evaluator import Evaluator
from ..evaluate.refusals import refusal
from ..quantities import window_units
from ..search_window import beyond_data
from .drawables.curve import Curve
from .makers import DrawContext, annotated, drawn_by
from .notes import FigureNote, FigureNotes
from .panel import InsetBuilder, PanelBuilder
from .style import StyleReader, no_letters

MAX_THINGS = 400


class FigureBuilder:
    """Works through the statements of one figure; order among them does not matter.

    number_of   the number of a finding, for marks: (the expression that names it, its value) → text
    """

    def __init__(
        self, scope: Evaluator, line_of: Callable[[int], int], text: str, name: str, node: tree.Node, number_of: Callable[[Any, Any], str]
    ) -> None:
        self.line_of, self.text, self.name, self.number_of = line_of, text, name, number_of
        self.sheet_notes = FigureNotes(line_of, text, *THEMES["paper"].size_mm)
        self.line = line_of(node.start)
        self.panels = [PanelBuilder(scope, self.sheet_notes, self.line, node)]
        self.panel: PanelBuilder = self.panels[0]
        self.style: tree.Style | None = None
        self.size: tree.Size | None = None
        self.headings: dict[str, str] = {}
        self.comma = False
        self.shared: tuple[str, ...] = ()
        self.grid: tuple[int, int] | None = node.grid if isinstance(node, tree.Figure) else None
        self.opened = False  # whether panel blocks were met
        self.inside_panel = False
        self.columns = 1  # of the page, that the style asks for

    # ------------------------------------------------------------ collecting

    @property
    def things(self) -> int:
        return len(self.sheet_notes.ids)

    @property
    def messages(self) -> list[Message]:
        return self.sheet_notes.messages

    @property
    def notes(self) -> list[FigureNote]:
        return self.sheet_notes.notes

    def open_panel(self, panel: tree.Panel, scope: Evaluator) -> None:
        """From here on what comes belongs to this panel."""
        if not self.opened:
            self.panels, self.opened = [], True
        self.panel = PanelBuilder(scope, self.sheet_notes, self.line_of(panel.start), panel)
        self.panel.title, self.inside_panel = panel.title, True
        if panel.title is not None:
            StyleReader(scope, self.text).check_text(panel.title, panel)
        self.panels.append(self.panel)

    def open_inset(self, inset: tree.Inset, scope: Evaluator) -> PanelBuilder:
        """Until `close_inset`, what comes belongs to the inset."""
        outside = self.panel
        builder = InsetBuilder(scope, self.sheet_notes, self.line_of(inset.start), inset)
        outside.insets.append(builder)
        self.panel = builder
        return outside

    def close_inset(self, outside: PanelBuilder) -> None:
        self.panel = outside

    def setting(self, statement: tree.Statement, scope: Evaluator) -> None:
        """A statement that says something of the window or the sheet. Raises Refused."""
        panel = self.panel
        if isinstance(statement, tree.Axis):
            if statement.text is not None:
                StyleReader(scope, self.text).check_text(statement.text, statement)
            panel.axes.said[statement.which] = statement
        elif isinstance(statement, tree.Legend):
            panel.legend = statement
        elif isinstance(statement, tree.Gridlines):
            panel.gridlines = statement.which
        elif isinstance(statement, tree.TrueScale):
            panel.true_scale = statement
        elif isinstance(statement, tree.View):
            panel.view = statement
        elif isinstance(statement, tree.Without):
            if statement.what == "legend":
                panel.no_legend = True
            elif statement.what == "gridlines":
                panel.gridlines = "none"
            else:
                panel.frame = False
        elif isinstance(statement, tree.TextAt | tree.Marked | tree.Ruled):
            self._count(statement)
            for drawn in annotated(DrawContext(scope, self.text), statement, self.number_of):
                panel.add(drawn)
        else:
            self._sheet_setting(statement, scope)

    def _sheet_setting(self, statement: tree.Statement, scope: Evaluator) -> None:
        if isinstance(statement, tree.Heading):
            StyleReader(scope, self.text).check_text(statement.text, statement)
            if self.inside_panel and statement.which == "title":
                self.panel.title = statement.text
            else:
                self.headings[statement.which] = statement.text
        elif isinstance(statement, tree.Size):
            self.size = statement
        elif isinstance(statement, tree.Style):
            self.style = statement
            self.columns = 1
            for option in statement.options:
                assert isinstance(option.value, tree.Expression)
                self.columns = StyleReader(scope, self.text).whole(option, option.value)
                if self.columns not in (1, 2):
                    raise refusal("option-range", f"a figure spans 1 or 2 columns, not {self.columns}", option)
        elif isinstance(statement, tree.Decimal):
            self.comma = statement.which == "comma"
        elif isinstance(statement, tree.Shared):
            self.shared = (*self.shared, statement.which)

    def draw(self, request: tree.Request, scope: Evaluator) -> None:
        """One more thing to be drawn, with the names of the place where it stands (a loop may draw many)."""
        self._count(request)
        scope = scope.noting()
        scope.variable_units.update(window_units(request, scope))
        for thing in drawn_by(DrawContext(scope, self.text), request):
            self.panel.add(thing)
            if isinstance(thing, Curve) and thing.narrowed and thing.low is not None and thing.high is not None:
                source = self.text[thing.subject.start : thing.subject.end]
                text = f"{source} is defined from {format_short(thing.low)} to {format_short(thing.high)} and drawn there"
                self.notes.append(FigureNote(self.line_of(request.start), text))
            if not isinstance(thing, Curve):
                continue
            for span in thing.beyond:
                source = self.text[thing.subject.start : thing.subject.end]
                self.notes.append(FigureNote(self.line_of(request.start), f"{source}: {beyond_data(*span)}"))

    def _count(self, node: tree.Node) -> None:
        if self.things >= MAX_THINGS:
            raise refusal("too-many-things", f"a figure holds at most {MAX_THINGS} drawn things", node)

    # ------------------------------------------------------------ building

    def build(self, title: str | None) -> FigureData:
        """The figure with all its panels. Raises Refused."""
        panels = self.panels
        if not any(p.drawables for p in panels):
            raise refusal("empty-figure", "nothing is drawn in this figure", tree.Node(self._start(self.line), self._start(self.line) + 1))
        for panel in panels:
            panel.agree_on_units()
        rows, columns = self.grid or (len(panels), 1)
        words = self.style.words if self.style is not None else ()
        style = next((w for w in words if w in THEMES), "paper")
        theme = THEMES[style]
        wide = self.style is not None and self.columns == 2
        if self.size is not None:
            self.sheet_notes.width_mm, self.sheet_notes.height_mm = self.size.width, self.size.height
        else:
            self.sheet_notes.width_mm, self.sheet_notes.height_mm = theme.wide_mm if wide else theme.size_mm
            if rows > 1:
                self.sheet_notes.height_mm = round(min(self.sheet_notes.height_mm * (0.55 + 0.45 * rows), 240.0), 1)
        for panel in panels:
            panel.share = (1 / columns, 1 / rows)
        built = self._built(columns)
        figure = FigureData(
            self.name, title, self.line, self.sheet_notes.width_mm, self.sheet_notes.height_mm, built, (rows, columns), self.shared,
            self.headings.get("title"), self.headings.get("caption"), style, "grey" in words, self.comma, self.size is not None,
        )  # fmt: skip
        # What the script wrote was looked at where it stands; names of columns and texts of tables come to the same fonts.
        for text in figure.drawn_texts():
            if letters := missing_letters(text):
                raise no_letters(letters, tree.Node(self._start(self.line), self._start(self.line) + 1))
        return figure

    def _built(self, columns: int) -> list[PanelData]:
        """Panels with their windows; those that share an axis have one that holds all of theirs."""
        panels = self.panels
        windows = [p.natural_x() for p in panels]
        if "x" in self.shared:
            for column in range(columns):
                mine = [k for k in range(len(panels)) if k % columns == column]
                low, high = min(windows[k][0] for k in mine), max(windows[k][1] for k in mine)
                for k in mine:
                    windows[k] = (low, high)
                    self._widen(panels[k], low, high)
        if "y" in self.shared:
            self._share_heights(windows, columns)
        return [p.build(w) for p, w in zip(panels, windows, strict=True)]

    def _widen(self, panel: PanelBuilder, low: float, high: float) -> None:
        """Curves whose window was chosen by the program go on through the shared one."""
        for thing in panel.drawables:
            if isinstance(thing, Curve) and thing.window_is_open:
                thing.low, thing.high = low, high

    def _share_heights(self, windows: list[tuple[float, float]], columns: int) -> None:
        """See which heights each panel would choose; beside each other they then have the same."""
        chosen = [p.heights_for(w) for p, w in zip(self.panels, windows, strict=True)]
        for row in range(-(-len(self.panels) // columns)):
            mine = range(row * columns, min((row + 1) * columns, len(self.panels)))
            spans = [span for k in mine if (span := chosen[k]) is not None]
            for k in mine:
                if spans and chosen[k] is not None:
                    self.panels[k].axes.windows["y"] = min(s[0] for s in spans), max(s[1] for s in spans)

    def _start(self, line: int) -> int:
        return sum(len(t) + 1 for t in self.text.split("\n")[: line - 1])
