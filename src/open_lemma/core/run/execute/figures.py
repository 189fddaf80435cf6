"""Figures: their blocks, panels and insets, and drawing requests that stand alone."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any

from ...figure.model import FigureData
from ...language import tree
from ..evaluate.refusals import refusal
from ..figures.builder import FigureBuilder
from ..values import FindingValue, Frame
from .outcome import DrawnFigure
from .state import NOTHING
from .telling import said

if TYPE_CHECKING:
    from .interpreter import Interpreter

MAX_FIGURES = 60


def figure(run: Interpreter, figure: tree.Figure, frame: Frame) -> Any:
    """A figure with its block. Raises Refused."""
    local = Frame({}, frame)
    builder = _new_builder(run, figure, local)
    outside, run.builder = run.builder, builder
    at, run.figure_depth = run.figure_depth, len(run.loops.calls)
    try:
        _body(run, figure.body, local)
        _drawn(run, builder.build(figure.title), builder)
    finally:
        run.builder, run.figure_depth = outside, at
    run.step(figure, frame, {}, note="the figure is drawn")
    return NOTHING


def _new_builder(run: Interpreter, node: tree.Node, frame: Frame) -> FigureBuilder:
    return FigureBuilder(run.scope_of(frame), run.line_of, run.text, _figure_name(run, node), node, partial(_number_of, run))


def _body(run: Interpreter, body: tuple[tree.Statement, ...], local: Frame) -> None:
    """The statements of a figure, panel or inset: definitions first, since order among them does not matter."""
    for inner in body:
        if isinstance(inner, tree.Definition):
            run.carry_out(inner, local)
    # What stands inside of panels comes after what stands in the figure itrun.
    for late in (False, True):
        for inner in body:
            if isinstance(inner, tree.Panel | tree.Inset) == late and not isinstance(inner, tree.Definition):
                run.carry_out(inner, local)


def panel(run: Interpreter, panel: tree.Panel, frame: Frame) -> Any:
    """A panel of the figure that is open."""
    assert run.builder is not None
    local = Frame({}, frame)
    run.builder.open_panel(panel, run.scope_of(local))
    _body(run, panel.body, local)
    run.builder.inside_panel = False
    return NOTHING


def inset(run: Interpreter, inset: tree.Inset, frame: Frame) -> Any:
    """An inset of the panel that is open."""
    assert run.builder is not None
    local = Frame({}, frame)
    outside = run.builder.open_inset(inset, run.scope_of(local))
    _body(run, inset.body, local)
    run.builder.close_inset(outside)
    return NOTHING


def setting(run: Interpreter, statement: tree.Statement, frame: Frame) -> Any:
    """A setting of the figure that is open: axes, legend, size and their like."""
    assert run.builder is not None
    run.builder.setting(statement, run.scope_of(frame))
    run.step(statement, frame, {})
    return NOTHING


def _number_of(run: Interpreter, e: tree.Expression, found: FindingValue) -> str:
    """The number of the finding that a name stands for."""
    del found
    name = next((n.name for n in tree.walk(e) if isinstance(n, tree.Name)), None)
    return str(run.finding_numbers.get(name or "", "?"))


def _figure_name(run: Interpreter, node: tree.Node) -> str:
    """A figure in a loop is one figure a pass: they are numbered."""
    name = run.figure_names[node.start]
    passes = run.figure_passes[node.start] = run.figure_passes.get(node.start, 0) + 1
    if run.loops.passes or run.loops.calls:
        name = f"{name}_{passes}"
        while name in run.figure_names.values():
            name += "_"
    if len(run.outcome.figures) >= MAX_FIGURES:
        raise refusal("too-many-figures", f"a run draws at most {MAX_FIGURES} figures", node)
    return name


def lone_figure(run: Interpreter, request: tree.Request, frame: Frame) -> None:
    """A drawing request outside of figures: a figure of its own."""
    scope = run.scope_of(frame)
    builder = _new_builder(run, request, frame)
    builder.draw(request, scope)
    _drawn(run, builder.build(None), builder)


def _drawn(run: Interpreter, data: FigureData, builder: FigureBuilder) -> None:
    if run.hidden or run.quiet:
        return
    if run.loops.passes and data.title:
        data.title = f"{data.title} ({', '.join(f'{n} = {said(v)}' for n, v in run.loops.passes)})"
    for message in builder.messages:
        run.message(message)
    drawn = DrawnFigure(data, builder.notes, run.part)
    run.outcome.figures.append(drawn)
    run.emit({"event": "figure", "figure": drawn})
