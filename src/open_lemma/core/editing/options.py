"""Options of a statement: written, changed, taken away."""

from __future__ import annotations

from dataclasses import dataclass

from ..language import tree
from ..language.messages import Edit
from ..language.vocabulary import NOUNS, STATEMENTS
from .actions import Action, action
from .changes import NotInked
from .script import Dressed, EditedScript, find_option, option_value, word_of


@action("option")
@dataclass(frozen=True, kw_only=True)
class OptionAction(Action):
    """An option of a statement.

    value         a text of the language; None takes the option away
    kind          "request": a request that computes is meant, not one that draws
    item, others  of a list of curves which one, and what the others have now
    """

    name: str
    value: str | None = None
    kind: str | None = None
    item: int | None = None
    others: list[str] | None = None

    def edits(self, script: EditedScript) -> list[Edit]:
        node = script.dressed(self.line, self.kind)
        known = NOUNS[node.noun].options if isinstance(node, tree.Request) else STATEMENTS[word_of(node)].options
        if all(option.name != self.name for option in known):
            raise NotInked(f"this has no option '{self.name}'")
        value = None if self.value is None else option_value(self.name, self.value)
        if self.item is not None and self.others and len(self.others) > 1 and self.name in ("label", "colour"):
            value = self._listed(script, node, value, self.item, list(self.others))
        return [] if value is None and find_option(node, self.name) is None else [script.with_option(node, self.name, value)]

    def _listed(self, script: EditedScript, node: Dressed, value: str | None, item: int, others: list[str]) -> str:
        option = find_option(node, self.name)
        if option is not None and isinstance(option.value, tree.ListOf) and len(option.value.items) == len(others):
            others = [script.written(i) for i in option.value.items]
        if not 0 <= item < len(others):
            raise NotInked(f"there is no curve {item + 1} in this list")
        others[item] = value if value is not None else others[item]
        if self.name == "colour":
            others = [o if o.startswith('"') else f'"{o}"' for o in others]
        return f"[{', '.join(others)}]"
