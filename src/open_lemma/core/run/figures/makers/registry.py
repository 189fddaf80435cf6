"""From the noun of a request to what it draws: each maker says which nouns it reads."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

from ....language import tree
from ...evaluate.evaluator import Evaluator
from ..drawables.base import Drawable
from ..style import StyleReader


@dataclass(frozen=True)
class DrawContext:
    """The names of the place where a request stands, and the text of the script."""

    scope: Evaluator
    text: str

    @cached_property
    def style(self) -> StyleReader:
        return StyleReader(self.scope, self.text)

    def source(self, node: tree.Node) -> str:
        return self.text[node.start : node.end]


Maker = Callable[[DrawContext, tree.Request], list[Drawable]]
MAKERS: dict[str, Maker] = {}


def draws(*nouns: str) -> Callable[[Maker], Maker]:
    """The maker of what these nouns draw; each noun has one."""

    def kept(maker: Maker) -> Maker:
        for noun in nouns:
            assert noun not in MAKERS, noun
            MAKERS[noun] = maker
        return maker

    return kept
