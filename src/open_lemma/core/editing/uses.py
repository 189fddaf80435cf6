"""Which columns of the tables that come from files a script names."""

from __future__ import annotations

from ..language import tree
from ..language.builtins import Builtins
from ..language.syntax.parser import parse


def columns_used(script: str, builtins: Builtins) -> dict[str, frozenset[str] | None]:
    """By the name of the file the columns that are named as `table.column`; None where the table is used as a whole."""
    statements = parse(script, builtins).script.statements
    files = {s.name: s.file for s in statements if isinstance(s, tree.Table) and s.file is not None}
    found: dict[str, set[str] | None] = {file: set() for file in files.values()}
    for statement in statements:
        nodes = list(tree.walk(statement))
        fields = [n for n in nodes if isinstance(n, tree.Field) and isinstance(n.target, tree.Name)]
        inside = {id(n.target) for n in fields}
        for field in fields:
            assert isinstance(field.target, tree.Name)
            columns = found.get(files.get(field.target.name, ""))
            if columns is not None:
                columns.add(field.name)
        for node in nodes:
            if isinstance(node, tree.Name) and id(node) not in inside and node.name in files:
                found[files[node.name]] = None
    return {file: None if columns is None else frozenset(columns) for file, columns in found.items()}
