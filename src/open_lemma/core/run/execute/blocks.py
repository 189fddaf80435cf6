"""Blocks: loops, branches, and the statements inside; what is new in a block ends with it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from typing import TYPE_CHECKING, Any

from ...language import tree
from ..enclosed import CLOSE, Enclosing
from ..evaluate.comprehensions import elements, plain_elements
from ..fast_path import FastPathUnavailable, quick_condition, quick_value
from ..values import Frame, raw_number
from .state import NOTHING

if TYPE_CHECKING:
    from .interpreter import Interpreter


def block(run: Interpreter, body: tuple[tree.Statement, ...], frame: Frame) -> Any:
    """The statements of a block in their order; gives the value of a `return` that was met, else NOTHING."""
    quick = run.loops.quick
    for statement in body:
        plain = quick.get(id(statement))
        if plain is not None and type(statement) is tree.Definition:
            try:
                frame[statement.name] = raw = plain(frame)
            except FastPathUnavailable:
                pass
            else:
                run.statements += 1
                if run.trace is not None:
                    run.step(statement, frame, {statement.name: raw})
                continue
        result = run.carry_out(statement, frame)
        if result is not NOTHING:
            return result
    return NOTHING


def _opened(run: Interpreter, statement: tree.Statement, frame: Frame, moving: frozenset[str], work: Callable[[], Any]) -> Any:
    """Run a block; names that are new in it end with it."""
    before = len(frame)  # a dict keeps its order: what is new stands at its end
    outside = run.loops.moving
    if not moving <= outside:
        run.loops.moving = outside | moving
    if run.loops.depth == 0:
        run.loops.quick.clear()
    run.loops.depth += 1
    try:
        return work()
    finally:
        run.loops.depth -= 1
        run.loops.moving = outside
        if len(frame) > before:
            gone = tuple(frame)[before:]
            for name in gone:
                del frame[name]
            run.step(statement, frame, {}, gone=gone)


def moving_in(run: Interpreter, statement: tree.Statement) -> frozenset[str]:
    """The names whose values a block may change, worked out once for each block."""
    found = run.loops.moved.get(id(statement))
    if found is None:
        parameters = statement.parameters if isinstance(statement, tree.Define) else ()
        found = run.loops.moved[id(statement)] = _moving(statement) | frozenset(parameters)
    return found


def for_each(run: Interpreter, loop: tree.For, frame: Frame) -> Any:
    """A `for` loop: its variable is its own, and what is new in its block ends with it."""
    name = loop.window.name
    hidden = frame.get(name, NOTHING) if name in frame else NOTHING

    def work() -> Any:
        values = list(_gone_through(run, loop.window, frame))
        for place, value in enumerate(values):
            frame[name] = value
            run.loops.passes[-1] = (name, value)
            if outermost:
                run.loops.share = place / len(values)
            run.one_pass(loop)
            if run.trace is not None:
                run.step(loop, frame, {name: value})
            result = block(run, loop.body, frame)
            if result is not NOTHING:
                return result
        return NOTHING

    outermost = not run.loops.passes and not run.loops.calls
    before = _before(run, loop, frame) if outermost else {}
    run.loops.passes.append((name, NOTHING))
    result = _opened(run, loop, frame, moving_in(run, loop), work)
    run.loops.passes.pop()
    if outermost:
        run.loops.share = None
        _enclosed_again(run, loop, frame, before)
    if hidden is not NOTHING:
        frame[name] = hidden  # the loop's variable was its own
    return result


def _gone_through(run: Interpreter, window: tree.Window, frame: Frame) -> Iterator[Any]:
    scope = run.scope_of(frame)
    plain = plain_elements(scope, window)
    if plain is not None:
        yield from plain
        return
    for value in elements(scope, window):
        raw = raw_number(value)
        yield value if raw is None else raw


def while_true(run: Interpreter, loop: tree.While, frame: Frame) -> Any:
    """A `while` loop, until its condition no longer holds."""

    def work() -> Any:
        passes = 0
        while _holds(run, loop.condition, frame):
            passes += 1
            run.loops.passes[-1] = ("pass", float(passes))
            run.one_pass(loop)
            if run.trace is not None:
                run.step(loop, frame, {})
            result = block(run, loop.body, frame)
            if result is not NOTHING:
                return result
        run.step(loop, frame, {}, note="the condition no longer holds")
        return NOTHING

    outermost = not run.loops.passes and not run.loops.calls
    before = _before(run, loop, frame) if outermost else {}
    run.loops.passes.append(("pass", 0.0))
    result = _opened(run, loop, frame, moving_in(run, loop), work)
    run.loops.passes.pop()
    if outermost:
        _enclosed_again(run, loop, frame, before)
    return result


def _before(run: Interpreter, loop: tree.For | tree.While, frame: Frame) -> dict[str, Any]:
    """The names that a loop moves, as they are before it."""
    return {n: frame[n] for n in moving_in(run, loop) if n in frame and n != getattr(getattr(loop, "window", None), "name", None)}


def branch(run: Interpreter, statement: tree.If, frame: Frame) -> Any:
    """An `if` with its branches: the first whose condition holds."""
    for branch in statement.branches:
        held = branch.condition is None or _holds(run, branch.condition, frame)
        note = "" if branch.condition is None else "holds" if held else "does not hold"
        if run.trace is not None:
            run.step(branch, frame, {}, note=note)
        if held:
            return _opened(run, statement, frame, moving_in(run, statement), partial(block, run, branch.body, frame))
    return NOTHING


def _holds(run: Interpreter, condition: tree.Expression, frame: Frame) -> bool:
    if run.loops.depth:
        found = _compiled(run, condition, frame, quick_condition)
        if found is not None:
            try:
                return bool(found(frame))
            except FastPathUnavailable:
                pass
    return run.scope_of(frame).truth(condition).truth


def quick_number(run: Interpreter, e: tree.Expression, frame: Frame) -> Any:
    """The plain number of an expression in a loop, or None where the slow way must be gone."""
    found = _compiled(run, e, frame, quick_value)
    if found is None:
        return None
    try:
        return found(frame)
    except FastPathUnavailable:
        return None


def _compiled(run: Interpreter, e: tree.Expression, frame: Frame, make: Callable[..., Any]) -> Any:
    if id(e) not in run.loops.quick:
        run.loops.quick[id(e)] = make(e, run.scope_of(frame), run.loops.moving)
    return run.loops.quick[id(e)]


def _enclosed_again(run: Interpreter, loop: tree.For | tree.While, frame: Frame, before: dict[str, Any]) -> None:
    """Numbers that went through doubles in a loop, once more with enclosures."""
    rounded = [n for n in before if isinstance(frame.get(n), float)]
    if rounded:
        found = Enclosing(run.scope_of(frame)).looped(loop, before)
        frame.update({n: found[n] for n in rounded if n in found and alike(found[n].value, frame[n])})


def _moving(statement: tree.Statement) -> frozenset[str]:
    """Names whose values a block may change while it runs, those of loops inside included."""
    found = set(tree.assigned_names(statement))
    for node in tree.walk(statement):
        if isinstance(node, tree.For):
            found.add(node.window.name)
    return frozenset(found)


def alike(one: float, other: float) -> bool:
    """Whether an enclosed value and a double came the same way."""
    return abs(one - other) <= CLOSE * max(abs(one), abs(other), CLOSE)
