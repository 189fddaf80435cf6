"""What requests and statements of a figure draw, worked out to numbers and formulas; windows come later."""

from __future__ import annotations

from ....language import tree
from ..drawables.base import Drawable
from . import curves, data, histograms, surfaces
from .annotations import annotated
from .registry import MAKERS, DrawContext


def drawn_by(context: DrawContext, request: tree.Request) -> list[Drawable]:
    """The things that a request draws. Raises Refused."""
    return MAKERS[request.noun](context, request)


__all__ = ["MAKERS", "DrawContext", "annotated", "curves", "data", "drawn_by", "histograms", "surfaces"]
