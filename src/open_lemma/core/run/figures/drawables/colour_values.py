"""Numbers that are shown as colours."""

from __future__ import annotations

import numpy as np

from ....figure.model import Floats
from ....formula.nodes import Formula
from ....formula.tape import Tape


def colour_values(tint: Formula, variable: str, x: Floats) -> Floats:
    """A formula at places (n,); NaN where it has no value."""
    with np.errstate(all="ignore"):
        values = np.asarray(Tape([tint], [variable]).numeric(x)[0], dtype=float)
    return np.where(np.isfinite(values), values, np.nan) * np.ones_like(x)
