"""Edits of a script by program: actions of the stage, renaming, tuned values. Importing this package registers all actions."""

from . import annotations, asking, axes, options, space, words
from .actions import ACTIONS, Action, apply_actions, read_action

__all__ = ["ACTIONS", "Action", "annotations", "apply_actions", "asking", "axes", "options", "read_action", "space", "words"]
