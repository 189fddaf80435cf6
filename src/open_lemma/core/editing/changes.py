"""Ink: edits of a script by program. Each touches only what it means to; all other text stays as it was typed."""

from __future__ import annotations

import re
from collections.abc import Iterator
from difflib import SequenceMatcher

from ..language import tree
from ..language.messages import Edit
from ..language.syntax.parser import Reading
from ..language.vocabulary.names import RESERVED, canonical_name


class NotInked(ValueError):
    """The edit cannot be made; the text says why."""


def applied(text: str, edits: list[Edit]) -> str:
    """The text with edits made; they must not overlap."""
    for edit in sorted(edits, key=lambda e: (e.start, e.end), reverse=True):
        text = text[: edit.start] + edit.text + text[edit.end :]
    return text


def text_of(script: tree.Node, source: str) -> str:
    """A tree back as text, put together from its leaves and what stands between them: always the text it was read from."""

    def pieces(node: tree.Node) -> Iterator[str]:
        place = node.start
        for child in sorted(tree.children(node), key=lambda c: (c.start, c.end)):
            yield source[place : child.start]
            yield from pieces(child)
            place = child.end
        yield source[place : node.end]

    return "".join(pieces(script))


# ---------------------------------------------------------------- values


def tuned(reading: Reading, name: str, value: str) -> list[Edit]:
    """Write a new value into `tune NAME = …`."""
    found = next((n for n in tree.walk(reading.script) if isinstance(n, tree.Tune) and n.name == name), None)
    if found is None:
        raise NotInked(f"there is no tuned value '{name}'")
    place = found.value.value if isinstance(found.value, tree.Quantity) else found.value
    return [Edit(place.start, place.end, value)]


# ---------------------------------------------------------------- renaming

_NAME = re.compile(r"∞|[^\W\d⁰¹²³⁴⁵⁶⁷⁸⁹][^\W⁰¹²³⁴⁵⁶⁷⁸⁹]*")


def renamed(reading: Reading, offset: int, new: str, protected: frozenset[str]) -> list[Edit]:
    """Give the name at a place another one, everywhere where it is the same name: those of loops, functions and windows are their own.

    Raises NotInked where no name stands there, the new one is none, or would run into another.
    """
    places = list(_NamePlaces(reading).all())
    here = next((p for p in places if p.start <= offset <= p.end), None)
    if here is None:
        raise NotInked("there is no name of the script's own here")
    if not _NAME.fullmatch(new) or new in RESERVED:
        raise NotInked(f"'{new}' is no name")
    wanted = canonical_name(new)
    if wanted in protected:
        raise NotInked(f"'{new}' is built in and keeps its meaning")
    same = [p for p in places if p.name == here.name and p.home == here.home]
    homes = {here.home} | {h for p in same for h in p.around}
    if wanted != here.name and any(p.name == wanted and (p.home in homes or here.home in p.around) for p in places):
        raise NotInked(f"'{new}' is the name of something else already")
    return [Edit(p.start, p.end, new) for p in same]


class _Place:
    __slots__ = ("around", "end", "home", "name", "start")

    def __init__(self, name: str, start: int, end: int, home: int, around: tuple[int, ...]) -> None:
        self.name, self.start, self.end, self.home, self.around = name, start, end, home, around


class _NamePlaces:
    """All places where names of the script stand, with the node that each belongs to (-1: the whole script)."""

    def __init__(self, reading: Reading) -> None:
        self.text, self.script = reading.source.text, reading.script
        self.given: set[str] = {n for s in reading.script.statements for n in tree.defined_names(s)}

    def all(self) -> Iterator[_Place]:
        scope: list[tuple[int, frozenset[str]]] = []
        for statement in self.script.statements:
            yield from self._in(statement, scope)

    def _home(self, name: str, scope: list[tuple[int, frozenset[str]]]) -> tuple[int, tuple[int, ...]]:
        around = tuple(node for node, _ in scope)
        for node, names in reversed(scope):
            if name in names:
                return node, around
        return -1, around

    def _place(self, name: str, start: int, end: int, scope: list[tuple[int, frozenset[str]]]) -> _Place:
        return _Place(name, start, end, *self._home(name, scope))

    def _in(self, node: tree.Node, scope: list[tuple[int, frozenset[str]]]) -> Iterator[_Place]:
        bound = frozenset(self._bound(node))
        inner = [*scope, (node.start, bound)] if bound else scope
        if isinstance(node, tree.Name):
            if node.name in self.given or self._home(node.name, scope)[0] >= 0:
                yield self._place(node.name, node.start, node.end, scope)
        elif isinstance(node, tree.Definition | tree.Define | tree.Tune | tree.Table):
            start = node.name_end - len(self._spelling_before(node.name_end))
            yield self._place(node.name, start, node.name_end, scope)
            yield from self._parameters(node, inner)
        elif isinstance(node, tree.Window):
            yield self._place(node.name, node.start, node.name_end, scope)
        # The ends of a window are worked out outside of it, its variable stands inside.
        windows = node.windows if isinstance(node, tree.Request | tree.Comprehension) else ()
        for child in tree.children(node):
            if child in windows or (isinstance(node, tree.For) and child is node.window):
                assert isinstance(child, tree.Window)
                yield self._place(child.name, child.start, child.name_end, inner)
                for part in tree.children(child):
                    yield from self._in(part, scope)
            else:
                yield from self._in(child, inner)

    def _bound(self, node: tree.Node) -> tuple[str, ...]:
        if isinstance(node, tree.Request | tree.Comprehension):
            return tuple(w.name for w in node.windows)
        if isinstance(node, tree.Definition):
            return node.parameters or ()
        if isinstance(node, tree.Define):
            return (*node.parameters, *tree.assigned_names(node))
        return (node.window.name,) if isinstance(node, tree.For) else ()

    def _spelling_before(self, end: int) -> str:
        start = end
        while start > 0 and (self.text[start - 1].isalnum() or self.text[start - 1] == "_"):
            start -= 1
        return self.text[start:end]

    def _parameters(self, node: tree.Statement, scope: list[tuple[int, frozenset[str]]]) -> Iterator[_Place]:
        """The variables in the head of a definition: the tree has their names only."""
        parameters = node.parameters if isinstance(node, tree.Definition | tree.Define) else None
        if not parameters:
            return
        assert isinstance(node, tree.Definition | tree.Define)
        close = self.text.index(")", node.name_end)
        for match in _NAME.finditer(self.text, node.name_end, close):
            yield self._place(canonical_name(match.group()), match.start(), match.end(), scope)
        if isinstance(node, tree.Definition):
            return


# ---------------------------------------------------------------- what has changed


def differences(before: str, after: str) -> list[Edit]:
    """Edits that make one text of another, line by line; of a line only what changed in it."""
    old, new = before.splitlines(keepends=True), after.splitlines(keepends=True)
    starts = [0]
    for line in old:
        starts.append(starts[-1] + len(line))
    found = []
    for tag, a, b, c, d in SequenceMatcher(None, old, new, autojunk=False).get_opcodes():
        if tag != "equal":
            found.append(_trimmed(starts[a], "".join(old[a:b]), "".join(new[c:d])))
    return found


def _trimmed(at: int, old: str, new: str) -> Edit:
    """An edit without what both texts have in common at their beginnings and ends."""
    start = 0
    while start < min(len(old), len(new)) and old[start] == new[start]:
        start += 1
    end = 0
    while end < min(len(old), len(new)) - start and old[-1 - end] == new[-1 - end]:
        end += 1
    return Edit(at + start, at + len(old) - end, new[start : len(new) - end])
