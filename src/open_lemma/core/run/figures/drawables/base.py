"""What every drawn thing in a window of the plane can be asked; one class for each, in a file of its own."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Literal, Protocol

import numpy as np

from ....figure.model import Floats, Series
from ....formula.nodes import Formula
from ....formula.units import MixedUnits, Unit
from ....language import tree
from ....numerics.curves.sampling import PaperView, Sampled, Sampler
from ....numerics.curves.scales import Scale
from .texts import formula_text

SLIVER = 0.125  # a window in true lengths is no narrower than that
Span = tuple[float, float]
Side = Literal["left", "right"]
AxesFrom = Literal["nothing", "data", "formula", "pair", "own"]


class PanelContext(Protocol):
    """What a drawn thing knows of the panel around it."""

    @property
    def drawables(self) -> Sequence[Drawable]: ...

    def line_of(self, node: tree.Node) -> int: ...
    def say(self, node: tree.Node, text: str) -> None: ...
    def given(self, which: str) -> Span | None: ...
    def scale(self, which: str) -> Any: ...


@dataclass(frozen=True)
class FirstLook:
    """A curve seen on a first grid; finer ones are made from it once the window is known."""

    sampler: Sampler
    first: tuple[Floats, Floats]


@dataclass
class Drawable:
    """One drawn thing. Nothing that is asked of it changes it, but for windows that are chosen for it.

    node   the request or statement that draws it
    style  what its options say: label, colour, width, ...; `right` if it belongs to the right axis

    axes_from   where the words of its axes come from: data have names and units, formulas a variable, `own` both axes
    takes_ink   whether it is counted when inks are given out
    in_space    whether it stands in a box of three axes, and never in the plane
    options_in_space   those that say something of it there; None: all that its noun has
    """

    node: tree.Node
    style: dict[str, Any]

    axes_from: ClassVar[AxesFrom] = "nothing"
    takes_ink: ClassVar[bool] = True
    in_space: ClassVar[bool] = False
    options_in_space: ClassVar[frozenset[str] | None] = None
    units: ClassVar[tuple[Unit | None, Unit | None]] = (None, None)  # of its numbers along both axes
    has_true_lengths: ClassVar[bool] = False  # both its coordinates are lengths of the same kind

    def true_window(self, k: int) -> Span:
        """The span along the first or second coordinate of what has true lengths."""
        raise NotImplementedError(f"{type(self).__name__} has no true lengths")

    @property
    def right(self) -> bool:
        return bool(self.style.get("right"))

    @property
    def side(self) -> Side:
        return "right" if self.right else "left"

    @property
    def keeps_place(self) -> bool:
        """Whether an inset that shows what is around it shows this too."""
        return True

    @property
    def shares_ink(self) -> bool:
        """Whether it has the ink of the thing before it."""
        return False

    def span(self, panel: PanelContext, scale: Scale) -> Span | None:
        """The part of the horizontal axis that should be seen; None where it asks for none. Raises Refused."""
        raise NotImplementedError(f"{type(self).__name__} does not lie in the plane")

    def stands(self, axis: str) -> Floats:
        """The places (n,) along an axis where it stands, for a window that shows nothing else."""
        return np.array([])

    def look(self, x_low: float, x_high: float, scale: Scale) -> FirstLook | None:
        """A first look, for what is sampled along the horizontal axis. Raises Refused where there is nothing to see."""
        return None

    def heights(self, panel: PanelContext, x: Span, look: FirstLook | None) -> list[Floats]:
        """Heights that the vertical window should hold, besides those that were sampled."""
        return []

    def own_heights(self, panel: PanelContext) -> Span | None:
        """The vertical window of what has one of its own."""
        return None

    def series(
        self, name: str, panel: PanelContext, view: PaperView, place: int, look: FirstLook | None, sampled: Sampled | None
    ) -> Series:
        """What is drawn, for that view; place: which ink of the figure's order. Raises Refused."""
        raise NotImplementedError(f"{type(self).__name__} does not lie in the plane")

    def describe(self, panel: PanelContext, view: PaperView, look: FirstLook | None, sampled: Sampled | None) -> None:
        """Say where it is broken and why."""

    def scaled(self, k: int, factor: Formula, unit: Unit) -> None:
        """Bring its numbers along one axis to another unit, by this factor. Raises MixedUnits where it has none."""
        raise MixedUnits("what is drawn has no unit of its own")

    def axis_name(self, which: str) -> str | None:
        """What an axis says because of it: quantity and unit of data, the variable of a formula."""
        return None

    def named_places(self) -> tuple[list[float], list[str]] | None:
        """Places of the horizontal axis that have names instead of numbers."""
        return None

    @property
    def colour_by(self) -> tree.Expression | None:
        """The expression that colours it by a number."""
        option = self.node.option("colour") if isinstance(self.node, tree.Request) else None
        return option.value if option is not None and option.by and isinstance(option.value, tree.Expression) else None

    def copied(self) -> Drawable:
        """The same, to be drawn in another window."""
        return replace(self)


def texts_of(*formulas: Formula) -> list[str] | None:
    """Formulas as texts of the language; None where one cannot be written."""
    found = [formula_text(f) for f in formulas]
    return None if None in found else [t for t in found if t is not None]
