"""Tables, typed or read from a file, with the columns that are worked out from others."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from ...formula.catalogue import BUILTINS
from ...formula.units import parse_unit
from ...language import tree
from ...language.messages import Refused
from ...language.syntax.parser import parse
from ..evaluate.evaluator import Evaluator
from ..evaluate.refusals import refusal
from ..tables import FileTable, file_table, typed_table
from ..values import FindingValue, Frame, ListValue, Scalar, TableValue
from .state import NOTHING

if TYPE_CHECKING:
    from .interpreter import Interpreter


def table(run: Interpreter, t: tree.Table, frame: Frame) -> Any:
    """A table, typed or from a file, with its computed columns. Raises Refused."""
    if t.file is None:
        table = typed_table(t)
    else:
        table, file = file_table(t, run.tables)
        table = _computed(run, t, table, file)
        for note in file.notes:
            run.warn("table-cells", f"{t.file}: {note}", tree.Node(t.start, t.head_end))
        if all(k["name"] != t.file for k in run.outcome.tables):
            said = {name: part for name, part in (("reading", file.reading), ("mending", file.mending)) if part}
            run.outcome.tables.append({"name": t.file, "sha256": file.fingerprint, **said})
    frame[t.name] = table
    run.lost.discard(t.name)
    run.step(t, frame, {t.name: table})
    return NOTHING


def _computed(run: Interpreter, t: tree.Table, table: TableValue, file: FileTable) -> TableValue:
    """Columns that are worked out from the others, in their order."""
    columns = dict(table.columns)
    for name, formula, unit in file.computed:
        reading = parse(f"show {formula}", BUILTINS)
        statements = reading.script.statements
        if reading.messages.has_errors() or len(statements) != 1 or not isinstance(statements[0], tree.Show):
            raise refusal("computed-column", f"the formula of the column '{name}' cannot be read: {formula}", t)
        scope = Evaluator(f"show {formula}", Frame(dict(columns), run.names), run._request_value)
        try:
            value = scope.value(statements[0].items[0])
            value = ListValue(np.full(table.rows, value.value), value.unit) if isinstance(value, Scalar) else value
            value = scope.as_list(value, statements[0].items[0]) if isinstance(value, FindingValue) else value
        except Refused as trouble:
            raise refusal("computed-column", f"the column '{name}' cannot be worked out: {trouble.message.text}", t) from None
        except (KeyError, RecursionError):
            raise refusal("computed-column", f"the formula of the column '{name}' uses a name without a value: {formula}", t) from None
        if not isinstance(value, ListValue) or len(value.data) != table.rows:
            raise refusal("computed-column", f"the column '{name}' must have {table.rows} numbers", t)
        said = parse_unit(unit) if unit else value.unit
        columns[name] = ListValue(value.data, said, exact=value.exact)
    return TableValue(table.name, columns, table.source)
