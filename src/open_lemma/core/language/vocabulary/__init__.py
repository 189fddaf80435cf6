"""The words of the language, by name."""

from __future__ import annotations

from dataclasses import replace

from . import algebra, curves, data, extrema, integrals, roots, surfaces
from .ideas import IDEAS
from .options import OPTIONS
from .records import Noun, Option, Statement, Topic
from .statements import STATEMENTS as _STATEMENTS
from .values import METHODS, VALUES

NOUNS: dict[str, Noun] = {
    noun.name: replace(noun, family=family.__name__.rpartition(".")[2])
    for family in (roots, extrema, integrals, algebra, curves, data, surfaces)
    for noun in family.NOUNS
}
STATEMENTS: dict[str, Statement] = {statement.name: statement for statement in _STATEMENTS}

__all__ = ["IDEAS", "METHODS", "NOUNS", "OPTIONS", "STATEMENTS", "VALUES", "Noun", "Option", "Statement", "Topic"]
