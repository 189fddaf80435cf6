"""Functions given by a `define` block: called by the script, by formulas, by drawings."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from ...formula.entry import Entry
from ...formula.tape import NoScalar
from ...language import tree
from ...language.messages import Refused
from ..enclosed import Enclosing
from ..evaluate.refusals import refusal
from ..values import DefinedFunction, Frame, Scalar, Value, number_value, raw_number
from .blocks import alike, block, moving_in, quick_number
from .state import NOTHING
from .telling import said

if TYPE_CHECKING:
    from .interpreter import Interpreter

MAX_CALLS = 400  # of `define` functions within each other


def define(run: Interpreter, d: tree.Define, frame: Frame) -> Any:
    """A `define` block as a function: of values, and of doubles for drawings."""

    def scalar(*arguments: Any) -> Any:
        found = raw_number(_call(run, d, tuple(arguments)))
        if found is None:
            raise NoScalar(d.name)
        return found

    def numeric(*arguments: Any) -> Any:
        return _called_by_drawing(run, d, arguments)

    arity = (len(d.parameters), len(d.parameters))
    entry = Entry(d.name, "defined", arity, "", "", numeric=numeric, scalar=scalar)
    frame[d.name] = DefinedFunction(d.name, d.parameters, lambda values, _: _called(run, d, values), entry, d)
    run.lost.discard(d.name)
    run.step(d, frame, {d.name: frame[d.name]})
    return NOTHING


def _called(run: Interpreter, d: tree.Define, arguments: tuple[Any, ...]) -> Value:
    """The value of a block; once more with enclosures, where doubles came into it, so that it can be proven."""
    found = _call(run, d, arguments)
    if run.loops.calls or run.loops.depth or not isinstance(found, Scalar) or found.proven:
        return found
    better = Enclosing(run.scope_of(run.names)).called(d, arguments)
    return better if better is not None and alike(better.value, found.value) else found


def _call(run: Interpreter, d: tree.Define, arguments: tuple[Any, ...]) -> Value:
    if len(run.loops.calls) >= MAX_CALLS:
        raise refusal("too-deep", f"{d.name} calls itself more than {MAX_CALLS} times over; does this end?", d)
    frame = Frame({n: v if (raw := raw_number(v) if isinstance(v, Scalar) else None) is None else raw
                   for n, v in zip(d.parameters, arguments, strict=True)}, run.names)  # fmt: skip
    outside, run.loops.moving = run.loops.moving, run.loops.moving | moving_in(run, d)
    run.loops.calls.append(d.name)
    run.loops.depth += 1
    passes, run.loops.passes = run.loops.passes, []
    try:
        run.one_pass(d)
        run.step(d, frame, dict(frame))
        result = block(run, d.body, frame)
    except Refused as trouble:
        raise Refused(run.placed(trouble.message) if run.loops.passes else trouble.message) from None
    finally:
        run.step(d, frame, {}, gone=tuple(frame))
        run.loops.depth -= 1
        run.loops.calls.pop()
        run.loops.moving, run.loops.passes = outside, passes
    if result is NOTHING:
        raise refusal("no-return", f"{d.name} came to its end without a 'return'", d)
    return number_value(result) if not isinstance(result, Value) else result


def give_back(run: Interpreter, statement: tree.Return, frame: Frame) -> Any:
    """A `return`: the value that the function gives."""
    found = quick_number(run, statement.value, frame) if not isinstance(statement.value, tree.Request) else None
    if found is None:
        found = run.scope_of(frame).value(statement.value)
    run.step(statement, frame, {}, note=f"gives {said(found)}")
    return found


def _called_by_drawing(run: Interpreter, d: tree.Define, arguments: tuple[Any, ...]) -> Any:
    """Values for arrays, one by one; NaN where there is none."""
    arrays = np.broadcast_arrays(*(np.asarray(a, dtype=float) for a in arguments)) if arguments else []
    shape = arrays[0].shape if arrays else ()
    found = []
    run.quiet += 1
    try:
        for values in zip(*(a.ravel().tolist() for a in arrays), strict=True) if arrays else [()]:
            try:
                result = _call(run, d, tuple(values))
                found.append(result.value if isinstance(result, Scalar) else float("nan"))
            except Refused as trouble:
                if trouble.message.code in ("too-long", "too-deep", "no-return"):
                    raise
                found.append(float("nan"))
    finally:
        run.quiet -= 1
    return np.array(found).reshape(shape)
