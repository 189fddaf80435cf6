"""Histograms of lists."""

from __future__ import annotations

import numpy as np

from ....figure.model import Floats
from ....language import tree
from ....language.messages import advise
from ....record.notation import format_short
from ...evaluate.refusals import refusal
from ...values import ListValue
from ..drawables.base import Drawable
from ..drawables.histogram import Histogram, edges_by_rule
from .data import axis_word
from .registry import DrawContext, draws

_MOST = 400


@draws("histogram")
def _histogram(context: DrawContext, request: tree.Request) -> list[Drawable]:
    """A part holds its lower end and not its upper one, the last part both. Gaps are left out."""
    subject = request.subjects[0]
    values = context.scope.as_list(context.scope.value(subject), subject)
    data = np.asarray(values.data, dtype=float)
    data = data[np.isfinite(data)]
    if not data.size:
        raise refusal("no-points", "there are no numbers to be counted", request)
    said = _said_edges(context, request, data)
    edges = edges_by_rule(data) if said is None else said
    counts, _ = np.histogram(data, edges)
    return [
        Histogram(
            request, context.style.of_request(request, 0, 1), edges=edges, counts=counts.astype(float), by_rule=said is None,
            outside=int(data.size - counts.sum()), text=axis_word(subject, values),
        )
    ]  # fmt: skip


def _said_edges(context: DrawContext, request: tree.Request, data: Floats) -> Floats | None:
    option = request.option("bins")
    if option is None:
        return None
    assert isinstance(option.value, tree.Expression)
    found = context.scope.value(option.value)
    if isinstance(found, ListValue):
        edges = np.unique(np.asarray(found.data, dtype=float))
        widths = np.diff(edges)
        if not 2 <= edges.size <= _MOST + 1 or not np.isfinite(edges).all():
            raise refusal("bins", f"the ends of 1 to {_MOST} parts are needed, not {edges.size} numbers", option)
        if widths.max() - widths.min() > 1e-9 * (edges[-1] - edges[0]):
            least, most = format_short(widths.min()), format_short(widths.max())
            text = f"the parts are equally wide, so that heights compare; here they are {least} to {most} wide"
            raise refusal("bins", text, option, advise("bins 0 to 10 step 2"))
        return edges
    count = context.scope.number(option.value).value
    if count != round(count) or not 1 <= count <= _MOST:
        raise refusal("bins", f"a number of parts is whole, from 1 to {_MOST}, not {format_short(count)}", option, advise("bins 12"))
    low, high = float(data.min()), float(data.max())
    if low == high:
        low, high = low - 0.5, high + 0.5
    return np.linspace(low, high, int(count) + 1)
