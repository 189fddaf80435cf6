"""Sentences of the language, written for what somebody asks."""

from .parts import Around, Line, Offer
from .writers import offers, sure_offers

__all__ = ["Around", "Line", "Offer", "offers", "sure_offers"]
