"""The budget of an uncertain value: how much of its variance comes from each source."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..formula.estimates import Estimates, Origin, dependence, estimated
from ..formula.quantities import bare
from ..language import tree
from ..language.messages import advise
from ..record.rows import Row, TableRow
from .answers import answers
from .evaluate.evaluator import Evaluator
from .evaluate.refusals import refusal
from .findings import FindingDraft
from .search_window import Progress
from .undefined import with_unit
from .values import FunctionValue, ItemsValue, ListValue, Scalar, TableValue, TextValue, Value

ONE_SOURCE = "to first order, with all correlations (JCGM 100:2008, 5.2.2); parameters of one fit, being correlated, are one source"


@answers("budget")
def budget(request: tree.Request, scope: Evaluator, _: Progress) -> tuple[FindingDraft, Value]:
    """The sources of a value, the largest share first. Raises Refused."""
    subject = request.subjects[0]
    number = scope.number(subject)
    found = dependence(bare(number.formula))
    total = 0.0 if found is None else sum(float(by @ by) for by in found[1].values())
    if found is None or not total:
        raise refusal("no-uncertainty", "this rests on nothing that is uncertain", subject, advise("d = 2.50 ± 0.05 is uncertain"))
    unit = None if number.unit is None or number.unit.plain else number.unit
    variances = [(source, float(found[1][source.key] @ found[1][source.key])) for source in found[0]]
    variances.sort(key=lambda pair: -pair[1])
    names = _names(scope)
    labels = [names.get(source.key) or _label(source) for source, _ in variances]
    parts = [float(np.sqrt(v)) for _, v in variances]
    shares = [v / total for _, v in variances]
    rows: list[Row] = [
        TableRow(cells={"source": label, "uncertainty": part, "share": share})
        for label, part, share in zip(labels, parts, shares, strict=True)
    ]
    error = float(np.sqrt(total))
    said = ", ".join(f"{label} {100 * share:.3g} %" for label, share in list(zip(labels, shares, strict=True))[:6])
    summary = f"{with_unit(number.value, error, None if unit is None else str(unit))}; of its variance come from {said}."
    columns: dict[str, ListValue | ItemsValue] = {
        "source": ItemsValue(tuple(TextValue(label) for label in labels)), "uncertainty": ListValue(np.array(parts), unit),
        "share": ListValue(np.array(shares)),
    }  # fmt: skip
    notes = [] if unit is None else [f"uncertainty in {unit}"]
    return FindingDraft(rows, "checked", True, summary, ONE_SOURCE, notes), TableValue("budget", columns)


def _label(source: Estimates) -> str:
    return ", ".join(source.names)


def _names(scope: Evaluator) -> dict[str, str]:
    """The names under which sources were defined: of a typed value its own, of a fit that of its function."""
    found: dict[str, str] = {}
    frame: Any = scope.names
    while frame is not None:
        for name, value in frame.items():
            if isinstance(value, Scalar):
                own = [n.origin for n in estimated(value.formula) if isinstance(n.origin, Origin)]
                if len(own) == 1 and len(own[0].estimates.names) == 1:
                    found.setdefault(own[0].estimates.key, name)
            elif isinstance(value, FunctionValue) and value.source is not None:
                for node in estimated(value.body):
                    if isinstance(node.origin, Origin):
                        label = f"{name} ({_label(node.origin.estimates)})"
                        found.setdefault(node.origin.estimates.key, label)
        frame = frame.outer
    return found
