"""Surfaces, level lines and sections."""

from __future__ import annotations

from ....language import tree
from ..drawables.base import Drawable
from ..surface_requests import SpaceCollector
from .registry import DrawContext, draws


def _collector(context: DrawContext) -> SpaceCollector:
    return SpaceCollector(context.scope, context.text, context.style.of_request)


@draws("surface")
def _surfaces(context: DrawContext, request: tree.Request) -> list[Drawable]:
    return [*_collector(context).surfaces(request)]


@draws("contours")
def _contours(context: DrawContext, request: tree.Request) -> list[Drawable]:
    return [*_collector(context).contours(request)]


@draws("section")
def _section(context: DrawContext, request: tree.Request) -> list[Drawable]:
    return [_collector(context).section(request)]
