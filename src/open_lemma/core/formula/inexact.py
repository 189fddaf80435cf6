"""What went through doubles: a property of the leaves of a formula, which travels with it."""

from __future__ import annotations

from collections.abc import Sequence

from .nodes import Formula, Given, walk


def rests_on_doubles(formula: Formula, apart_from: Sequence[Given] = ()) -> bool:
    """Whether a value in the formula was rounded on its way here, so that nothing can be proven of it."""
    known = {id(n) for n in apart_from}
    return any(isinstance(n, Given) and n.interval is None and id(n) not in known for n in walk(formula))
