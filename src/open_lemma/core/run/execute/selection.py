"""Which statements are run, and how findings and figures are numbered and named: known from the text alone."""

from __future__ import annotations

from ...language import tree
from ...language.vocabulary import NOUNS


def draws(statement: tree.Statement) -> bool:
    return isinstance(statement, tree.Bare) and isinstance(statement.expression, tree.Request) and NOUNS[statement.expression.noun].draws


def told_places(statement: tree.Statement) -> list[int]:
    """Where the findings of a statement start, in the order of the text; blocks are gone into."""
    if isinstance(statement, tree.Show):
        return [statement.start] if len(statement.items) == 1 else [i.start for i in statement.items]
    if isinstance(statement, tree.Check | tree.Compare) or (isinstance(statement, tree.Bare) and not draws(statement)):
        return [statement.start]
    if isinstance(statement, tree.Definition):
        request = isinstance(statement.body, tree.Request)
        told = request and (statement.parameters is None or NOUNS[statement.body.noun].gives == "function")  # type: ignore[attr-defined]
        return [statement.start] if told else []
    if isinstance(statement, tree.Figure):
        return []
    return [place for body in tree.bodies(statement) for inner in body for place in told_places(inner)]


def numbers_of(script: tree.Script) -> dict[int, int]:
    """The number of each finding by its place: numbers follow the text, whatever is run of it."""
    places = [p for s in script.statements for p in told_places(s)]
    return {place: number for number, place in enumerate(places, 1)}


def figure_names_of(script: tree.Script) -> dict[int, str]:
    """The name of each figure by its place: its own, or `figure_1`, … as the text has them."""
    found: dict[int, str] = {}
    taken = {n.name for n in tree.walk(script) if isinstance(n, tree.Figure) and n.name is not None}

    def named(statement: tree.Statement) -> None:
        if isinstance(statement, tree.Figure) or draws(statement):
            node = statement if isinstance(statement, tree.Figure) else statement.expression  # type: ignore[attr-defined]
            name = statement.name if isinstance(statement, tree.Figure) else None
            if name is None:
                name = f"figure_{len(found) + 1}"
                while name in taken:
                    name += "_"
            found[node.start] = name
            return
        for body in tree.bodies(statement):
            for inner in body:
                named(inner)

    for statement in script.statements:
        named(statement)
    return found


def shown_of(statements: tuple[tree.Statement, ...], only: str | None, onwards: bool) -> list[bool]:
    """Which statements belong to what is to be run."""
    if only is None:
        return [True] * len(statements)
    found, inside = [], False
    for statement in statements:
        if isinstance(statement, tree.Part):
            inside = statement.title == only or (inside and onwards)
        found.append(inside)
    return found


def needed_of(statements: tuple[tree.Statement, ...], shown: list[bool]) -> list[bool]:
    """Which of the others give names that those rest on."""
    names: set[str] = set()
    found = [False] * len(statements)
    for place in range(len(statements) - 1, -1, -1):
        statement = statements[place]
        found[place] = bool(set(tree.defined_names(statement)) & names)
        if shown[place] or found[place]:
            names |= tree.free_names(statement)
    return found
