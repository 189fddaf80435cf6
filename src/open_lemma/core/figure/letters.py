"""Which letters the fonts of figures have. What none has would print as a box, so it is refused by name.

Letters are set one after another, from the left: scripts that are written from the right, or whose letters join or change their place
(The Unicode Standard 15.0, chapters 9, 12, 13, 16), come out wrong even where a font has their letters.
"""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

import matplotlib
from matplotlib.ft2font import FT2Font

from .signs import signs

FONTS = ("STIXGeneral", "DejaVuSans")  # by file; letters that the first has not are taken from the second
_JOINED = ((0x0590, 0x08FF), (0x0900, 0x109F), (0x1780, 0x18AF), (0xFB1D, 0xFDFF), (0xFE70, 0xFEFF))
_TOLD = 8


@lru_cache(1)
def _known() -> frozenset[int]:
    folder = Path(matplotlib.get_data_path()) / "fonts" / "ttf"
    return frozenset().union(*(FT2Font(str(folder / f"{name}.ttf")).get_charmap() for name in FONTS))


def missing_letters(text: str | None) -> list[str]:
    """Letters of a text that cannot be set, in their order, each once."""
    plain = signs(text) or ""
    return [c for c in dict.fromkeys(plain) if ord(c) > 126 and (ord(c) not in _known() or any(a <= ord(c) <= b for a, b in _JOINED))]


def named(letters: list[str]) -> str:
    """The letters as they are told, with their numbers, since the screen may not have them either."""
    said = ", ".join(f"{c} (U+{ord(c):04X})" for c in letters[:_TOLD])
    return said + (f" and {len(letters) - _TOLD} more" if len(letters) > _TOLD else "")


__all__ = ["FONTS", "missing_letters", "named"]
