"""Colours by name: our inks, CSS names, and codes."""

from __future__ import annotations

import re

from matplotlib.colors import CSS4_COLORS

from .palette import INK_NAMES, ink_named


def colour_code(text: str) -> str | None:
    """`#rrggbb` for one of our inks, a CSS colour name or a code of six digits; None for anything else."""
    ink = ink_named(text)
    if ink is not None:
        return ink.code
    if re.fullmatch(r"#[0-9a-fA-F]{6}", text):
        return text.upper()
    named = CSS4_COLORS.get(text.lower())
    return named.upper() if named else None


def known_names() -> tuple[str, ...]:
    return (*INK_NAMES, *CSS4_COLORS)
