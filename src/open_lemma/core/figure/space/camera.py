"""How space falls on paper: parallel rays, so that equal lengths in one direction are equal everywhere.

Azimuth is the angle from the x axis towards the y axis at which the viewer stands, elevation the one above the floor.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np


@dataclass
class Camera:
    """box (3, 2); proportions (3,) of its edges; then paper = origin + factor * (across, up), y upwards.

    Depth grows towards the viewer, in the same lengths.
    """

    box: Any
    proportions: Any
    azimuth: float
    elevation: float
    factor: float = 1.0
    origin: tuple[float, float] = (0.0, 0.0)

    def __post_init__(self) -> None:
        a, e = np.radians([self.azimuth, self.elevation])
        self.towards = np.array([np.cos(e) * np.cos(a), np.cos(e) * np.sin(a), np.sin(e)])
        self.across = np.array([-np.sin(a), np.cos(a), 0.0])
        self.up = np.cross(self.towards, self.across)
        self.box = np.asarray(self.box, dtype=float)
        self.proportions = np.asarray(self.proportions, dtype=float)
        self.stretch = self.proportions / (self.box[:, 1] - self.box[:, 0])
        self.centre = self.box.mean(axis=1)

    def project(self, places: Any) -> Any:
        """Places (n, 3) to (n, 3): across, up, depth on paper."""
        held = (np.asarray(places, dtype=float) - self.centre) * self.stretch
        found = held @ np.stack([self.across, self.up, self.towards], axis=1) * self.factor
        found[..., 0] += self.origin[0]
        found[..., 1] += self.origin[1]
        return found

    def turned(self, normals: Any) -> Any:
        """Normals (n, 3) in the directions across, up and towards the viewer, at length 1."""
        held = normals / self.stretch  # a normal goes with the inverse of what places do
        found = held @ np.stack([self.across, self.up, self.towards], axis=1)
        size = np.linalg.norm(found, axis=1, keepdims=True)
        return found / np.where(size > 0, size, 1.0)

    def scaled(self, factor: float, origin: tuple[float, float]) -> Camera:
        return Camera(self.box, self.proportions, self.azimuth, self.elevation, factor, origin)

    def corners(self) -> Any:
        """The eight corners of the box, (8, 3)."""
        return np.array([[x, y, z] for x in self.box[0] for y in self.box[1] for z in self.box[2]])
